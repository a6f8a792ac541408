"""An area measured in with tapes, right angles and offsets: places against scipy's least squares, slips against slips
put in, rates printed."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import least_squares

from groundwork.shape.adjustment import MeasuredIn, measured_in
from groundwork.shape.measuring import (
    ANGLE_U,
    TAPE_RATE,
    TAPE_U,
    BaselineOffset,
    CornerAngle,
    TapedLength,
    of_moves,
    where_tapes_meet,
)

A, B = "A", "B"


def residuals(observations, places) -> np.ndarray:
    """Written from what is measured alone, with the deviations a tape and a square have."""
    found = []
    for each in observations:
        if isinstance(each, TapedLength):
            found.append((math.dist(places[each.start], places[each.end]) - each.length)
                         / math.hypot(TAPE_U, TAPE_RATE * each.length))  # fmt: skip
        elif isinstance(each, CornerAngle):
            one, other = (np.subtract(places[p], places[each.at]) for p in (each.before, each.after))
            turned = math.degrees(math.atan2(other[0] * one[1] - other[1] * one[0], float(one @ other))) % 360
            found.append(((turned - each.degrees + 180) % 360 - 180) / ANGLE_U)
        else:
            x, y = places[each.point]
            found += [(x - each.along) / TAPE_U, (y - each.left) / TAPE_U]
    return np.array(found)


def by_scipy(observations, start: dict, free: list) -> dict:
    def placed(unknowns):
        return start | {name: tuple(unknowns[2 * n : 2 * n + 2]) for n, name in enumerate(free)}

    first = np.array([start[name] for name in free]).ravel()
    solved = least_squares(lambda u: residuals(observations, placed(u)), first, xtol=1e-15, ftol=1e-15, gtol=1e-15)
    return placed(solved.x)


def a_yard(seed: int, corners: int = 6):
    """Corners round a middle in front of a house wall from A to B, 7 m apart."""
    draw = np.random.default_rng(seed)
    angles = (np.arange(corners) + draw.uniform(0.1, 0.9, corners)) * 2 * math.pi / corners
    reach = draw.uniform(2.0, 5.0, corners)
    return {f"X{n + 1}": (3.5 + r * math.cos(a), 6.5 + r * math.sin(a))
            for n, (r, a) in enumerate(zip(reach, angles, strict=True))}  # fmt: skip


def taped_in(places: dict, draw: np.random.Generator, diagonals: int = 2, noise: float = 1.0):
    at = {A: (0.0, 0.0), B: (7.0, 0.0)} | places
    names = list(places)
    pairs = [(end, name) for name in names for end in (A, B)]
    pairs += [(names[n], names[(n + 1) % len(names)]) for n in range(len(names))]
    pairs += [tuple(draw.choice(names, 2, replace=False)) for _ in range(diagonals)]

    def off(length: float) -> float:
        return noise * draw.normal() * math.hypot(TAPE_U, TAPE_RATE * length)

    return [TapedLength(str(a), str(b), (d := math.dist(at[a], at[b])) + off(d)) for a, b in pairs]


@given(st.integers(0, 100_000))
def test_corners_by_two_tapes_are_where_least_squares_has_them(seed: int) -> None:
    draw = np.random.default_rng(seed)
    places = a_yard(seed, int(draw.integers(3, 9)))
    tapes = taped_in(places, draw)
    found = measured_in(tapes, {A: (0.0, 0.0), B: (7.0, 0.0)})
    expected = by_scipy(tapes, {A: (0.0, 0.0), B: (7.0, 0.0)} | places, list(places))
    for name in places:
        assert math.dist(found.places[name], expected[name]) < 1e-6
    off = residuals(tapes, expected)
    spare = len(tapes) - 2 * len(places)
    assert found.spare == spare and found.misfit == pytest.approx(math.sqrt(off @ off / spare), rel=1e-4)


@given(st.integers(0, 100_000))
def test_sides_angles_offsets_and_diagonals_together(seed: int) -> None:
    draw = np.random.default_rng(seed)
    places = a_yard(seed, 5)
    names = list(places)

    def angle(n: int) -> float:
        at = np.array(places[names[n]])
        one, other = (np.array(places[names[(n + k) % 5]]) - at for k in (-1, 1))
        return math.degrees(math.atan2(other[0] * one[1] - other[1] * one[0], float(one @ other))) % 360

    said = [
        BaselineOffset(names[0], *places[names[0]]),
        BaselineOffset(names[1], places[names[1]][0] + 0.003, places[names[1]][1]),
    ]
    said += [TapedLength(names[n], names[(n + 1) % 5], math.dist(places[names[n]], places[names[(n + 1) % 5]])
                   + 0.002 * draw.normal()) for n in range(5)]  # fmt: skip
    said += [
        CornerAngle(names[n], names[n - 1], names[(n + 1) % 5], angle(n) + ANGLE_U * draw.normal())
        for n in range(1, 5)
    ]
    said += [TapedLength(names[0], names[2], math.dist(places[names[0]], places[names[2]]))]
    found = measured_in(said, {A: (0.0, 0.0), B: (7.0, 0.0)})
    expected = by_scipy(said, {A: (0.0, 0.0), B: (7.0, 0.0)} | places, names)
    assert max(math.dist(found.places[name], expected[name]) for name in names) < 1e-6


def test_where_two_tapes_meet_by_hand() -> None:
    # 3, 4, 5: from A 0, 0 and B 5, 0, 3 and 4 long: 1.8 along and 2.4 to the left, or the right.
    assert where_tapes_meet((0, 0), 3.0, (5, 0), 4.0, left=True) == (pytest.approx((1.8, 2.4)), 0.0)
    assert where_tapes_meet((0, 0), 3.0, (5, 0), 4.0, left=False) == (pytest.approx((1.8, -2.4)), 0.0)
    place, short = where_tapes_meet((0, 0), 2.0, (5, 0), 2.5, left=True)
    assert short == pytest.approx(0.5) and place == pytest.approx((2.25, 0.0))
    place, short = where_tapes_meet((0, 0), 9.0, (5, 0), 3.0, left=True)
    assert short == pytest.approx(1.0) and place == pytest.approx((8.5, 0.0))


def test_an_l_by_right_angles_needs_its_lengths_and_no_angle() -> None:
    # Right 6, up 2, left 4, up 3, left 2, down 5: an L of 12 + 6 = 18 m².
    steps = of_moves([("right", 6.0), ("up", 2.0), ("left", 4.0), ("up", 3.0), ("left", 2.0)])
    found = measured_in(steps.observations, {})
    corners = [found.places[name] for name in steps.corners]
    assert corners == [pytest.approx(c, abs=1e-6) for c in [(0, 0), (6, 0), (6, 2), (2, 2), (2, 5), (0, 5)]]
    assert found.spare == 0 and found.unchecked == tuple(steps.corners[1:])


def test_sides_with_angles_close_as_they_did() -> None:
    sides = of_moves([("right", 6.0), (90.0, 4.0), (90.0, 6.0), (90.0, 4.0)])
    found = measured_in(sides.observations, {})
    assert [found.places[n] for n in sides.corners] == [
        pytest.approx(c, abs=1e-6) for c in [(0, 0), (6, 0), (6, 4), (0, 4)]
    ]
    assert found.spare == 2 and found.slips == () and found.misfit < 1e-6


def test_a_last_side_that_misses_is_a_slip_and_says_by_how_much() -> None:
    sides = of_moves([("right", 6.0), (90.0, 4.0), (90.0, 6.0), (90.0, 4.3)])
    found = measured_in(sides.observations, {})
    # 0.3 m over 6 m: what right angles by eye may be off by most easily, 2.9 degrees at one corner.
    (slip,) = found.slips
    assert isinstance(slip.observations[0], CornerAngle) and abs(slip.by) == pytest.approx(2.9, abs=0.1)


def test_slips_put_in_are_named_and_none_where_none_is(capsys) -> None:
    """Of 300 yards with a slip of 50 to 500 mm in one tape, how often it is the one named first; of 300 without, how
    often any is."""
    named = near = alarms = 0
    for seed in range(300):
        draw = np.random.default_rng(seed)
        places = a_yard(seed, 5)
        tapes = taped_in(places, draw, diagonals=3)
        fixed = {A: (0.0, 0.0), B: (7.0, 0.0)}
        alarms += bool(measured_in(tapes, fixed).slips)
        wrong = int(draw.integers(len(tapes)))
        tape, by = tapes[wrong], float(draw.choice([-1, 1]) * draw.uniform(0.05, 0.5))
        slipped = [*tapes[:wrong], TapedLength(tape.start, tape.end, tape.length + by), *tapes[wrong + 1 :]]
        found = measured_in(slipped, fixed)
        named += bool(found.slips) and slipped[wrong] in found.slips[0].observations
        near += bool(found.slips) and slipped[wrong] in found.slips[0].observations and (
            abs(found.slips[0].by - by) < 0.05)  # fmt: skip
    with capsys.disabled():
        rates = [f"{count / 3:.1f} %" for count in (named, near, alarms)]
        print("\nslips named, their size within 50 mm, false alarms:", *rates)
    assert named >= 270 and near >= 255 and alarms <= 15


def test_what_cannot_be_placed_is_named() -> None:
    one, two = TapedLength(A, "X1", 2.0), TapedLength(B, "X1", 6.0)
    for said, unplaced in (([one], ("X1",)), ([TapedLength("X1", "X2", 3.0), one, two], ("X2",))):
        assert measured_in(said, {A: (0.0, 0.0), B: (7.0, 0.0)}).unplaced == unplaced


def test_how_sure_a_corner_is_by_simulation() -> None:
    places = a_yard(7, 4)
    fixed = {A: (0.0, 0.0), B: (7.0, 0.0)}
    stood = []
    for seed in range(400):
        tapes = taped_in(places, np.random.default_rng(seed), diagonals=0)
        stood.append(measured_in(tapes, fixed).places["X2"])
    spread = float(np.sqrt(np.array(stood).var(axis=0).sum()))
    told = measured_in(taped_in(places, np.random.default_rng(1), 0, 0.0), fixed).uncertainty["X2"]
    assert told == pytest.approx(spread, rel=0.12)


def test_nothing_measured_and_one_point_twice() -> None:
    assert measured_in([], {}) == MeasuredIn({}, {}, 0, 0.0, (), (), ())
    with pytest.raises(ValueError, match="itself"):
        TapedLength("X1", "X1", 3.0)
    for length in (0.0, -1.0, math.nan, math.inf):
        with pytest.raises(ValueError, match="more than nothing"):
            TapedLength("X1", "X2", length)
