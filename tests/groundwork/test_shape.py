"""Outlines with curves and holes, against formulas of any text on geometry, numerical integration and brute force."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st

from groundwork.plan import OutlineError
from groundwork.shape import SAGITTA, Ring
from groundwork.shape.ring import bulge_by_radius, bulge_by_rise, bulge_through, circle, smooth

SQUARE = ((0.0, 0.0), (4.0, 0.0), (4.0, 4.0), (0.0, 4.0))


def walked(ring: Ring, side: int, count: int = 2001) -> np.ndarray:
    """Points along a side by what a bulge is alone: the tangent of a quarter of the angle turned through."""
    (x0, y0), (x1, y1) = ring.corners[side], ring.corners[(side + 1) % len(ring.corners)]
    turn = 4 * math.atan(ring.bulges[side])
    shares = np.linspace(0, 1, count)
    if abs(turn) < 1e-12:
        return np.column_stack([x0 + shares * (x1 - x0), y0 + shares * (y1 - y0)])
    # Headings grow evenly along an arc: sum small steps, then scale and turn the whole onto the chord.
    heading = (shares[:-1] + shares[1:]) / 2 * turn
    steps = np.exp(1j * heading)
    line = np.concatenate([[0], np.cumsum(steps)])
    line = line / line[-1] * complex(x1 - x0, y1 - y0) + complex(x0, y0)
    return np.column_stack([line.real, line.imag])


def test_a_circle_has_the_area_and_the_length_of_one() -> None:
    for radius in (0.3, 2.0, 11.5):
        ring = circle((3.0, -2.0), radius)
        assert ring.area == pytest.approx(math.pi * radius**2, rel=1e-12)
        assert ring.length == pytest.approx(2 * math.pi * radius, rel=1e-12)


def test_a_segment_by_rise_over_a_chord() -> None:
    # Chord 4, rise 1: R = (4 + 1) / 2 = 2.5, half angle asin(0.8); area R²(θ − sin θ)/2 = 2.7956, arc R θ = 4.6365.
    ring = Ring(SQUARE, (bulge_by_rise(4.0, 1.0), 0.0, 0.0, 0.0))
    arc = ring.arc(0)
    assert arc is not None and arc.radius == pytest.approx(2.5) and arc.centre == pytest.approx((2.0, 1.5))
    theta = 2 * math.asin(0.8)
    assert ring.side_length(0) == pytest.approx(2.5 * theta) and ring.side_length(1) == 4.0
    assert ring.area == pytest.approx(16 + 2.5**2 * (theta - math.sin(theta)) / 2)
    hollow = Ring(SQUARE, (bulge_by_rise(4.0, -1.0), 0.0, 0.0, 0.0))
    assert hollow.area == pytest.approx(32 - ring.area)


def test_a_bulge_by_its_radius_by_its_rise_and_through_a_point_is_one() -> None:
    # 5 m radius over a chord of 6 m: the centre 4 m off, the rise 1 m, or 9 m the long way round.
    assert bulge_by_radius(6.0, 5.0) == pytest.approx(bulge_by_rise(6.0, 1.0))
    assert bulge_by_radius(6.0, 5.0, long_way=True) == pytest.approx(bulge_by_rise(6.0, 9.0))
    assert bulge_by_radius(6.0, -5.0) == pytest.approx(-bulge_by_rise(6.0, 1.0))
    assert bulge_through((0, 0), (3, -1), (6, 0)) == pytest.approx(bulge_by_rise(6.0, 1.0))
    assert bulge_through((0, 0), (3, 1), (6, 0)) == pytest.approx(bulge_by_rise(6.0, -1.0))
    assert bulge_through((0, 0), (3, 0), (6, 0)) == 0.0
    with pytest.raises(OutlineError, match="radius"):
        bulge_by_radius(6.0, 2.9)
    with pytest.raises(OutlineError, match="one place"):
        bulge_through((0, 0), (0, 0), (6, 0))


@given(st.lists(st.floats(-0.9, 0.9), min_size=4, max_size=4))
def test_area_and_length_by_numerical_integration(bulges: list[float]) -> None:
    ring = Ring(SQUARE, tuple(bulges))
    area = length = 0.0
    for side in range(4):
        points = walked(ring, side)
        (x0, y0), (x1, y1) = points[:-1].T, points[1:].T
        area += float((x0 * y1 - x1 * y0).sum() / 2)  # Green's theorem
        length += float(np.hypot(x1 - x0, y1 - y0).sum())
    assert ring.area == pytest.approx(area, abs=2e-5)
    assert ring.length == pytest.approx(length, abs=2e-5)


@given(st.lists(st.floats(-0.7, 0.7), min_size=4, max_size=4), st.floats(0.25, 8.0))
def test_the_polygon_that_is_worked_with_has_the_curves_own_area_and_stays_within_a_millimetre(bulges, scale) -> None:
    ring = Ring(tuple((x * scale, y * scale) for x, y in SQUARE), tuple(bulges))
    assume(ring.area > 0.5)
    polygon = ring.polygon
    assert polygon.area == pytest.approx(ring.area, rel=1e-8)
    walk = np.concatenate([walked(ring, side, 801) for side in range(4)])
    curve, chords = shapely.LineString(walk), shapely.LineString([*ring.flat, ring.flat[0]])
    for line in (polygon.exterior, chords):
        middles = shapely.line_interpolate_point(line, np.linspace(0, 1, 400), normalized=True)
        assert float(shapely.distance(line, shapely.points(walk[::5])).max()) <= 1.05 * SAGITTA
        assert float(shapely.distance(curve, middles).max()) <= 1.05 * SAGITTA
    assert float(shapely.distance(curve, shapely.points(ring.flat)).max()) < 1e-5 * max(scale, 1)
    assert set(ring.corners) <= set(ring.flat)


def test_where_an_arc_is_by_share_of_its_length() -> None:
    # Half a circle of 2 m over the side from 0, 0 to 4, 0, outward of a ring that goes round to the left.
    ring = Ring(SQUARE, (1.0, 0.0, 0.0, 0.0))
    assert ring.at(0, 0.5) == pytest.approx((2.0, -2.0)) and ring.at(0, 1.0) == pytest.approx((4.0, 0.0))
    assert ring.at(1, 0.25) == pytest.approx((4.0, 1.0))
    assert ring.at(0, 0.25) == pytest.approx((2 - math.sqrt(2), -math.sqrt(2)))


def test_a_ring_goes_round_to_the_left_whichever_way_it_was_given() -> None:
    ring = Ring(SQUARE, (0.5, 0.0, -0.2, 0.0))
    turned = Ring(tuple(reversed(SQUARE)), (0.2, 0.0, -0.5, 0.0)).counter_clockwise
    assert turned.area == pytest.approx(ring.area) and turned.corners[0] == SQUARE[3]
    assert shapely.hausdorff_distance(turned.polygon, ring.polygon) < 1e-9


@given(st.integers(0, 10_000))
def test_a_smooth_line_goes_through_its_points_without_a_kink(seed: int) -> None:
    draw = np.random.default_rng(seed)
    angles = np.sort(draw.uniform(0, 2 * math.pi, 7) * 0.1 + np.arange(7) * 2 * math.pi / 7)
    points = [(float(r * math.cos(a)), float(r * math.sin(a)))
              for r, a in zip(draw.uniform(2, 4, 7), angles, strict=True)]  # fmt: skip
    ring = smooth(points)
    assert all(min(math.dist(p, q) for q in ring.corners) < 1e-9 for p in points)
    for side in range(len(ring.corners)):
        ends, begins = walked(ring, side, 4001)[-2:], walked(ring, (side + 1) % len(ring.corners), 4001)[:2]
        one, other = ends[1] - ends[0], begins[1] - begins[0]
        turned = math.atan2(one[0] * other[1] - one[1] * other[0], float(one @ other))
        assert abs(turned) < 0.01


@pytest.mark.parametrize(("corners", "bulges", "says"), [
    (SQUARE, (0.0, 0.0, 0.0), "as many"),
    (SQUARE, (-1.3, 0.0, -1.3, 0.0), "crosses or touches itself"),  # two arcs that meet inside
    (((0, 0), (4, 0)), (0.0, 0.0), "encloses"),
    (((0, 0), (4, 0)), (0.5, -0.5), "encloses"),
    (SQUARE, (60.0, 0.0, 0.0, 0.0), "nearly all of a circle"),
    (tuple((n % 2 * 9e6, float(n)) for n in range(400)), (1.0, -1.0) * 200, "longer than any"),
    (((0, 0), (4, 4), (4, 0), (0, 4)), (0.0,) * 4, "crosses or touches itself"),
    (((0, 0), (4, 0), (4, math.nan)), (0.0,) * 3, "no finite place"),
    (tuple((math.cos(a), math.sin(a)) for a in np.linspace(0, 6.28, 1001)), (0.0,) * 1001, "more than 500 corners"),
    (SQUARE, (math.inf, 0.0, 0.0, 0.0), "no finite"),
])  # fmt: skip
def test_a_ring_that_cannot_be_paved_says_why(corners, bulges, says: str) -> None:
    with pytest.raises(OutlineError, match=says):
        Ring(corners, bulges).checked()


SHARP = Ring(
    (
        (12.014, 10.65),
        (8.442, 11.955),
        (7.596, 11.171),
        (8.395, 11.17),
        (10.133, 7.076),
        (10.296, 7.297),
        (10.423, 7.135),
    ),
    (0.0, 0.10297739011840745, 0.0, 0.0, 0.7998621808644464, 0.0, 0.0),
)
"""Its tangents run into its sides; found at random."""


@pytest.mark.parametrize("ring", [circle((0, 0), 3.0), Ring(SQUARE, (0.5, 0.0, -0.6, 0.0)), SHARP])
def test_few_straight_pieces_cover_it(ring: Ring) -> None:
    cover = shapely.Polygon(ring.checked().cover)
    assert cover.is_valid and cover.buffer(SAGITTA).covers(ring.polygon) and len(ring.cover) < 40
