"""Areas and islands as people type them, in metres and in feet."""

import math

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from groundwork.measures import Unit
from groundwork.plan import OutlineError
from groundwork.shape import Island, Ring, cut_out
from groundwork.shape.ring import bulge_by_rise, circle
from groundwork.shape.typed import corners_text, island_ring, typed_area

M, FT = Unit.METRES, Unit.FEET_INCHES


def test_straight_areas_are_read_as_before() -> None:
    assert typed_area("6\n4\n6", M, sides=True) == Ring(((0, 0), (6, 0), (6, 4), (0, 4)))
    assert typed_area("0 0\n6 0\n6 4\n0 4", M, sides=False) == Ring(((0, 0), (6, 0), (6, 4), (0, 4)))


def test_a_terrace_with_a_round_front_by_rise_by_radius_and_through_a_place() -> None:
    # 6 by 4 with a segment of rise 1 over its 6 m front: R = (9 + 1) / 2 = 5, θ = 2 asin(0.6), R²(θ − sin θ)/2 more.
    theta = 2 * math.asin(0.6)
    wanted = 24 + 25 * (theta - math.sin(theta)) / 2
    for front in ("6 rise 1", "6 90 rise 1.000", "6; 90 Rise 1", "6 radius 5", "6 90 radius 5 m"):
        assert typed_area(f"{front}\n4\n6", M, sides=True).area == pytest.approx(wanted), front
    for front in ("0 0 rise 1", "0 0 radius 5", "0, 0 through 3 -1"):
        assert typed_area(f"{front}\n6 0\n6 4\n0 4", M, sides=False).area == pytest.approx(wanted), front
    inward = typed_area("6 rise -1\n4\n6", M, sides=True)
    assert inward.area == pytest.approx(48 - wanted)
    far = typed_area("6 radius 5 long\n14\n6", M, sides=True)
    assert far.area == pytest.approx(6 * 14 + math.pi * 25 - 25 * (theta - math.sin(theta)) / 2)


def test_out_is_out_whichever_way_round_the_corners_were_walked() -> None:
    one = typed_area("0 0 rise 1\n6 0\n6 4\n0 4", M, sides=False)
    other = typed_area("6 0 rise 1\n0 0\n0 4\n6 4", M, sides=False)
    assert one.area == pytest.approx(other.area)
    assert shapely.hausdorff_distance(one.polygon, other.polygon) < 1e-9


def test_feet_and_inches_curve_too() -> None:
    ring = typed_area("20' rise 2' 6\"\n12'\n20'", FT, sides=True)
    assert ring.curves[0] == pytest.approx(bulge_by_rise(20.0, 2.5)) and ring.corners[1] == pytest.approx((6.096, 0))


def test_a_round_pond_by_two_corners() -> None:
    assert typed_area("0 0 rise 2\n4 0 rise 2", M, sides=False).area == pytest.approx(4 * math.pi)


@given(st.lists(st.floats(-0.6, 0.6), min_size=5, max_size=5), st.sampled_from([M, FT, Unit.FEET_TENTHS]))
def test_what_is_written_is_read_again_to_a_tenth_of_a_millimetre(bulges, unit) -> None:
    corners = ((0.0, 0.0), (6.2, 0.4), (7.0, 4.0), (3.0, 6.5), (-0.5, 4.2))
    try:
        ring = Ring(corners, tuple(bulges)).checked()
    except OutlineError:
        return  # arcs that cross
    again = typed_area(corners_text(ring, unit), unit, sides=False)
    assert len(again.corners) == 5
    assert max(math.dist(a, b) for a, b in zip(ring.corners, again.corners, strict=True)) < 1e-4
    assert shapely.hausdorff_distance(shapely.Polygon(ring.flat), shapely.Polygon(again.flat), 0.2) < 3e-3
    assert again.area == pytest.approx(ring.area, abs=2e-3)


