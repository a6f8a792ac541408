"""Runs of the level: several set-ups, closing, adjustment, and what hangs on what."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.groundwork.test_assess import JOB, SET_UP, read

from groundwork.assess import assess
from groundwork.entries import Correction, Disturbance, Foresight, SetUp, Strike
from groundwork.files import books
from groundwork.levels import Known, Lost, Runs, TwoPeg
from groundwork.levels.levelling import (
    allowed_misclosure,
    allowed_over,
)
from groundwork.measures import FOOT, Measured, Unit, parse_rod
from groundwork.tools import Instrument, Method
from groundwork.verdict import Standing


def m(metres: float) -> Measured:
    return Measured(f"{metres} m", metres)


def run(marks: dict[str, float], sights: list[tuple[str, float, str, float]], scale: float = 1.0) -> Runs:
    """A run from (point, backsight, next point, foresight) for each set-up."""
    known = {name: Known((0, 0), level * scale) for name, level in marks.items()}
    set_ups = [SetUp(f"s{n}", point, m(back * scale)) for n, (point, back, _to, _fore) in enumerate(sights)]
    fore = [Foresight(f"f{n}", f"s{n}", to, m(reading * scale)) for n, (_p, _b, to, reading) in enumerate(sights)]
    return Runs(known, set_ups, fore)


# Ghilani and Wolf, "Elementary Surveying", differential levelling, the field notes of a loop from BM Mil over
# BM Oak and back, in feet. Quoted from memory.
GHILANI = [
    ("BM Mil", 1.33, "TP1", 8.37), ("TP1", 0.22, "TP2", 7.91), ("TP2", 0.96, "TP3", 11.72),
    ("TP3", 0.46, "Oak", 8.71), ("Oak", 11.95, "TP4", 2.61), ("TP4", 12.55, "TP5", 0.68),
    ("TP5", 12.77, "BM Mil", 0.21),
]  # fmt: skip


def test_a_published_loop_of_seven_set_ups_closes_and_is_adjusted_in_proportion() -> None:
    of = run({"BM Mil": 2053.18}, GHILANI, FOOT)
    (closing,) = of.closings
    assert closing.misclosure / FOOT == pytest.approx(0.03)
    assert len(closing.chain) == 7 and closing.closes
    adjusted = {name: (of.level_of(name) or 0) / FOOT for name in of.turning_points}
    book = {"TP1": 2046.14, "TP2": 2038.44, "TP3": 2027.68, "Oak": 2019.42, "TP4": 2028.76, "TP5": 2040.62}
    assert adjusted == pytest.approx(book, abs=0.0051)
    # Exactly in proportion: a seventh of 0.03 ft for each set-up so far.
    assert adjusted["Oak"] == pytest.approx(2019.44 - 4 / 7 * 0.03)


def test_a_published_line_between_two_bench_marks_misses_by_eight_millimetres() -> None:
    # Uren and Price, "Surveying for Engineers", levelling by rise and fall, from TBM 49.873 to TBM 46.710 over three
    # set-ups; allowed ±5√n mm. Quoted from memory.
    line = [("A", 2.191, "C", 3.019), ("C", 1.496, "D", 2.512), ("D", 2.513, "B", 3.824)]
    of = run({"A": 49.873, "B": 46.710}, line)
    (closing,) = of.closings
    assert closing.misclosure == pytest.approx(0.008)
    assert closing.allowed == pytest.approx(0.00866, abs=1e-5) and closing.closes
    assert of.level_of("C") == pytest.approx(49.045 - 0.008 / 3)
    assert of.level_of("D") == pytest.approx(48.029 - 0.016 / 3)


def test_the_limits_of_misclosure() -> None:
    # 5 mm √n and 12 mm √K: construction and ordinary levelling, from memory.
    assert [round(allowed_misclosure(n), 5) for n in (1, 4, 9)] == [0.005, 0.010, 0.015]
    assert allowed_over(0.25) == pytest.approx(0.006)


lengths = st.floats(0.2, 4.0)


@given(st.lists(st.tuples(lengths, lengths), min_size=1, max_size=12), st.floats(-0.4, 0.4))
def test_adjusted_it_is_what_least_squares_makes_of_it(sights, share) -> None:
    # Outside reference: numpy.linalg.lstsq on differences between points, one equal-weight observation a set-up.
    points = ["A", *(f"T{n}" for n in range(1, len(sights))), "B"]
    rises = np.array([back - fore for back, fore in sights])
    end = 10 + float(rises.sum()) - share * allowed_misclosure(len(sights))
    of = run({"A": 10.0, "B": end}, [(p, b, q, f) for p, q, (b, f) in zip(points, points[1:], sights, strict=False)])
    assert of.closings[0].closes
    design = np.zeros((len(sights), len(points)))
    for n in range(len(sights)):
        design[n, n], design[n, n + 1] = -1, 1
    known = design[:, [0, -1]] @ [10.0, end]
    free = np.linalg.lstsq(design[:, 1:-1], rises - known, rcond=None)[0] if len(sights) > 1 else []
    assert [of.level_of(p) for p in points[1:-1]] == pytest.approx(list(free), abs=1e-9)


@given(st.lists(st.tuples(lengths, lengths, lengths), min_size=1, max_size=10), st.floats(-50, 50))
def test_a_run_without_errors_closes_and_its_heights_are_as_read(sights, first) -> None:
    points = ["A", *(f"T{n}" for n in range(1, len(sights))), "B"]
    end = first + sum(back - fore for back, _between, fore in sights)
    of = run(
        {"A": first, "B": end}, [(p, b, q, f) for p, q, (b, _i, f) in zip(points, points[1:], sights, strict=False)]
    )
    assert of.closings[0].misclosure == pytest.approx(0, abs=1e-9)
    assert {key: h.level for key, h in of.heights.items()} == pytest.approx(of.as_read, abs=1e-9)
    assert not of.lost and not of.open_runs((key, f"f{n}") for n, key in enumerate(of.set_ups))


def test_a_run_that_misses_too_much_stops_and_says_so() -> None:
    of = run({"A": 10.0, "B": 9.0}, [("A", 1.0, "T1", 1.5), ("T1", 1.2, "B", 1.68)])
    assert not of.closings[0].closes and set(of.lost.values()) == {Lost.MISCLOSED} and not of.heights
    # A check sight that closes vouches for what the first set-up read before it; what came after is in doubt.
    between, check, after = "r0", Foresight("c", "s0", "B", m(2.001)), "r1"
    order = {key: n for n, key in enumerate(["s0", between, check.id, after, "f0", "s1", "f1"])}
    checked = Runs(of.marks, of.set_ups.values(), [check, *of.sights], order=order)
    assert checked.why_lost("s0", between) is None and "s0" in checked.heights
    assert checked.why_lost("s0", after) is checked.why_lost("s1", "f1") is Lost.MISCLOSED
    assert checked.level_of("T1") is None and "s1" not in checked.heights
    # One that closes after the turning point vouches for that too: the fault lies with the second set-up.
    order = {key: n for n, key in enumerate(["s0", "f0", check.id, "s1", "f1"])}
    checked = Runs(of.marks, of.set_ups.values(), [of.sights[0], check, of.sights[1]], order=order)
    assert checked.lost == {"s1": Lost.MISCLOSED} and checked.level_of("T1") is not None


def test_closing_makes_a_height_surer() -> None:
    line = [("A", 1.0, "T1", 1.5), ("T1", 1.2, "B", 1.7)]
    closed, open_ = run({"A": 10.0, "B": 9.0}, line), run({"A": 10.0}, [line[0], ("T1", 1.2, "T2", 1.7)])
    assert closed.heights["s1"].uncertainty < open_.heights["s1"].uncertainty
    assert len(open_.open_runs([("s1", "f1")])) == 1 and not closed.open_runs([("s1", "f1")])


def test_the_two_peg_test() -> None:
    # Kavanagh, "Surveying: Principles and Applications", two-peg test: midway 1.075 and 1.247, then at A 1.783 and at
    # 60 m on B 1.946: the line of sight is 0.009 m out in 60 m. Quoted from memory.
    test = TwoPeg(1.075, 1.247, 1.783, 1.946, 0.0, 60.0)
    assert test.error == pytest.approx(0.009)
    assert test.collimation == pytest.approx(-0.00015)
    assert test.true_far_reading == pytest.approx(1.955)
    with pytest.raises(ValueError, match="nearer"):
        _ = TwoPeg(1, 1, 1, 1, 30, 30).collimation


def test_a_tilted_level_whose_place_is_known_reads_right() -> None:
    # By hand: 1 mm a metre up; mark 10 m off, station 4 m off. The rod shows 10 mm and 4 mm too much.
    tilted = Instrument(Method.OPTICAL, "old level", 0.001, 0.00005, 0.001)
    at = (0.0, 4.0 + 10.0)
    set_up = SetUp("s1", "sill", m(1.310), tilted, at)
    job = replace(JOB, entries=(set_up,))
    true = assess(replace(JOB, entries=(SET_UP,))).targets.at("X4")
    assert assess(job).levels.runs.heights["s1"].level == pytest.approx(11.500)
    assert assess(job).targets.at("X4") == pytest.approx(true + 0.010, abs=1e-9)
    unplaced = assess(replace(job, entries=(replace(set_up, at=None), read(1, "X4", "1600"))))
    placed = assess(replace(job, entries=(set_up, read(1, "X4", "1600"))))
    assert unplaced.surveys.ground["X4"].judgement.uncertainty > 3 * placed.surveys.ground["X4"].judgement.uncertainty


SECOND = SetUp("s2", "T1", parse_rod("1500", Unit.MILLIMETRES), at=(5.0, 5.0))
TURN = Foresight("f1", "s1", "T1", parse_rod("1420", Unit.MILLIMETRES))


def standing(*entries) -> Standing:
    return (
        assess(replace(JOB, entries=(SET_UP, TURN, SECOND, read(1, "A1", "1900", set_up="s2"), *entries)))
        .surveys.ground["A1"]
        .judgement.standing
    )


@pytest.mark.parametrize(
    "harm",
    [Strike("k", "s2"), Strike("k", "s1"), Strike("k", "f1"), Disturbance("d", "T1"), Disturbance("d", "sill"),
     Disturbance("d", "T1", "s2"), Foresight("c", "s2", "sill", parse_rod("1300", Unit.MILLIMETRES))],
    ids=["set-up", "the one before", "its turning point", "point knocked", "mark knocked", "since", "misclosed"],
)  # fmt: skip
def test_whatever_is_lost_under_it_a_station_is_unknown_not_good(harm) -> None:
    assert standing() not in (Standing.UNKNOWN, Standing.UNSHOT)
    assert standing(harm) is Standing.UNKNOWN


def test_a_mark_knocked_later_leaves_what_was_read_before() -> None:
    later = SetUp("s3", "sill", parse_rod("1200", Unit.MILLIMETRES))
    assert standing(later, Disturbance("d", "sill", "s3")) is not Standing.UNKNOWN


def test_a_backsight_corrected_after_twenty_readings_moves_them_all() -> None:
    readings = [read(n, f"A{1 + n % 3}", f"{1750 + n}") for n in range(20)]
    before = assess(replace(JOB, entries=(SET_UP, *readings)))
    fixed = Correction("c", "s1", parse_rod("1340", Unit.MILLIMETRES))
    after = assess(replace(JOB, entries=(SET_UP, *readings, fixed)))
    for name in ("A1", "A2", "A3"):
        moved = after.surveys.ground[name].judgement.level - before.surveys.ground[name].judgement.level
        assert moved == pytest.approx(0.040)
    undone = assess(replace(after.job, entries=(*after.job.entries, Strike("k", "c"))))
    assert undone.surveys.ground["A1"].judgement == before.surveys.ground["A1"].judgement


def test_two_levels_on_one_surface_each_read_by_their_own_height() -> None:
    other = SetUp(
        "s9", "sill", parse_rod("1100", Unit.MILLIMETRES), Instrument(Method.OPTICAL, "second"), (1.0, -1.0)
    )
    job = replace(JOB, entries=(SET_UP, other))
    one, two = assess(job).levels.references.values()
    targets = [assess(job).targets.at("A1", reference=r) for r in (one, two)]
    assert targets[0] - targets[1] == pytest.approx(0.200)
    entries = [read(1, "A1", f"{targets[0] * 1000:.0f}"), read(2, "A2", "1700", set_up="s9")]
    assert (
        assess(replace(job, entries=(*job.entries, *entries))).surveys.ground["A1"].judgement.standing
        is Standing.GOOD
    )


def test_the_book_checks_both_ways_and_ends_on_its_closing_sight() -> None:
    # By hand: HI 11.500; A1 at 9.750; T1 at 10.080; HI 11.580; A2 at 9.880; sill 10.203, 3 mm too high.
    entries = (SET_UP, read(1, "A1", "1750"), TURN, SECOND, read(2, "A2", "1700", set_up="s2"),
               Foresight("c", "s2", "sill", parse_rod("1377", Unit.MILLIMETRES)))  # fmt: skip
    (book,) = books(assess(replace(JOB, entries=entries)))
    assert [line.point for line in book.lines] == ["sill", "A1", "T1", "A2", "sill"]
    assert [round(line.level, 3) for line in book.lines] == [10.200, 9.750, 10.080, 9.880, 10.203]
    assert book.by_height.checks and book.by_rise.checks and book.closing
    assert book.by_height.levels == pytest.approx(book.by_rise.levels)
    adjusted = [line.adjusted for line in book.lines]
    assert adjusted == pytest.approx([10.2, 9.750 - 0.00075, 10.080 - 0.0015, 9.880 - 0.00225, 10.2])
