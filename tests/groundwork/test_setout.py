"""The set-out: square corners, pegs by sides and diagonals, strings, curves, services."""

import math
from dataclasses import replace
from datetime import date

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.groundwork.test_assess import JOB, taped

from groundwork.entries import MarginMeasured, ServicesLocated
from groundwork.levels import sag
from groundwork.setout import (
    Impossible,
    angle,
    chord_offsets,
    off_line,
    radius_of,
    service_findings,
    square_triangle,
    string_table,
)
from groundwork.setout.curves import curved_sides
from groundwork.setout.pegs import SetOut, margin_findings, set_out_findings
from groundwork.setout.services import location
from groundwork.shape import Ring
from groundwork.shape.ring import bulge_by_rise

RECTANGLE = ((0.0, 0.0), (8.0, 0.0), (8.0, 5.0), (0.0, 5.0))


def test_three_four_five() -> None:
    # Pythagoras; and 3, 4, 5.02 opens to 90.48°, 83 mm in 10 m (law of cosines, worked by hand).
    assert angle(3, 4, 5) == pytest.approx(90)
    assert angle(3, 4, 5.02) == pytest.approx(90.48, abs=0.005)
    assert off_line(angle(3, 4, 5.02), 10) == pytest.approx(0.083, abs=0.0005)
    assert square_triangle(8.0, 6.5, 0.1) == pytest.approx((8.0, 6.0, 10.0))


@pytest.mark.parametrize("sides", [(3, 4, 8), (1, 5, 3), (0, 4, 4)])
def test_sides_no_triangle_has(sides) -> None:
    with pytest.raises(Impossible):
        angle(*sides)


@given(st.floats(0.5, 30), st.floats(0.5, 30), st.floats(20, 160))
def test_an_angle_is_found_again_from_its_sides(a: float, b: float, degrees: float) -> None:
    across = math.sqrt(a * a + b * b - 2 * a * b * math.cos(math.radians(degrees)))
    assert angle(a, b, across) == pytest.approx(degrees, abs=1e-5)


def test_a_strings_sag() -> None:
    # Shallow catenary w L² / 8 T, any statics text: half a gram a metre, 10 m, 50 N sags 1.2 mm.
    assert sag(0.5, 10, 50) == pytest.approx(0.0012, abs=0.00003)


def test_offsets_from_a_chord() -> None:
    # By hand, y = √(R² − (C/2 − x)²) − √(R² − C²/4): R 100, chord 40, 2.0204 in the middle, 1.5192 at 10 m.
    offsets = dict(chord_offsets(100, 40, 10))
    assert offsets[20] == pytest.approx(2.0204, abs=1e-4) and offsets[10] == pytest.approx(1.5192, abs=1e-4)
    assert offsets[0] == offsets[40] == pytest.approx(0)
    assert radius_of(40, offsets[20]) == pytest.approx(100)
    with pytest.raises(ValueError, match="chord"):
        chord_offsets(10, 30, 1)


def tape(stands: dict[str, tuple[float, float]], pairs, noise=lambda: 0.0):
    return [taped(a, b, math.dist(stands[a], stands[b]) + noise()) for a, b in pairs]


def test_random_quadrilaterals_come_back_square_within_the_noise() -> None:
    random = np.random.default_rng(11)
    wanted = SetOut(RECTANGLE, []).still_to_tape
    after = []
    for _turn in range(200):
        stands = {f"P{n}": tuple(np.array(p) + random.normal(0, 0.05, 2)) for n, p in enumerate(RECTANGLE, start=1)}
        lengths = tape(stands, wanted, lambda: float(random.normal(0, 0.002)))
        found = SetOut(RECTANGLE, lengths)
        assert found.holds_shape and not found.conflicts
        # Move every peg as told, in the figure as it truly stands, and look at its corners again.
        turn = math.atan2(stands["P2"][1] - stands["P1"][1], stands["P2"][0] - stands["P1"][0])
        rotate = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
        moved = {
            p.name: np.array(stands[p.name]) + rotate @ (np.array(p.place) - np.array(p.stands)) for p in found.pegs
        }
        for corner, one, other in (("P1", "P2", "P4"), ("P2", "P3", "P1"), ("P3", "P4", "P2"), ("P4", "P1", "P3")):
            a, b = moved[one] - moved[corner], moved[other] - moved[corner]
            after.append(math.degrees(math.acos(a @ b / math.hypot(*a) / math.hypot(*b))) - 90)
        assert found.pegs[0].uncertainty == 0
    # 2 mm in 5 m is 0.023°; three times that for the worst of 800 corners.
    assert np.std(after) < 0.05 and np.abs(after).max() < 0.16


