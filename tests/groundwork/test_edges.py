"""Edges: the width that closes, curves, concrete, mixes, and tops and line joint by joint."""

import math
from dataclasses import replace
from datetime import date, datetime
from itertools import pairwise

import numpy as np
import pytest
from tests.conftest import PAD

from groundwork.assess import Assessment, assess
from groundwork.base import Tolerance
from groundwork.brief import Traffic
from groundwork.curing import ALL_IN, mix
from groundwork.edges import SET, Courses, bends, fills
from groundwork.edges.across import widths
from groundwork.edges.sums import (
    bed_and_haunch,
    closes_at,
    closing,
    least_radius,
    on_curve,
    pickets,
    spikes,
)
from groundwork.edgework import BoardLeft, EdgeBedded, EdgeKind, EdgeLined, EdgePlanned, EdgeShot, EdgeStrung
from groundwork.entries import SetUp
from groundwork.files import loads
from groundwork.measures import Unit, parse_layer, parse_length, parse_rod, parse_signed
from groundwork.plan import Feature, along_side
from groundwork.schools import schools
from groundwork.shape import Island, circle
from groundwork.survey import SettingRule


def test_the_width_that_closes_before_an_edge_is_fixed() -> None:
    # 3 m of units of 100: 29 and 30 joints of 3.33 close; at 2 mm a strip of 42 is left. An edge in by 40 mm closes
    # 29 at 2 mm, and one out by 64 closes 30: 3.06 + 0.002 × 31 = 3.062.
    found = closing(3.0, 0.100, 0.002, 0.002, 0.005)
    assert (found.units, found.joint) == (29, pytest.approx(0.1 / 30)) and found.strip == pytest.approx(0.042)
    assert closing(3.0, 0.100, 0.002, 0.002, 0.003).joint is None
    assert closes_at(3.0, 0.100, 0.002) == pytest.approx(29 * 0.1 + 30 * 0.002 - 3.0)
    for width in (0.35, 1.0, 1.234, 2.4, 5.87):
        if (made := closing(width, 0.2, 0.003, 0.002, 0.005)).joint:
            assert made.units * 0.2 + (made.units + 1) * made.joint == pytest.approx(width)


def test_units_on_a_curve_and_courses_round_it() -> None:
    # 915 × 125 on 12 m: each turns 0.0763, opens 9.5 mm outside and leaves the arc by 8.7.
    found = on_curve(0.915, 0.125, 12.0)
    assert (found.turns, found.opens, found.leaves) == pytest.approx((0.0763, 0.0095, 0.0087), abs=5e-5)
    # The chord's own sagitta, by the circle: R − √(R² − ℓ²/4), the same to a hundredth of a millimetre.
    assert found.leaves == pytest.approx(12 - math.sqrt(144 - 0.915**2 / 4), abs=1e-5)
    assert on_curve(0.915, 0.125, 0.4) is None
    assert least_radius(0.100, 0.200, 0.002, 0.005) == pytest.approx(6.80)


def test_concrete_mixes_spikes_and_pickets() -> None:
    assert bed_and_haunch(0.125, 0.150, vehicles=True) == pytest.approx(0.325 * 0.100 + 0.150 * 0.075)
    assert bed_and_haunch(0.125, 0.150, vehicles=True, under_bedding=0.040) == pytest.approx(0.0325 + 0.006)
    assert bed_and_haunch(0.050, 0.150, vehicles=False) == pytest.approx(0.200 * 0.1 + 0.1 * 0.075)
    # 10 m² of 25 mm, 1 to 4: 0.3125 m³ loose, 90 kg of cement in 3.6 bags of 25 kg or 2.1 of 94 lb, 400 kg of sand.
    made = mix(0.250, 4)
    assert (made.loose, made.cement, made.aggregate) == pytest.approx((0.3125, 90.0, 400.0))
    assert (made.bags, made.us_bags) == pytest.approx((3.6, 2.11), abs=0.005) and made.barrows == 5
    kerb = mix(0.04375 * 12, 6, kind="semi-dry", aggregate=ALL_IN)
    assert kerb.loose == pytest.approx(0.6825) and kerb.aggregate == pytest.approx(0.6825 * 6 / 7 * 1750)
    # 3 m: 11 spikes on foot, 21 in every hole; 2.95 m the same; none for none. Boards of 2.4 over 5 m: 4 + 4 + 2.
    assert [spikes(each, vehicles=False) for each in (3.0, 2.95, 0.2, 0.0)] == [11, 11, 2, 0]
    assert spikes(3.0, vehicles=True) == 21
    assert pickets(5.0, 2.4) == 10 and pickets(0.0, 2.4) == 0


