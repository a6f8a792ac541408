"""Cuts through surfaces, bands over them, outlets, and what the work on them takes."""

import json

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from test_asbuilt import BASE_ASKED, LAYERS, made, roughly, shot
from test_tin import HOLED, SQUARE, plane, scattered

from groundwork.base import Layer, Role
from groundwork.brief import Outlet
from groundwork.built import AsBuilt, Fix, least_fix, loads, work
from groundwork.built.leastfix import (
    BARROW,
    Change,
    fill_for,
)
from groundwork.cli import main
from groundwork.files import dumps
from groundwork.measures import Unit, format_rain, format_water
from groundwork.plan import Feature, lay
from groundwork.surfaces import bands, label_place, lay_mesh


@given(st.integers(0, 5000), st.floats(-2, 12), st.floats(-2, 10), st.floats(-2, 12), st.floats(-2, 10))
def test_a_profile_is_the_surface_read_along_the_line(seed: int, x1: float, y1: float, x2: float, y2: float) -> None:
    places = scattered(SQUARE, 30, seed)
    mesh = lay_mesh(places, SQUARE)
    levels = mesh.at_vertices(np.random.default_rng(seed).normal(0, 0.02, len(places)))
    x1, y1, x2, y2 = (round(value, 9) for value in (x1, y1, x2, y2))
    length = float(np.hypot(x2 - x1, y2 - y1))
    runs = mesh.profile(levels, (x1, y1), (x2, y2))
    inside = shapely.LineString([(x1, y1), (x2, y2)]).intersection(SQUARE).length
    assert sum(run[-1][0] - run[0][0] for run in runs) == pytest.approx(inside, abs=1e-5)
    for run in runs:
        away, heights = (np.array(column) for column in zip(*run, strict=True))
        assert (np.diff(away) > 0).all()
        between = np.linspace(away[0] + 1e-7, away[-1] - 1e-7, 25)
        spots = np.array((x1, y1)) + between[:, None] / max(length, 1e-9) * np.array((x2 - x1, y2 - y1))
        read = mesh.level_at(levels, spots)
        known = np.isfinite(read)
        assert np.allclose(np.interp(between, away, heights)[known], read[known], atol=1e-6)


def test_a_profile_over_a_hole_is_in_two_runs() -> None:
    places = scattered(HOLED, 120, 2)
    mesh = lay_mesh(places, HOLED)
    runs = mesh.profile(mesh.at_vertices(plane(places)), (0, 10), (20, 10))
    assert [(round(r[0][0], 6), round(r[-1][0], 6)) for r in runs] == [(0, 8), (12, 20)]
    assert mesh.profile(mesh.at_vertices(plane(places)), (3, 3), (3, 3)) == []


def test_bands_cover_what_lies_between_their_limits() -> None:
    """On a plane the band from 0.2 to 0.4 m is a strip of known width."""
    places = scattered(SQUARE, 60, 4)
    mesh = lay_mesh(places, SQUARE)
    found, lines = bands(mesh, mesh.at_vertices(places[:, 0] / 10), [-np.inf, 0.2, 0.4, np.inf])
    areas = []
    for band in found:
        whole = shapely.Polygon(band.rings[0])
        for ring in band.rings[1:]:
            whole = whole.symmetric_difference(shapely.Polygon(ring))
        areas.append(whole.intersection(SQUARE).area)
    assert areas == [pytest.approx(16, rel=0.01), pytest.approx(16, rel=0.01), pytest.approx(48, rel=0.01)]
    assert [line.value for line in lines] == [0.2, 0.4]
    place = label_place(lines[0], mesh.region)
    assert place is not None
    assert place[0] == pytest.approx(2, abs=0.02)