def test_a_rectangle_that_leans_is_told_how_to_stand_up() -> None:
    # A parallelogram leaning 0.1 m: sides right, diagonals not. By hand P3 and P4 go back along the side, and up.
    lean = math.sqrt(25 - 0.01)
    stands = {"P1": (0.0, 0.0), "P2": (8.0, 0.0), "P3": (8.1, lean), "P4": (0.1, lean)}
    found = SetOut(RECTANGLE, tape(stands, SetOut(RECTANGLE, []).still_to_tape))
    p3, p4 = found.pegs[2:]
    assert not found.square and [p.in_place for p in found.pegs] == [True, True, False, False]
    assert (p3.outward, p4.away) == pytest.approx((-0.1, 0.1), abs=1e-4)
    assert p3.action.text(JOB.unit) == "move 1 mm away from P2, 100 mm in"


def test_lengths_no_figure_can_have_are_said_so() -> None:
    stands = dict(zip(("P1", "P2", "P3", "P4"), RECTANGLE, strict=True))
    good = tape(stands, SetOut(RECTANGLE, []).still_to_tape)
    assert SetOut(RECTANGLE, good).square
    wrong = [
        replace(x, length=taped("P1", "P3", 9.2).length) if (x.start, x.end) == ("P1", "P3") else x for x in good
    ]
    (stop,) = set_out_findings(SetOut(RECTANGLE, wrong))
    assert stop.rule == "P01" and not SetOut(RECTANGLE, wrong).pegs
    triangle = [taped("P1", "P2", 8.0), taped("P2", "P3", 5.0), taped("P1", "P3", 13.5)]
    (conflict,) = SetOut(RECTANGLE, triangle).conflicts
    assert conflict.miss == pytest.approx(0.5)


def test_with_lengths_to_spare_the_wrong_one_is_named() -> None:
    outline = ((0.0, 0.0), (9.0, 0.0), (11.0, 4.0), (7.0, 8.0), (0.0, 7.0))
    stands = {f"P{n}": p for n, p in enumerate(outline, start=1)}
    pairs = [(f"P{i}", f"P{j}") for i in range(1, 6) for j in range(i + 1, 6)]
    lengths = tape(stands, pairs)
    lengths[3] = taped("P1", "P5", 7.1)
    (conflict,) = SetOut(outline, lengths).conflicts
    assert conflict.lengths == (("P1", "P5"),) and conflict.miss == pytest.approx(0.1, abs=0.02)


def test_sides_alone_do_not_hold_a_shape() -> None:
    stands = dict(zip(("P1", "P2", "P3", "P4"), RECTANGLE, strict=True))
    sides = tape(stands, [("P1", "P2"), ("P2", "P3"), ("P3", "P4"), ("P4", "P1")])
    found = SetOut(RECTANGLE, sides)
    assert not found.holds_shape and set(found.still_to_tape) == {("P1", "P3"), ("P2", "P4")}
    assert [f.rule for f in set_out_findings(found)] == ["P02"]


def test_the_string_table() -> None:
    # By hand: P1 finished 10.000, string 200 over it, formation 255 below; down the fall of 1:60 over 6 m 100 lower.
    pegs, sides = string_table(JOB, 0.255, 0.200)
    assert (pegs[0].string, pegs[0].dip) == pytest.approx((10.200, 0.455))
    assert pegs[1].string == pytest.approx(10.100)
    assert sides[0].fall == pytest.approx(1 / 60) and sides[0].bend == pytest.approx(0)