# --- a run, joint by joint ---

MM = Unit.MILLIMETRES


def kerb(side: int = 0, upstand: str = "25", length: str = "0.915", joint: str = "3", **more) -> EdgePlanned:
    sizes = {"width": parse_layer("125", MM), "height": parse_layer("150", MM)} | more
    return EdgePlanned("k", side, EdgeKind.KERB, parse_signed(upstand, MM), parse_length(length, Unit.METRES),
                       parse_layer(joint, MM), **sizes)  # fmt: skip


def on_the_pad(*entries, job=None) -> Assessment:
    job = job or loads(PAD)
    set_up = SetUp("s", job.marks[0].name, parse_rod("1300", MM))
    return assess(replace(job, entries=(set_up, *entries)))


def top(a: Assessment, joint: int, high_mm: float, side: int = 0) -> EdgeShot:
    target = a.edges.target(side, joint, a.levels.present)
    return EdgeShot(f"t{joint}", "k", joint, "s", parse_rod(f"{target * 1000 - high_mm:.1f}", MM))


def test_units_fill_a_side_and_no_closer_is_under_a_third() -> None:
    """The pad's first side is 6 m. Of 915 and 3: six whole ones and 5 joints take 5.505, 495 are over: a closer of
    492. Of 990 and 3: six take 5.955 and 45 are over: two closers of half of 6 − 4.95 − 0.018, 516, instead."""
    a = on_the_pad(kerb())
    run = a.edges.runs[0]
    assert run.long == pytest.approx(6.0) and run.pieces == pytest.approx((*(0.915,) * 6, 0.492))
    two = on_the_pad(kerb(length="0.99")).edges.runs[0]
    assert two.pieces == pytest.approx((0.516, *(0.99,) * 5, 0.516))
    for length in ("0.2", "0.6", "0.75", "0.998", "1.2", "2.4", "5.9", "6"):
        made = on_the_pad(kerb(length=length)).edges.runs[0]
        gaps = (6.0 - sum(made.pieces)) / max(len(made.pieces) - 1, 1)
        assert 0.002 <= gaps <= 0.008 or len(made.pieces) == 1, (length, made.pieces)
        assert min(made.pieces) >= float(length) / 3 - 1e-9 and made.joints[-1] == pytest.approx(6.0)
        looked = [made.joints[n] for n in made.looked_at]
        assert looked[0] == 0.0 and looked[-1] == pytest.approx(6.0)
        assert all(high - low >= 0.42 for low, high in pairwise(looked))


def test_a_top_is_read_and_told_what_to_do() -> None:
    a = on_the_pad(kerb())
    height = a.levels.instrument_height(a.levels.set_up)
    place = a.edges.runs[0].place(3)
    assert a.edges.target(0, 3, a.levels.present) == pytest.approx(height - a.job.design.level(place) - 0.025)
    for high, says in ((0, "good"), (4, "good, close"), (10, "tap it down 10 mm"),
                       (14, "lift it, bed it 14 mm lower"), (-12, "lift it, bed it 12 mm higher"),
                       (7, "too close")):  # fmt: skip
        after = on_the_pad(kerb(), top(a, 3, high)).edges
        assert after.joints(0)[3].action.text(MM).startswith(says), high
        assert {f.rule for f in after.findings} == ({"E01"} if abs(high) >= 10 else set())
    assert a.edges.next_joint(0) == 0
    low = on_the_pad(kerb(), *(top(a, n, h) for n, h in ((0, 0), (1, 0), (2, -12), (3, -13), (4, 0), (5, 14)))).edges
    # Joints 2 and 3 are low, 5 too high to tap: units 2 to 4 and 5 to 6 touch, and go in one.
    assert [(r.first, r.last) for r in low.resets(0)] == [(2, 6)]
    assert low.resets(0)[0].words.text(MM).startswith("reset ")


