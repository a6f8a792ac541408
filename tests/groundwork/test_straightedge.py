"""The straightedge against a search over every bar, and by hand."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from groundwork.surfaces import Mesh, lay_mesh, straightedge

AREA = shapely.box(0, 0, 8, 6)


def envelope_gap(along: np.ndarray, levels: np.ndarray) -> float:
    """The widest gap under the upper hull of a profile, from its definition."""
    widest = 0.0
    for i in range(len(along)):
        for k in range(i + 2, len(along)):
            share = (along[i + 1 : k] - along[i]) / (along[k] - along[i])
            chord = levels[i] + share * (levels[k] - levels[i])
            widest = max(widest, float((chord - levels[i + 1 : k]).max()))
    return widest


def searched(mesh: Mesh, levels: np.ndarray, vertex: int, length: float, turns: int = 360) -> float:
    """Every degree, the profile read every 5 cm and where it crosses an edge of a triangle."""
    start = mesh.points[vertex]
    lines = shapely.MultiLineString(list(mesh.points[mesh.edges]))
    widest = 0.0
    for angle in np.arange(turns) * 2 * np.pi / turns + 1e-5:
        way = np.array([np.cos(angle), np.sin(angle)])
        bar = shapely.LineString([start, start + way * length]).intersection(AREA)
        if bar.length < 0.01:
            continue
        crossed = shapely.get_coordinates(bar.intersection(lines))
        along = np.unique(
            np.concatenate([(crossed - start) @ way, [1e-6, bar.length - 1e-6]]).clip(1e-6, bar.length - 1e-6)
        )
        profile = mesh.level_at(levels, start + along[:, None] * way)
        known = np.isfinite(profile)
        widest = max(widest, envelope_gap(along[known], profile[known]))
    return widest


@pytest.mark.long
@pytest.mark.parametrize("seed", range(5))
def test_the_widest_gap_is_what_a_search_finds(seed: int) -> None:
    rng = np.random.default_rng(seed)
    places = np.vstack([shapely.get_coordinates(AREA)[:-1], rng.uniform((0.2, 0.2), (7.8, 5.8), (14, 2))])
    mesh = lay_mesh(places, AREA)
    levels = mesh.at_vertices(rng.normal(0, 0.01, len(places)))
    laid = straightedge(mesh, levels, np.arange(len(mesh.points)))
    found = np.array([searched(mesh, levels, v, 3.0) for v in range(len(mesh.points))])
    assert laid.worst is not None
    assert laid.worst.gap == pytest.approx(found.max(), rel=0.01)
    # At each station, in fewer directions: never more than there is, and seldom much less.
    assert (np.nan_to_num(laid.gaps) <= found * 1.01 + 1e-5).all()
    big = found > 0.004
    assert np.median(np.nan_to_num(laid.gaps)[big] / found[big]) > 0.85


@settings(max_examples=40, deadline=None)
@given(st.floats(-0.05, 0.05), st.floats(-0.05, 0.05), st.integers(0, 1000))
def test_no_gap_on_a_plane_or_over_a_hump(east: float, north: float, seed: int) -> None:
    rng = np.random.default_rng(seed)
    places = np.vstack([shapely.get_coordinates(AREA)[:-1], rng.uniform((0.2, 0.2), (7.8, 5.8), (12, 2)), [(4, 3)]])
    mesh = lay_mesh(places, AREA)
    flat = mesh.at_vertices(places @ (east, north))
    worst = straightedge(mesh, flat, np.arange(len(flat))).worst
    assert worst is None or worst.gap < 1e-6


def test_a_trough_2_m_wide_and_20_mm_deep_shows_whole_under_3_m_and_half_under_1_m() -> None:
    """Between its rims, 1 m either side, a 3 m bar bridges all of it; a 1 m bar lies on one slope or over half."""
    places = np.array([(x, y) for x in (0.0, 3.0, 4.0, 5.0, 8.0) for y in (0.0, 3.0, 6.0)])
    mesh = lay_mesh(places, AREA)
    levels = np.where(np.abs(mesh.points[:, 0] - 4) < 0.01, -0.020, 0.0)
    stations = np.flatnonzero(np.abs(mesh.points[:, 1] - 3) < 0.01)
    worst = straightedge(mesh, levels, stations, 3.0).worst
    assert worst is not None
    assert worst.gap == pytest.approx(0.020, abs=1e-5)
    assert worst.at[0] == pytest.approx(4, abs=1e-6)
    # A bar of 2 m from the rim bridges it as well; one of 1.5 m rests on the far slope at half its depth.
    shorter = straightedge(mesh, levels, stations, 1.5).worst
    assert shorter is not None
    assert shorter.gap == pytest.approx(0.020 - 0.010 * 2 / 3, rel=0.02)


def test_gaps_over_the_limit_are_all_found_where_a_limit_is_given() -> None:
    rng = np.random.default_rng(3)
    places = np.vstack([shapely.get_coordinates(AREA)[:-1], rng.uniform((0.2, 0.2), (7.8, 5.8), (60, 2))])
    mesh = lay_mesh(places, AREA)
    levels = mesh.at_vertices(rng.normal(0, 0.006, len(places)))
    every, own = (straightedge(mesh, levels, np.arange(len(levels)), limit=limit) for limit in (0.0, 0.010))
    assert ((every.gaps > 0.010) == (np.nan_to_num(own.gaps) > 0.010)).all()
    assert own.worst == every.worst
    assert straightedge(mesh, levels, []).worst is None