@pytest.mark.parametrize(("text", "sides", "says"), [
    ("6 rise\n4\n6", True, "line 1: rise wants a length, like “rise 0.5”"),
    ("6 rise x\n4\n6", True, "line 1:"),
    ("6 radius 2\n4\n6", True, "line 1: a radius of 2 m spans no side of 6 m"),
    ("6 radius 0\n4\n6", True, "line 1: a radius is more than nothing"),
    ("0 0 through 3\n6 0\n6 4\n0 4", False, "line 1: through wants a place, like “through 3.2 1.1”"),
    ("0 0 through 9 0\n6 0\n6 4\n0 4", False, "line 1: the middle of an arc lies between its ends"),
    ("6 rise -5\n4\n6", True, "crosses or touches itself"),
    ("6 rise 100\n4\n6", True, "nearly all of a circle"),
    ("6\n4\n6 rise 1\n4 rise 1", True, ""),
    ("6 swirl 1\n4\n6", True, "line 1"),
])  # fmt: skip
def test_what_is_no_curve_says_so_with_its_line(text: str, sides: bool, says: str) -> None:
    if not says:
        assert typed_area(text, M, sides=sides).area > 24
        return
    with pytest.raises(OutlineError) as caught:
        typed_area(text, M, sides=sides)
    assert says in str(caught.value)


def test_islands_round_and_square_and_turned() -> None:
    round_one = island_ring([(3.0, 2.0)], "0.6", "", M)
    assert round_one.area == pytest.approx(math.pi * 0.09) and round_one == circle((3.0, 2.0), 0.3)
    for size in ("0.6 x 0.4", "0.6 × 0.4", "600 mm by 400 mm"):
        box = island_ring([(3.0, 2.0)], size, "", M)
        assert box.area == pytest.approx(0.24) and box.polygon.bounds == pytest.approx((2.7, 1.8, 3.3, 2.2))
    turned = island_ring([(3.0, 2.0)], "0.6 x 0.4", "30", M)
    assert turned.polygon.minimum_rotated_rectangle.area == pytest.approx(0.24)
    assert math.degrees(math.atan2(*reversed([b - a for a, b in zip(*turned.corners[:2], strict=True)]))) == (
        pytest.approx(30)
    )
    drawn = island_ring([(1, 1), (2, 1), (2, 2)], "", "", M)
    assert drawn.area == pytest.approx(0.5)
    for wrong, says in ((("", ""), "how wide"), (("0", ""), "more than nothing"), (("1 x 2 x 3", ""), "how wide"),
                        (("0.6 x 0.4", "a lot"), "degrees")):  # fmt: skip
        with pytest.raises(OutlineError, match=says):
            island_ring([(3.0, 2.0)], *wrong, M)
    with pytest.raises(OutlineError, match="three corners"):
        island_ring([(1, 1), (2, 1)], "", "", M)


def test_islands_lie_in_the_area_apart_from_its_edge_and_from_each_other() -> None:
    area = shapely.box(0, 0, 6, 4)
    pit = Island("tree pit", "pear", circle((2.0, 2.0), 0.6))
    assert cut_out(area, [pit]).area == pytest.approx(24 - math.pi * 0.36, rel=1e-7)
    for other, says in (
        (Island("column", "post", circle((5.9, 2.0), 0.3)), "room around it"),
        (Island("column", "post", circle((9.0, 2.0), 0.3)), "room around it"),
        (Island("manhole", "", circle((2.9, 2.0), 0.31)), "lie on one another"),
        (Island("gully", "g", circle((4.0, 2.0), 0.03)), "no paved area"),
        (Island("gully", "g", Ring(((3, 1), (4, 2), (4, 1), (3, 2)))), "crosses"),
    ):
        with pytest.raises(OutlineError, match=says):
            cut_out(area, [pit, other])
    with pytest.raises(OutlineError, match="more than 100"):
        cut_out(area, [pit] * 101)