def test_neighbours_and_line() -> None:
    a = on_the_pad(kerb())
    rough = on_the_pad(kerb(), *(top(a, n, h) for n, h in enumerate((0, 0, 5, 0, 0)))).edges
    assert rough.uneven(0) == ((2, pytest.approx(0.005, abs=1e-4)),) and {f.rule for f in rough.findings} == {"E02"}
    # A rise of 1 mm a joint is straight, however far it goes.
    even = on_the_pad(kerb(), *(top(a, n, n - 2) for n in range(5))).edges
    assert even.uneven(0) == () and even.findings == ()
    for off, rules in (("10", set()), ("-12", {"E03"})):
        lined = on_the_pad(kerb(), EdgeLined("l", "k", 2, parse_signed(off, MM))).edges
        assert {f.rule for f in lined.findings} == rules and lined.joints(0)[2].off == pytest.approx(
            float(off) / 1000
        )


def test_a_curve_too_tight_for_its_units_and_what_a_run_takes() -> None:
    job = loads(PAD)
    # Half a circle of 3 m radius over the 6 m side: straight units of 915 leave it by 35 mm; the longest may be 490.
    round_job = replace(job, bulges=(1.0, 0.0, 0.0, 0.0), facets=job.facets)
    bowed = on_the_pad(kerb(), job=round_job).edges
    assert bowed.runs[0].long == pytest.approx(3 * math.pi) and {f.rule for f in bowed.findings} == {"E04"}
    assert bowed.runs[0].longest_unit(3.0) == pytest.approx(0.490, abs=0.001)
    assert on_the_pad(kerb(length="0.45"), job=round_job).edges.findings == ()
    takes = on_the_pad(kerb()).edges.takes(0)
    assert takes.concrete == pytest.approx(0.04375 * 6)
    assert takes.mix.bags == pytest.approx(0.04375 * 6 * 1.3 / 7 * 1440 / 25)
    strip = replace(kerb(length="2.4", joint="0"), what=EdgeKind.SPIKED)
    assert (on_the_pad(strip).edges.takes(0).spikes, len(on_the_pad(strip).edges.runs[0].pieces)) == (
        41,
        3,
    )  # under cars a spike in every hole


def test_a_side_has_no_more_units_than_can_be_set() -> None:
    long = replace(loads(PAD), outline=((0.0, 0.0), (400.0, 0.0), (400.0, 4.0), (0.0, 4.0)), station_spacing=20.0)
    assert kerb(length="0.05").wrong(on_the_pad(job=long).standing).field == "length"


def test_what_cannot_be_of_an_edge() -> None:
    there = on_the_pad(kerb()).standing
    shot = EdgeShot("t", "k", 2, "s", parse_rod("1300", MM))
    assert shot.wrong(there) is None
    for wrong, field in ((replace(shot, joint=99), "joint"), (replace(shot, edge="moon"), "edge"),
                         (replace(shot, set_up="moon"), "set_up"), (kerb(side=9), "side"),
                         (kerb(length="9"), "length"), (kerb(upstand="900"), "upstand"), (kerb(joint="80"), "joint"),
                         (EdgeLined("l", "k", 1, parse_signed("2000", MM)), "off")):  # fmt: skip
        assert wrong.wrong(there).field == field


# --- by string, misread, unsure ---


def strung(joint: int, down: str, over: str = "100") -> EdgeStrung:
    return EdgeStrung(f"g{joint}{down}", "k", joint, parse_layer(over, MM), parse_signed(down, MM))