def test_services_hold_for_their_days_and_no_longer() -> None:
    located = ServicesLocated("a", "T-1", date(2026, 3, 2), 14, "x")
    for day, rules in ((date(2026, 3, 16), []), (date(2026, 3, 17), ["D01"])):
        assert [f.rule for f in service_findings(location([located], day))] == rules
    assert [f.rule for f in service_findings(location([], date(2026, 3, 2)))] == ["D01"]


def test_a_margin_short_of_the_specification_warns() -> None:
    short = {1: MarginMeasured("m", 1, taped("P1", "P2", 0.12).length)}
    (found,) = margin_findings(short, 4, 0.150, 0.150)
    assert found.rule == "D07" and "P2–P3" in found.found.text(JOB.unit)
    assert not list(margin_findings({}, 4, 0.150, 0.150))
    assert [f.rule for f in margin_findings({}, 4, 0.075, 0.150)] == ["D07"]
    assert not list(margin_findings(short, 4, 0.120, 0.120))
    assert not list(margin_findings(short, 4, 0.150, 0.150, walls={1}))


@given(st.floats(-math.pi, math.pi), st.floats(-50, 50), st.floats(-50, 50), st.integers(0, 3))
def test_wherever_the_pegs_were_set_out_square_is_square(turn: float, east: float, north: float, held: int) -> None:
    cos, sin = math.cos(turn), math.sin(turn)
    stands = {
        f"P{n}": (east + cos * x - sin * y, north + sin * x + cos * y) for n, (x, y) in enumerate(RECTANGLE, start=1)
    }
    found = SetOut(RECTANGLE, tape(stands, SetOut(RECTANGLE, []).still_to_tape), held)
    assert found.square and max(p.move for p in found.pegs) < 1e-6


@pytest.mark.parametrize("corners", range(3, 12))
def test_what_is_asked_for_holds_any_shape_with_one_to_spare(corners: int) -> None:
    outline = tuple(
        (10 * math.cos(2 * math.pi * n / corners), 6 * math.sin(2 * math.pi * n / corners)) for n in range(corners)
    )
    wanted = SetOut(outline, []).still_to_tape
    assert len(wanted) == (3 if corners == 3 else 2 * corners - 2) and len(set(wanted)) == len(wanted)
    found = SetOut(outline, tape({f"P{n}": p for n, p in enumerate(outline, start=1)}, wanted))
    assert found.holds_shape and found.square and not found.still_to_tape


def test_the_outlines_curves_by_offsets_that_lie_on_them() -> None:
    """Each offset measured square from its chord lies on the arc the outline has, by distance from its centre."""
    ring = Ring(RECTANGLE, (bulge_by_rise(8, 1.0), 0.0, bulge_by_rise(8, -0.5), 2.0))
    one, other, third = curved_sides(ring, 0.5)
    assert (one.start, one.end, other.start, third.end) == ("P1", "P2", "P3", "P1")
    # Chord 8, rise 1: R = (16 + 1) / 2 = 8.5; the middle is 1 out, at 2 m √(8.5² − 2²) − 7.5 = 0.7614.
    assert (one.radius, one.rise, one.chord) == pytest.approx((8.5, 1.0, 8.0)) and len(one.offsets) == 17
    assert dict(one.offsets)[2.0] == pytest.approx(0.7614, abs=1e-4) and dict(one.offsets)[4.0] == pytest.approx(1.0)
    assert other.rise == pytest.approx(-0.5) and third.offsets == ()
    for side, sign in ((one, -1), (other, 1)):
        (x0, y0), along = ((0, 0), 1) if side is one else ((8, 5), -1)
        for x, off in side.offsets:
            at = (x0 + along * x, y0 + along * sign * off)
            assert math.dist(at, side.centre) == pytest.approx(side.radius)
    assert math.dist(third.centre, RECTANGLE[0]) == pytest.approx(third.radius)
