"""Surfaces of triangles against closed forms, shapely and planes."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from groundwork.surfaces import NoSurface, lay_mesh

SQUARE = shapely.box(0, 0, 10, 8)
NOTCHED = shapely.Polygon([(0, 0), (17.2, 0), (17.2, 6.4), (12.6, 6.4), (12.6, 10.8), (0, 10.8)])
HOLED = shapely.Polygon([(0, 0), (20, 0), (20, 20), (0, 20)], [[(8, 8), (12, 8), (12, 12), (8, 12)]])
IN_TWO = shapely.MultiPolygon([shapely.box(0, 0, 5, 5), shapely.box(7, 0, 12, 5)])


def scattered(area: shapely.Geometry, count: int, seed: int, corners: bool = True) -> np.ndarray:
    """Random places in an area, none taken for one on its edge, its corners among them."""
    west, south, east, north = area.bounds
    rng = np.random.default_rng(seed)
    places = rng.uniform((west, south), (east, north), (3 * count, 2))
    inside = places[shapely.contains_xy(area.buffer(-0.005), places)][:count]
    return np.vstack([shapely.get_coordinates(area), inside]) if corners else inside


def plane(places: np.ndarray) -> np.ndarray:
    return np.asarray(7.0 + 0.02 * places[:, 0] - 0.013 * places[:, 1])


@settings(max_examples=40, deadline=None)
@given(
    st.sampled_from([SQUARE, NOTCHED, HOLED]),
    st.integers(3, 150),
    st.integers(0, 10_000),
    st.sampled_from([None, 1.5]),
)
def test_planes_come_back_exactly_and_the_area_is_covered_once(area, count, seed, spacing) -> None:
    places = scattered(area, count, seed)
    mesh = lay_mesh(places, area, [shapely.LineString([(1, 1), (9, 6)])], spacing)
    levels = mesh.at_vertices(plane(places))
    assert np.allclose(levels, plane(mesh.points), atol=1e-6)
    assert np.allclose(mesh.gradient(levels), [0.02, -0.013], atol=2e-6)
    assert mesh.areas.sum() == pytest.approx(area.area, rel=1e-9)
    assert (mesh.areas > 0).all()
    assert mesh.region.area == pytest.approx(area.area, rel=1e-9)
    assert mesh.shares.sum() == pytest.approx(area.area, rel=1e-9)


@pytest.mark.parametrize("area", [SQUARE, NOTCHED, HOLED])
@pytest.mark.parametrize("seed", range(4))
def test_edges_holes_and_lines_across_are_edges_of_triangles(area: shapely.Polygon, seed: int) -> None:
    line = shapely.LineString([(1.0, 2.0), (9.5, 7.0)]).intersection(area)
    mesh = lay_mesh(scattered(area, 120, seed), area, [line])
    drawn = shapely.MultiLineString(list(mesh.points[mesh.edges]))
    shapely.prepare(drawn)
    kept = shapely.union_all([area.boundary, line])
    on_them = shapely.points(shapely.get_coordinates(shapely.segmentize(kept, 0.05)))
    assert shapely.dwithin(drawn, on_them, 0.003).all()


@pytest.mark.long
@given(st.integers(0, 10_000), st.integers(5, 14), st.floats(0.06, 0.5))
@settings(max_examples=60)
def test_a_spiky_outline_is_covered_whole_and_no_triangle_lies_across_its_ridge(seed, spikes, depth) -> None:
    """A star with narrow points: what the triangles cover is held against shapely, the kept lines against them."""
    rng = np.random.default_rng(seed)
    angles = np.arange(2 * spikes) * math.pi / spikes
    radii = np.where(np.arange(2 * spikes) % 2, depth * 6, rng.uniform(3, 6, 2 * spikes))
    area = shapely.Polygon(np.column_stack([radii * np.cos(angles), radii * np.sin(angles)]))
    ridge = shapely.LineString([area.exterior.coords[0], area.exterior.coords[2 * (spikes // 2)]]).intersection(area)
    lines = [part for part in shapely.get_parts(ridge) if part.length > 0.05]
    mesh = lay_mesh(scattered(area, 40, seed), area, lines)
    assert mesh.areas.sum() == pytest.approx(area.area, rel=1e-6)
    triangles = shapely.polygons(mesh.points[mesh.triangles])
    for line in lines:
        inside = shapely.intersection(shapely.buffer(triangles, -0.004), line)
        assert shapely.length(inside).max() < 0.01


def test_what_is_beyond_the_places_is_not_known() -> None:
    places = np.array([(2, 2), (6, 2), (6, 6), (2, 6)], dtype=float)
    mesh = lay_mesh(places, SQUARE)
    assert mesh.region.area == pytest.approx(16)
    assert np.isnan(mesh.level_at(mesh.at_vertices(plane(places)), [(1, 1)])).all()
    assert mesh.level_at(mesh.at_vertices(plane(places)), [(3, 4)]) == pytest.approx(plane(np.array([(3, 4)])))


def test_volumes_of_solids() -> None:
    """Closed forms of any text on solid geometry: prism, pyramid, cone, spherical cap."""
    places = scattered(SQUARE, 60, 1)
    mesh = lay_mesh(places, SQUARE)
    assert mesh.volume(mesh.at_vertices(np.full(len(places), 0.15))) == pytest.approx(80 * 0.15)
    wedge = mesh.at_vertices(places[:, 0] / 10)
    assert mesh.volume(wedge) == pytest.approx(80 / 2)
    over, under = mesh.volumes(wedge - 0.5)
    assert (over, under) == (pytest.approx(8 * 5 * 0.5 / 2), pytest.approx(8 * 5 * 0.5 / 2))
    top = np.vstack([shapely.get_coordinates(SQUARE), [(5, 4)]])
    pyramid = lay_mesh(top, SQUARE)
    heights = pyramid.at_vertices([0, 0, 0, 0, 0, 3.0])
    assert pyramid.volume(heights) == pytest.approx(80 * 3 / 3)
    # The tip that stands over two thirds of its height is a pyramid a third as wide each way.
    assert pyramid.volumes(heights - 2)[0] == pytest.approx(80 / 9 * 1 / 3)


@pytest.mark.parametrize("segments", [32, 128])
def test_a_cylinder_a_cone_and_a_cap_to_what_their_facets_miss(segments: int) -> None:
    angles = np.arange(segments) * 2 * np.pi / segments
    ring = np.column_stack([np.cos(angles), np.sin(angles)])
    disc = shapely.Polygon(3 * ring)
    rings = np.vstack([3 * ring * share for share in np.linspace(1, 1 / segments, segments // 2)] + [[(0, 0)]])
    mesh = lay_mesh(rings, disc)
    polygon = segments / 2 * 9 * math.sin(2 * math.pi / segments)
    assert mesh.volume(np.full(len(mesh.points), 0.2)) == pytest.approx(polygon * 0.2)
    away = np.hypot(*rings.T)
    cone = mesh.at_vertices(1 - away / 3)
    assert mesh.volume(cone) == pytest.approx(math.pi * 9 / 3, rel=30 / segments**2)
    # A cap of height h on a base of radius a holds πh(3a² + h²)/6.
    height, radius = 0.4, (9 + 0.16) / 0.8
    cap = mesh.at_vertices(np.sqrt(radius**2 - away**2) - (radius - height))
    assert mesh.volume(cap) == pytest.approx(math.pi * height * (27 + height**2) / 6, rel=60 / segments**2)


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10_000), st.floats(-0.5, 0.5))
def test_what_stands_over_a_level_is_what_shapely_cuts_off(seed: int, level: float) -> None:
    places = scattered(SQUARE, 25, seed)
    rng = np.random.default_rng(seed)
    mesh = lay_mesh(places, SQUARE)
    heights = mesh.at_vertices(rng.normal(0, 0.5, len(places)))
    over = 0.0
    for triangle, corners, slope in zip(
        mesh.triangles, mesh.points[mesh.triangles], mesh.gradient(heights), strict=True
    ):
        # The half plane in which the triangle stands over the level, cut with shapely; a plane over a polygon holds
        # its area times the height at its centroid.
        base = heights[triangle[0]] - level
        steep = float(np.hypot(*slope))
        if steep < 1e-12:
            continue
        way, side = slope / steep, np.array([-slope[1], slope[0]]) / steep
        zero = corners[0] - way * base / steep
        half = shapely.Polygon(
            [zero - 99 * side, zero + 99 * side, zero + 99 * (side + way), zero + 99 * (way - side)]
        )
        part = shapely.Polygon(corners).intersection(half)
        if part.area:
            middle = np.array([part.centroid.x, part.centroid.y])
            over += part.area * (base + float(slope @ (middle - corners[0])))
    assert mesh.volumes(heights - level)[0] == pytest.approx(over, abs=1e-6)


@pytest.mark.parametrize(
    ("places", "says"),
    [
        ([], "0 of the three"),
        ([(1, 1)], "1 of the three"),
        ([(1, 1), (2, 2)], "2 of the three"),
        ([(1, 1), (2, 2), (3, 3), (4, 4.0004)], "in one line"),
        ([(1, 1)] * 4, "1 of the three"),
        ([(30, 30), (31, 30), (30, 31)], "0 of the three"),
        ([(math.nan, 1), (2, 2), (3, 1)], "no finite"),
    ],
)
def test_places_that_make_no_surface_say_why(places: list[tuple[float, float]], says: str) -> None:
    with pytest.raises(NoSurface, match=says):
        lay_mesh(places, SQUARE)


def test_places_shot_twice_count_by_their_mean() -> None:
    places = np.array([(0, 0), (10, 0), (10, 8), (0, 8), (0, 0.001)])
    mesh = lay_mesh(places, SQUARE)
    assert len(mesh.points) == 4
    assert mesh.at_vertices([1, 2, 2, 2, 3])[mesh.vertex_of[0]] == pytest.approx(2)
    assert mesh.vertex_of[0] == mesh.vertex_of[4]


def test_a_place_outside_the_area_is_left_out_and_named() -> None:
    mesh = lay_mesh([(0, 0), (10, 0), (10, 8), (0, 8), (12, 4)], SQUARE)
    assert mesh.left_out == (4,)
    assert mesh.areas.sum() == pytest.approx(80)


def test_an_area_in_two_parts_is_two_surfaces_and_a_part_without_places_is_not_known() -> None:
    places = scattered(IN_TWO, 40, 3)
    mesh = lay_mesh(places, IN_TWO)
    assert mesh.areas.sum() == pytest.approx(50)
    apart = mesh.points[:, 0][mesh.edges]
    assert not ((apart.min(axis=1) < 6) & (apart.max(axis=1) > 6)).any()
    one = lay_mesh(places[places[:, 0] < 6], IN_TWO)
    assert one.region.area == pytest.approx(25)


def test_a_place_across_a_notch_does_not_bend_the_edge() -> None:
    """Stations either side of a wall do not speak for each other's edge."""
    u_shape = shapely.Polygon([(0, 0), (3, 0), (3, 6), (3.4, 6), (3.4, 0), (6.4, 0), (6.4, 8), (0, 8)])
    places = np.vstack([shapely.get_coordinates(u_shape)[:-1], [(1.5, 3), (4.9, 3)], [(1.5, 7), (4.9, 7)]])
    levels = np.where((places[:, 0] > 3.2) & (places[:, 1] < 7), 1.0, 0.0)
    mesh = lay_mesh(places, u_shape, (), 1.0)
    west_of_it = (np.abs(mesh.points[:, 0] - 3) < 0.01) & (mesh.points[:, 1] < 5)
    assert np.abs(mesh.at_vertices(levels)[west_of_it]).max() < 0.05