def test_a_tight_string_over_both_ends_is_taped_down_from() -> None:
    """The pad's first side is level; units of 1.2: five, joints at 1.2 … 4.8. A string 100 over both ends, weight
    0.5 g/m at 50 N: over 6 m it hangs 0.0005 × 9.80665 × 36 / 400 = 0.44 mm in the middle, so 99.56 is to be taped at
    3 m and 0.96 of that at 2.4: 4 × 0.4 × 0.6 × 0.44 = 0.42 less."""
    a = on_the_pad(kerb(length="1.197"))
    ends = (top(a, 0, 0), top(a, 5, 0))
    assert on_the_pad(kerb(length="1.197"), strung(2, "100")).edges.joints(0)[2].deviation is None
    now = on_the_pad(kerb(length="1.197"), *ends)
    level = now.edges
    string = level.string(0, 0.100)
    design = [level.runs[0].level(n) for n in range(6)]
    straight = design[0] + 0.4 * (design[5] - design[0]) - design[2]
    assert string.target(2) == pytest.approx(0.100 + straight - 0.00042, abs=2e-5)
    assert string.reading_u == 0.0015
    # With the far end 5 high the string is 2 higher at the second joint, and 2 more is to be taped there.
    tilted = on_the_pad(kerb(length="1.197"), top(a, 0, 0), top(a, 5, 5)).edges.string(0, 0.100)
    assert tilted.target(2) - string.target(2) == pytest.approx(0.002, abs=1e-4)
    high = on_the_pad(kerb(length="1.197"), *ends, strung(2, "92")).edges.joints(0)[2]
    assert high.deviation == pytest.approx(string.target(2) - 0.092, abs=1e-6) and str(high.call) in (
        "high",
        "too close",
    )
    # What is read last counts, by level or by string.
    again = on_the_pad(kerb(length="1.197"), *ends, strung(2, "92"), top(a, 2, 0)).edges.joints(0)[2]
    assert again.deviation == pytest.approx(0.0, abs=1e-6)
    assert strung(0, "90").wrong(now.standing).field == "joint" and strung(5, "90").wrong(now.standing)
    assert strung(2, "90", "900").wrong(now.standing).field == "over"


def test_a_reading_that_looks_misread_is_asked_about() -> None:
    a = on_the_pad(kerb())
    target = round(a.edges.target(0, 3, a.levels.present) * 1000)

    def told(mm: int, *before) -> str | None:
        found = on_the_pad(kerb(), *before).edges.misread(EdgeShot("n", "k", 3, "s", parse_rod(str(mm), MM)))
        return found and found.slip

    # A kerb stands some centimetres off before it is tapped: that is no misreading. 100 off is, and so is a metre.
    assert [told(target + off) for off in (0, 12, -25)] == [None, None, None]
    assert (told(target + 100), told(target - 1000)) == ("100 mm", "a metre")
    assert told(target + 63) == "far from its neighbours"
    assert on_the_pad(kerb()).edges.misread(EdgeShot("n", "no such", 3, "s", parse_rod("1", MM))) is None


def test_what_is_not_sure_enough_is_not_taken() -> None:
    a = on_the_pad(kerb())
    assert a.edges.too_unsure(0, 2, a.levels.present) is None
    # A string dipped to ±3, and by half of that for all of them, is sure to 1.645 √11.25: 5.5; enough for a kerb's 6,
    # not for a rail's 5.
    assert SET.too_unsure(math.hypot(0.003, 0.0015)) is None
    rail = SettingRule(Tolerance(0.005, 0.005), "", "")
    assert rail.too_unsure(math.hypot(0.003, 0.0015)).text(MM).startswith("not sure enough for 5 mm: take a laser")
    assert rail.too_unsure(0.003) is None


# --- which edge ---


def ranked(job, side: int = 0) -> list[str]:
    return [str(option.kind) for option in assess(job).edges.options(side)]


def with_base(job, school: str, **brief):
    of_it = schools()[school]
    traffic = Traffic(brief.pop("traffic", "foot"))
    made = replace(job.brief, traffic=traffic, **brief)
    return replace(job, brief=made, specification=of_it.specification(traffic), features=brief.pop("features", ()))


