"""Misreads are suspected, honest ground is not, verdicts keep their promise: by simulation, figures printed."""

import itertools
import math
from collections import Counter
from collections.abc import Callable

import numpy as np
import pytest
from scipy.optimize import least_squares

from groundwork.base import FORMATION_TOLERANCE
from groundwork.entries import SetUp
from groundwork.levels import Known, LineOfSight, Runs
from groundwork.measures import FOOT, INCH, Measured, MeasureError, Unit, parse_rod
from groundwork.tools import Instrument, Method
from groundwork.verdict import Surroundings, expectation, misread, suspect
from groundwork.verdict.judgement import (
    Call,
    call,
)
from groundwork.verdict.misread import (
    LOOK_ALIKES,
)
from nivelum.instruments.standin import Faults, World

GRID = [(2.0 * x, 2.0 * y) for y, x in itertools.product(range(8), range(10))]
ROUGH = (FORMATION_TOLERANCE.high + FORMATION_TOLERANCE.low) / 4
ROUGHNESS = 0.007


def around(random: np.random.Generator, ground: np.ndarray, at: int) -> misread.Expectation:
    """What the stations around make of one, one in twelve of them not shot yet."""
    known = [n for n in range(len(GRID)) if n != at and random.random() > 1 / 12]
    return expectation(GRID[at], [GRID[n] for n in known], [float(ground[n]) for n in known], ROUGH)


def swapped(text: str, place: int) -> str:
    return text[:place] + text[place + 1] + text[place] + text[place + 2 :]


MISREADS: dict[str, Callable[[str], str]] = {
    "a metre": lambda t: str(int(t) + 1000),
    "half a metre": lambda t: str(int(t) - 500),
    "200 mm": lambda t: str(int(t) + 200),
    "100 mm": lambda t: str(int(t) - 100),
    "a foot": lambda t: str(round(int(t) + FOOT * 1000)),
    "hundreds and tens swapped": lambda t: swapped(t, 1),
    "thousands and hundreds swapped": lambda t: swapped(t, 0),
    "a hundreds figure taken for another": lambda t: t[0] + LOOK_ALIKES.get(t[1], str((int(t[1]) + 3) % 10)) + t[2:],
    "a figure left out": lambda t: t[:1] + t[2:],
    "another set-up's height": lambda t: str(int(t) + 137),
    "the decimal point slipped": lambda t: f"{int(t) / 100:.2f}",
    "inches for millimetres": lambda t: f"{int(t) / 1000 / INCH:.1f}",
    "the upper hair at 16 m": lambda t: str(int(t) + 80),
}


@pytest.mark.long
def test_a_dozen_kinds_of_misread_are_suspected_and_say_what_would_fit(capsys) -> None:
    random = np.random.default_rng(3)
    caught, tried = Counter(), Counter()
    for kind, slip in MISREADS.items():
        for _turn in range(120):
            ground = np.array([0.004 * x - 0.003 * y for x, y in GRID]) + random.normal(0, ROUGHNESS, len(GRID))
            at = int(random.integers(len(GRID)))
            expected, right = around(random, ground, at), float(random.uniform(1.1, 2.4))
            typed = slip(f"{(right - ground[at]) * 1000:.0f}")
            try:
                read = parse_rod(typed, Unit.MILLIMETRES)
            except MeasureError:
                continue  # the pad refuses it outright
            if abs(read.metres - (right - ground[at])) < 0.06:
                continue  # too small a slip to be told from the ground
            tried[kind] += 1
            fits = right - expected.deviation
            caught[kind] += suspect(typed, read.metres, fits, expected.spread, Unit.MILLIMETRES, 16.0) is not None
    with capsys.disabled():
        print("\nmisreads suspected:", ", ".join(f"{k} {caught[k]}/{tried[k]}" for k in MISREADS))
    assert len(MISREADS) >= 12 and all(tried[kind] >= 20 for kind in MISREADS)
    assert all(caught[kind] / tried[kind] > 0.95 for kind in MISREADS)


@pytest.mark.parametrize(
    ("name", "shape"),
    [("level", lambda x, y: 0.0), ("1 in 10", lambda x, y: 0.1 * x),
     ("1 in 5 aslant", lambda x, y: 0.15 * x - 0.13 * y),
     ("a gentle bowl", lambda x, y: 0.0008 * ((x - 9) ** 2 + (y - 7) ** 2))],
    ids=["level", "steep", "steeper", "bowl"],
)  # fmt: skip
def test_honest_ground_is_not_suspected_however_steep(name: str, shape, capsys) -> None:
    random = np.random.default_rng(5)
    doubts = 0
    for _turn in range(1500):
        ground = np.array([shape(x, y) for x, y in GRID]) + random.normal(0, ROUGHNESS, len(GRID))
        at = int(random.integers(len(GRID)))
        expected, right = around(random, ground, at), float(random.uniform(1.1, 2.4))
        typed = f"{(right - ground[at]) * 1000:.0f}"
        doubts += bool(
            suspect(typed, int(typed) / 1000, right - expected.deviation, expected.spread, Unit.MILLIMETRES)
        )
    with capsys.disabled():
        print(f"\nhonest ground, {name}: {doubts} of 1500 doubted")
    assert doubts / 1500 < 0.01