def test_drains_take_what_is_near_them_and_kerbs_nothing() -> None:
    yard = shapely.box(0, 0, 6, 6)
    slot = Feature("drain", "slot", ((0.0, 3.0), (6.0, 3.0)))
    grate = Feature("drain", "gully", ((2.8, 2.8), (3.2, 2.8), (3.2, 3.2), (2.8, 3.2), (2.8, 2.8)))
    kerb = Feature("kerb", "kerb", ((0.0, 0.0), (6.0, 0.0)))
    for feature, out in ((slot, True), (grate, True), (kerb, False)):
        built = shot(made(features=(feature,)))
        assert built.outlets.any() == out
        near = shapely.distance(feature.shape, shapely.points(built.mesh.points[built.outlets]))
        assert (near < 0.3).all()
    along = shot(made(features=(slot,)))
    assert along.outlets.sum() >= 4
    assert (np.abs(along.mesh.points[along.outlets][:, 1] - 3) < 0.15).all()
    assert shapely.covers(yard.buffer(0.01), shapely.MultiPoint(along.mesh.points))


def test_beyond_what_was_shot_water_may_go() -> None:
    job = made(10.0, 10.0, features=())
    stations = [s for s in lay(job.area, 2.0) if s.at[0] < 6]
    part = AsBuilt(job, job.specification.surface("base"), stations)
    assert part.known < 0.7
    assert not part.water.landlocked.any()
    piped = shot(made(features=(), outlet=Outlet("pipe", (3.0, 3.0), 4.0, 9.0)), surface="formation")
    assert piped.outlets.sum() >= 1


def test_what_the_work_takes_is_its_volume_in_barrows_and_stone() -> None:
    built = shot(made(), {"B2": -40})
    fix = least_fix(built, BASE_ASKED, Unit.MILLIMETRES)
    assert isinstance(fix, Fix)
    (change,) = fix.changes
    taken = loads(fix, change)
    assert taken.volume == pytest.approx(fix.filled, rel=0.05)
    stone = built.job.specification.layers[2].made_of
    assert taken.barrows == pytest.approx(taken.volume * stone.bulking / BARROW)
    assert taken.mass == pytest.approx(taken.volume * stone.density)
    # A skin under 40 mm does not knit (common practice, no published source): the top is loosened first.
    assert work(fix, change).text(Unit.MILLIMETRES).startswith("loosen, add")
    trim = Change(change.station, -0.012)
    assert loads(fix, trim).mass == 0
    assert work(fix, trim).text(Unit.MILLIMETRES) == "take off 12 mm"


@pytest.mark.parametrize(
    ("surface", "material"),
    [("formation", "dense-graded"), ("base", "dense-graded"), ("finished", "concrete-sand")],
)
def test_a_low_place_is_filled_with_what_belongs_there(surface: str, material: str) -> None:
    assert fill_for(shot(made(), surface=surface)).key == material


def test_a_bound_base_is_filled_with_itself() -> None:
    bound = (*LAYERS[:2], Layer(Role.BOUND_BASE, "concrete", 0.12), LAYERS[2])
    assert fill_for(shot(made(layers=bound), surface="bound base")).key == "concrete"


@pytest.mark.parametrize("seed", range(4))
def test_filling_puddles_to_the_brim_needs_no_more_fix_for_water(seed: int) -> None:
    built = roughly(seed, 0.02, made(8.0, 6.0))
    risen = built.levels + built.water.depths
    assert built.mesh.volume(risen - built.levels) >= sum(p.volume for p in built.water.puddles) - 1e-9


def test_water_and_rain_are_said_in_the_crews_units() -> None:
    """1 US gallon = 231 cubic inches = 3.785411784 l exactly (NIST Handbook 44, appendix C)."""
    assert format_water(0.0112, Unit.MILLIMETRES) == "11 l"
    assert format_water(0.0012, Unit.METRES) == "1.2 l"
    assert format_water(231 * 0.0254**3 * 20, Unit.FEET_TENTHS) == "20 gal"
    assert format_rain(0.0254 / 3600, Unit.FEET_INCHES) == "1.0 in/h"
    assert format_rain(0.02 / 3600, Unit.METRES) == "20 mm/h"


def test_the_command_line_says_what_stands_and_what_to_do(tmp_path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "yard.json"
    file.write_text(dumps(made()), encoding="utf-8")
    assert main(["assess", str(file)]) == 0
    bare = json.loads(capsys.readouterr().out)
    assert bare["laid"] == []
    assert bare["dug"] is None
    assert all(s["as_built"] is None and "of the three" in s["why"] for s in bare["surfaces"])