def test_which_edge_by_the_table() -> None:
    """The positions of practitioners: concrete holds under wheels and in soft beds, a spiked strip holds well in
    fines and poorly in clean stone, kerbs where the base is built between them, an angle on a slab, a wall there."""
    pad = loads(PAD)
    foot = ranked(with_base(pad, "dense"))
    assert foot[0] == "spiked edging" and "angle on a slab" not in foot and "wall that is there" not in foot
    assert ranked(with_base(pad, "kerbed", traffic="drive"))[0] == "kerb"
    clean = ranked(with_base(pad, "open", traffic="drive"))
    assert clean.index("concrete edge") < clean.index("spiked edging")
    slab = ranked(with_base(pad, "overlay", sound_slab=True))
    assert slab[0] == "angle on a slab" and "spiked edging" not in slab
    assert ranked(with_base(pad, "slab", traffic="drive"))[0] in ("form", "angle on a slab")
    walled = with_base(pad, "dense")
    wall = Feature("building", "house", along_side(walled.outline, 1, "building"), 1)
    walled = replace(walled, features=(wall,))
    assert ranked(walled, 1)[0] == "wall that is there" and ranked(walled, 0)[0] == "spiked edging"
    # Every option says why, and nothing is offered twice.
    for option in assess(walled).edges.options(1):
        assert option.reasons and all(r.words.text(MM) for r in option.reasons)
    assert len(set(foot)) == len(foot)


def test_the_width_is_looked_at_before_the_edge_is_fixed() -> None:
    """A rectangle of 6 by 3, a wedge and an opening, widths by hand."""
    pad = loads(PAD)
    courses = Courses(0.100, 0.200, 0.002, 0.002, 0.005)
    square = replace(pad, outline=((0.0, 0.0), (6.0, 0.0), (6.0, 3.0), (0.0, 3.0)), bulges=(), islands=())
    (only,) = fills(square, 0, courses)
    assert (only.at, only.width, only.filled.units) == (3.0, pytest.approx(3.0), 29)
    assert only.filled.joint == pytest.approx(0.1 / 30) and only.filled.strip == pytest.approx(0.042)
    assert only.moves == pytest.approx(-0.040) and bends(square, 0, courses) is None
    wedge = replace(square, outline=((0.0, 0.0), (6.0, 0.0), (6.0, 3.0), (0.0, 2.4)))
    assert [w for _at, w in widths(wedge, 0)] == pytest.approx([2.405, 2.7, 2.995], abs=1e-3)
    holed = replace(square, islands=(Island("tree", "tree pit", circle((3.0, 2.0), 0.5)),))
    assert [w for _at, w in widths(holed, 0)] == pytest.approx([3.0, 1.5, 3.0], abs=2e-3)
    arch = replace(square, bulges=(0.0, 0.0, 1.0, 0.0))
    assert widths(arch, 2) == () and bends(arch, 2, Courses(0.200, 0.100, 0.002, 0.002, 0.005)) == (
        pytest.approx(3.0), pytest.approx(6.80),
    )  # fmt: skip


# --- what has to set, what is left out ---


def bedded(at: datetime, celsius: float) -> EdgeBedded:
    return EdgeBedded("b", "k", at, celsius)