def test_each_of_many_stations_is_judged_by_the_eight_nearest_others() -> None:
    """Against scipy's own plane with Huber's loss (Huber 1964) through the eight nearest by sorting; of equals on a
    grid, the eight all round."""
    random = np.random.default_rng(8)
    places = random.uniform(0, 40, (300, 2))
    ground = 0.02 * places[:, 0] + random.normal(0, 0.004, 300)
    ground[random.choice(300, 12, replace=False)] += 0.4
    at = [*places[:60], (11.0, 7.0), (-3.0, 41.0)]
    found = Surroundings(places, ground, ROUGH).expected(at, [*range(60), -1, -1])
    for place, own, expected in zip(at, [*range(60), None, None], found, strict=True):
        far = sorted((math.dist(place, other), n) for n, other in enumerate(places) if n != own)
        near = [n for _far, n in far[:8]]
        design = np.column_stack([np.ones(8), places[near] - place])

        def off(plane: np.ndarray, design: np.ndarray = design, near: list[int] = near) -> np.ndarray:
            return design @ plane - ground[near]

        huber = least_squares(off, np.zeros(3), loss="huber", f_scale=0.005, x_scale=(0.01, 0.01, 0.01), xtol=1e-12)
        assert expected.neighbours == 8 and abs(expected.deviation - huber.x[0]) < expected.spread
    around = [n for n, (x, y) in enumerate(GRID) if max(abs(x - 8), abs(y - 6)) == 2]
    level = np.zeros(len(GRID))
    level[around] = 1.0
    (middle,) = Surroundings(np.array(GRID), level, ROUGH).expected([(8, 6)], [GRID.index((8, 6))])
    assert middle.deviation == pytest.approx(1.0)


def test_the_first_stations_of_a_steep_row_are_not_suspected() -> None:
    places = [(0.0, 0.0), (2.0, 0.0), (4.0, 0.0)]
    for shot in range(3):
        expected = expectation(places[shot], places[:shot], [0.1 * x for x, _y in places[:shot]], ROUGH)
        fits = 1.5 + 0.1 * places[shot][0] - expected.deviation
        assert suspect("1500", 1.5, fits, expected.spread, Unit.METRES) is None


def test_what_would_fit_is_said() -> None:
    found = suspect("1460", 1.460, 1.404, 0.013, Unit.MILLIMETRES)
    assert found and found.words.text(Unit.MILLIMETRES) == (
        "1460 is 56 mm off what lies around; 1406 would fit: two figures swapped"
    )
    feet = suspect("5.61", 5.61 * FOOT, 4.62 * FOOT, 0.01, Unit.FEET_TENTHS)
    assert feet and feet.slip == "a foot" and feet.instead == pytest.approx(4.61 * FOOT)


def test_good_is_in_and_out_is_out_nineteen_times_in_twenty(capsys) -> None:
    # JCGM 106:2012, guarded acceptance. 10 000 points by the stand-in's own readings, a backsight every 20, the level
    # with the noise its uncertainty says; each station's error over the sight from the tilt of the line in that
    # direction.
    laser = Instrument(Method.LASER)
    random = np.random.default_rng(17)
    wrong, calls = Counter(), Counter()
    for run in range(500):
        world = World(run, Faults(noise=laser.reading_u, drift=0.0, lost=0, garbled=0))
        world.stand_on("mark", 10.0)
        world.move()
        back = world.reading()
        tilt = random.normal(0, laser.rate * 8)
        assert back is not None
        set_up = SetUp("s", "mark", Measured("", back + tilt), laser, (0.0, 0.0))
        height = Runs({"mark": Known((8.0, 0.0), 10.0)}, [set_up], []).heights["s"]
        line = LineOfSight(set_up, height, 50)
        for _point in range(20):
            at = (float(random.uniform(1, 18)), float(random.uniform(1, 12)))
            off = float(random.uniform(-0.050, 0.040))
            world.stand_on(f"p{at}", 10.2 + off)
            true_tilt = random.normal(0, laser.rate * math.hypot(*at))
            sight = line.sight(at, (world.reading() or 0.0) + true_tilt)
            assert sight
            verdict = call(sight.level - 10.2, math.hypot(sight.reading_u, sight.shared_u), FORMATION_TOLERANCE)
            inside = -FORMATION_TOLERANCE.low <= off <= FORMATION_TOLERANCE.high
            calls[verdict] += 1
            wrong[verdict] += (verdict is Call.GOOD and not inside) or (verdict in (Call.HIGH, Call.LOW) and inside)
    outs = calls[Call.HIGH] + calls[Call.LOW]
    good_wrong = wrong[Call.GOOD] / calls[Call.GOOD]
    out_wrong = (wrong[Call.HIGH] + wrong[Call.LOW]) / outs
    with capsys.disabled():
        print(
            f"\n10000 points: good but truly out {good_wrong:.2%} of {calls[Call.GOOD]}, "
            f"out but truly in {out_wrong:.2%} of {outs}, too close {calls[Call.TOO_CLOSE]}"
        )
    assert sum(calls.values()) == 10_000
    assert good_wrong < 0.05 and out_wrong < 0.05
