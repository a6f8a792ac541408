"""Outlines as people give them."""

import math

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from groundwork.measures import MeasureError, Unit, parse_fall, parse_layer
from groundwork.plan import OutlineError, checked, from_coordinates, from_sides, line, place

MM, FT_IN = Unit.MILLIMETRES, Unit.FEET_INCHES


def test_coordinates_one_a_line() -> None:
    by_hand = ((0.0, 0.0), (12.6, 0.0), (12.6, 6.4), (0.0, 6.4))
    for text in (
        "0 0\n12.6 0\n12.6 6.4\n0 6.4",
        "0,0\n12.6, 0\n12.6;6.4\n0\t6.4\n\n",
        "0 0\n12,6 0\n12,6 6,4\n0 6,4\n0 0",
    ):
        assert from_coordinates(text, MM) == by_hand
    feet = from_coordinates("0 0\n20' 0\n20' 12' 6\"\n0 12' 6\"", FT_IN)
    assert feet[2] == pytest.approx((6.096, 3.81))
    assert from_coordinates("0 6.4\n12.6 6.4\n12.6 0\n0 0", MM)[1] == (0.0, 0.0)  # turned counter-clockwise


def test_sides_and_angles() -> None:
    # By hand: 3-4-5; an L of 17.2 by 10.8 with a 4.6 by 4.4 corner out of it; a regular hexagon of side 2.
    assert from_sides("3\n4", MM) == ((0.0, 0.0), (3.0, 0.0), (3.0, 4.0))
    ell = from_sides("17.2 90\n6.4 90\n4.6 270\n4.4 90\n12.6 90\n10.8 90", MM)
    assert shapely.Polygon(ell).area == pytest.approx(17.2 * 10.8 - 4.6 * 4.4)
    assert from_sides("17.2\n6.4\n4.6 270°\n4.4\n12.6", MM) == ell
    assert shapely.Polygon(from_sides("2 120\n" * 6, MM)).area == pytest.approx(6 * math.sqrt(3))


def test_a_small_misclosure_is_spread_and_a_large_one_is_told() -> None:
    closed = from_sides("6\n4.012\n6\n4", MM)
    assert closed[0] == (0.0, 0.0) and closed[3] == pytest.approx((0, 4.003), abs=1e-6)
    with pytest.raises(OutlineError, match="by 300 mm"):
        from_sides("6\n4.3\n6\n4", MM)


@pytest.mark.parametrize(
    ("read", "text", "says"),
    [
        (from_coordinates, "", "nothing typed"),
        (from_coordinates, "0 0\n1 1", "at least three corners"),
        (from_coordinates, "0 0\n4\n4 4", "line 2"),
        (from_coordinates, "0 0\nfour 0\n4 4", "line 2"),
        (from_coordinates, "0 0\n4 4\n4 0\n0 4", "crosses or touches itself: at 2.000, 2.000"),
        (from_coordinates, "0 0\n.5 0\n.5 .5", "0.12 m² is no paved area"),
        (from_coordinates, "0 0\n900 0\n900 900\n0 900", "810000.00 m²"),
        (from_sides, "4", "at least three sides"),
        (from_sides, "4 90\n-2 90\n4", "line 2: a side is longer"),
        (from_sides, "4 90\n2 400\n4", "line 2: the angle"),
        (from_sides, "4 90\n2 about\n4", "line 2"),
        (from_coordinates, "0 0\n" * 6000, "too long"),
    ],
)
def test_what_is_no_outline_says_where(read, text: str, says: str) -> None:
    with pytest.raises(OutlineError, match=says):
        read(text, MM)
    with pytest.raises(OutlineError, match="no finite place"):
        checked([(0, 0), (math.inf, 0), (1, 1)])


@given(st.lists(st.floats(0.2, 6.2), min_size=3, max_size=12, unique=True), st.floats(1, 40))
def test_typing_an_outline_back_gives_it_again(angles: list[float], radius: float) -> None:
    ring = [(radius * math.cos(a), radius * math.sin(a)) for a in sorted(angles)]
    try:
        outline = checked(ring)
    except OutlineError:
        return
    text = "\n".join(f"{x:.6f} {y:.6f}" for x, y in outline)
    assert from_coordinates(text, MM) == outline
    assert shapely.Polygon(outline).exterior.is_ccw


def test_places_as_people_say_them() -> None:
    ring = ((0.0, 0.0), (12.0, 0.0), (12.0, 8.0), (0.0, 8.0))
    assert place("X3", ring, MM) == (12.0, 8.0)
    assert place("side 3", ring, MM) == (6.0, 8.0)
    assert place("3.2 10.8", ring, MM) == (3.2, 10.8)
    assert line("X1; 6 4; side 2", ring, MM) == ((0.0, 0.0), (6.0, 4.0), (12.0, 4.0))
    for wrong in ("X5", "side 0", "corner", "3.2", ""):
        with pytest.raises(MeasureError):
            place(wrong, ring, MM)


@pytest.mark.parametrize(
    ("typed", "ratio"),
    [
        # 1:60 = 1.667 % = 16.7 mm/m = 0.2 in/ft; 1/4 in/ft = 1:48; 3/16 in/ft = 1.56 %. Arithmetic.
        ("1:60", 1 / 60),
        ("1 in 60", 1 / 60),
        ("1.667 %", 0.01667),
        ("16.7 mm/m", 0.0167),
        ("0.2 in/ft", 1 / 60),
        ('1/4" per foot', 1 / 48),
        ("3/16 inch a foot", 0.015625),
        ("level", 0.0),
    ],
)
def test_falls_as_people_type_them(typed: str, ratio: float) -> None:
    assert parse_fall(typed) == pytest.approx(ratio, rel=1e-4)


@pytest.mark.parametrize("typed", ["", "60", "1:0", "steep", "1:0.5", "200 %", "7/7 in/ft"])
def test_what_is_no_fall(typed: str) -> None:
    with pytest.raises(MeasureError):
        parse_fall(typed)


def test_a_bare_thickness_is_in_what_layers_are_thought_in() -> None:
    typed = [
        ("150", MM, 0.150),
        ("0.15", MM, 0.150),
        ("150", Unit.METRES, 0.150),
        ("6", FT_IN, 0.1524),
        ('6"', MM, 0.1524),
    ]
    for text, unit, metres in typed:
        assert parse_layer(text, unit).metres == pytest.approx(metres)