def test_a_green_haunch_holds_the_plate_and_the_laying() -> None:
    """Made on the 5th at 15:30 at 20 °C: laid against from the 6th, 15:30; a plate on foot from the 7th, 15:30."""
    job, made = loads(PAD), bedded(datetime(2026, 3, 5, 15, 30), 20)
    job = replace(job, brief=replace(job.brief, traffic=Traffic.FOOT))
    for day, laid, plated in ((5, "stop", "stop"), (6, "warning", "stop"), (7, None, "warning"), (8, None, None)):
        there = on_the_pad(kerb(), made, job=replace(job, today=date(2026, 3, day))).edges
        found = [next((str(f.severity) for f in there.waiting(what)), None) for what in ("laid", "plated")]
        assert found == [laid, plated], day
    drive = replace(job, brief=replace(job.brief, traffic=Traffic.DRIVE), today=date(2026, 3, 8))
    wait = on_the_pad(kerb(), made, job=drive).edges.haunch(0)
    assert wait.plated == datetime(2026, 3, 8, 15, 30)
    frost = on_the_pad(kerb(), bedded(datetime(2026, 3, 5, 15, 30), -2), job=replace(job, today=date(2027, 3, 5)))
    assert [str(f.severity) for f in frost.edges.waiting("plated")] == ["stop"]
    assert list(on_the_pad(kerb(), made).edges.waiting("plated")) == [] and on_the_pad(kerb()).edges.haunch(0) is None
    laying = frost.stages.of("laying") if "laying" in frost.stages.steps else None
    assert laying is None or "E07" in {f.rule for f in laying.findings}


def test_a_board_left_out_is_asked_for_before_the_pour_and_the_last_lift() -> None:
    form = replace(kerb(length="2.4", joint="0", upstand="0"), what=EdgeKind.FORM)
    out = on_the_pad(form, BoardLeft("o", "k", 2, True))
    assert out.edges.boards_out == ((0, 2),)
    assert "E05" in {f.rule for f in out.stages.of("base-lifts").findings}
    assert BoardLeft("p", "k", 1, True).wrong(out.standing).words.text(MM) == "one board at a time: board 2 is out"
    assert BoardLeft("p", "k", 2, True).wrong(out.standing) is None
    assert BoardLeft("p", "k", 9, True).wrong(out.standing).field == "board"
    closed = on_the_pad(form, BoardLeft("o", "k", 2, True), BoardLeft("c", "k", 2, False))
    assert closed.edges.boards_out == () and "E05" not in {f.rule for f in closed.edges.findings}
    # A new plan of that side has its boards in, whatever was out of the one before.
    anew = on_the_pad(form, BoardLeft("o", "k", 2, True), replace(form, id="k2"))
    assert anew.edges.boards_out == () and BoardLeft("p", "k2", 1, True).wrong(anew.standing) is None
    assert BoardLeft("p", "k", 1, True).wrong(on_the_pad(kerb()).standing).field == "edge"
    assert bedded(datetime(2026, 3, 5), 9).wrong(on_the_pad(form).standing).field == "edge"


# --- the risk of the verdict ---


def test_what_simple_acceptance_risks_by_simulation() -> None:
    """Tops as set lie normally about their level, 4 mm standard, and are read to 2 mm. By simple acceptance what is
    called good is truly out, beyond 6 mm, as often as the two normals say (integrated on a grid, no code of ours);
    of one on its limit one reading in twenty stops it, of what is in all in all one in forty."""
    draw = np.random.default_rng(23)
    truth, u = draw.normal(0, 0.004, 200_000), 0.002
    read = truth + draw.normal(0, u, truth.size)
    table = {r: SET.call(r / 10_000, u) for r in range(-400, 401)}
    calls = np.array([str(table[int(r)]) for r in np.clip(np.round(read * 10_000), -400, 400)])
    grid = np.linspace(-0.03, 0.03, 6001)
    weight = np.exp(-((grid / 0.004) ** 2) / 2)
    inside = np.array(
        [0.5 * (math.erf((0.006 - x) / u / 2**0.5) - math.erf((-0.006 - x) / u / 2**0.5)) for x in grid]
    )
    expected = float((weight * inside)[np.abs(grid) > 0.006].sum() / (weight * inside).sum())
    good = calls == "good"
    assert (np.abs(truth[good]) > 0.006).mean() == pytest.approx(expected, abs=0.004)
    stopped = (calls == "high") | (calls == "low")
    right = np.abs(truth) <= 0.006
    assert stopped[right].mean() < 0.025
    at_limit = [str(SET.call(0.006 + x, u)) for x in draw.normal(0, u, 4000)]
    assert at_limit.count("high") / 4000 == pytest.approx(0.05, abs=0.011)
    assert at_limit.count("good") / 4000 == pytest.approx(0.5, abs=0.04)
