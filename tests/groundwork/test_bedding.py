"""Rails, the bed over the base and what a trial patch takes off: by hand, by tables of beams, by integration."""

import math
from dataclasses import replace
from datetime import date, datetime

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import PAD

from groundwork.assess import Assessment, assess
from groundwork.base import BaseSpecification, Layer, Role, Tolerance
from groundwork.bedding import covered, flag_mass, notch, to_lift, with_settlement
from groundwork.bedding.bed import bed_over, off_level
from groundwork.bedding.mortar import percent_held
from groundwork.bedding.rails import rail_plan
from groundwork.bedding.sag import sag_by_itself, sag_by_load
from groundwork.bedwork import (
    BatchEnded,
    BatchMixed,
    BayChecked,
    BayClosed,
    BayScreeded,
    FlagLifted,
    RailDipped,
    RailShot,
    RailsPlanned,
    TrialSeated,
)
from groundwork.built import AsBuilt
from groundwork.edges import SET
from groundwork.entries import Disturbance, Reading, SetUp
from groundwork.files import loads
from groundwork.job import Job, Mark
from groundwork.measures import Unit, parse_layer, parse_length, parse_rod
from groundwork.shape import Island, circle
from groundwork.surfaces import Facet
from groundwork.survey import SettingRule
from groundwork.verdict import COVERAGE, ROUNDING, Call, call

M, MM = Unit.METRES, Unit.MILLIMETRES
LAYERS = (
    Layer(Role.PAVING, "concrete-block", 0.060),
    Layer(Role.BEDDING, "concrete-sand", 0.030),
    Layer(Role.BASE, "dense-graded", 0.150),
)


def planned(board: str = "2.0", way: str = "along", longest: str = "3.0") -> RailsPlanned:
    return RailsPlanned("p", parse_length(board, M), way, parse_layer("25", M), parse_length(longest, M))


def job_of(*facets: Facet, outline=None, spacing: float = 1.0, **more) -> Job:
    outline = outline or facets[0].outline
    return Job("Bed", Unit.MILLIMETRES, outline, facets, BaseSpecification("dense", LAYERS, 0.005), spacing, **more)


def plane(outline, at=(0.0, 0.0), bearing: float = 180.0, fall: float = 1 / 50, level: float = 100.0) -> Facet:
    return Facet("all", outline, at, level, bearing, fall)


RECTANGLE = ((0.0, 0.0), (5.0, 0.0), (5.0, 4.0), (0.0, 4.0))


def test_a_steel_tube_sags_as_tables_of_beams_have_it() -> None:
    # 25 × 2: I 3.40·10⁻⁸... π/64 (0.025⁴ − 0.021⁴) = 9.628·10⁻⁹ m⁴; 1.134 kg/m. Simple beam, any table.
    assert sag_by_itself(0.025, 3.0) * 1000 == pytest.approx(5.8, abs=0.05)
    assert sag_by_itself(0.025, 1.5) * 1000 == pytest.approx(0.36, abs=0.005)
    assert sag_by_load(0.025, 1.5, 10 * 9.81) * 1000 == pytest.approx(3.5, abs=0.1)
    assert sag_by_load(0.025, 0.75, 10 * 9.81) * 1000 == pytest.approx(0.43, abs=0.01)


def test_rails_of_a_rectangle_by_hand() -> None:
    """5 m wide, falling 1:50 to the south, a board of 2 m: bays of at most 1.9 in 4.9 m are three of 1.633; four
    rails of 4 m, 80 mm from end to end, tops 55 mm below finished (60 less 5)."""
    plan = rail_plan(job_of(plane(RECTANGLE)), planned())
    rails = list(plan.rails.values())
    assert [rail.name for rail in rails] == ["R1", "R2", "R3", "R4"]
    east = sorted(rail.start[0] for rail in rails)
    assert east == pytest.approx([0.05, 0.05 + 4.9 / 3, 0.05 + 9.8 / 3, 4.95])
    for rail in rails:
        assert (rail.start[1], rail.end[1]) == pytest.approx((4.0, 0.0))  # down the fall
        assert (rail.start_level, rail.end_level) == pytest.approx((100 + 0.08 - 0.055, 100 - 0.055))
        assert rail.tubes(3.0) == 2 and rail.spans == 6  # 4 m in lengths of 0.67
    assert [bay.name for bay in plan.bays] == ["B1", "B2", "B3"] and sum(b.area for b in plan.bays) == pytest.approx(
        20
    )
    across = rail_plan(job_of(plane(RECTANGLE)), planned(way="across"))
    assert len(across.rails) == 4 and {round(rail.length, 6) for rail in across.rails.values()} == {5.0}
    assert all(rail.start_level == pytest.approx(rail.end_level) for rail in across.rails.values())


def test_rails_of_a_re_entrant_shape_stop_at_its_edge() -> None:
    """A U 9 m wide, 6 deep, its notch 3 wide and 4 deep from the north, falling south. Five bays of 1.78: lines at
    3.61 and 5.39 end at the notch, 2 m long, and the board goes on along rails of 4 m just inside its sides."""
    outline = ((0.0, 0.0), (9.0, 0.0), (9.0, 6.0), (6.0, 6.0), (6.0, 2.0), (3.0, 2.0), (3.0, 6.0), (0.0, 6.0))
    job = job_of(plane(outline))
    plan = rail_plan(job, planned())
    found = {round(rail.start[0], 3): round(rail.length, 2) for rail in plan.rails.values()}
    assert found == {0.05: 6.0, 1.83: 6.0, 2.95: 4.0, 3.61: 2.0, 5.39: 2.0, 6.05: 4.0, 7.17: 6.0, 8.95: 6.0}
    for rail in plan.rails.values():
        assert job.area.buffer(1e-6).covers(shapely.LineString([rail.start, rail.end]))
    across = rail_plan(job, planned(way="across"))
    in_arms = [rail for rail in across.rails.values() if rail.start[1] > 2.1]
    assert {round(rail.length, 6) for rail in in_arms} == {3.0} and len(in_arms) % 2 == 0
    assert sum(bay.area for bay in across.bays) == pytest.approx(job.area.area, abs=1e-3)


def test_two_facets_and_a_valley_have_rails_of_their_own() -> None:
    """Two planes of 3 m falling to a valley in the middle: none crosses it, and tops on it agree from both sides."""
    west = Facet("west", ((0, 0), (3, 0), (3, 4), (0, 4)), (3, 0), 99.0, 90.0, 1 / 40)
    east = Facet("east", ((3, 0), (6, 0), (6, 4), (3, 4)), (3, 0), 99.0, 270.0, 1 / 40)
    plan = rail_plan(job_of(west, east, outline=((0, 0), (6, 0), (6, 4), (0, 4))), planned())
    assert len(plan.rails) == 8 and {round(rail.length, 6) for rail in plan.rails.values()} == {3.0}
    assert all(rail.end[0] == pytest.approx(3.0) and rail.end_level == pytest.approx(99 - 0.055)
               for rail in plan.rails.values())  # fmt: skip
    assert {round(rail.start_level, 6) for rail in plan.rails.values()} == {round(99 + 3 / 40 - 0.055, 6)}


def test_a_triangle_and_an_island() -> None:
    """A right triangle of 4 by 4 falling south: each line is as long as the triangle is high there, and between two
    of them the board goes on along the long side."""
    plan = rail_plan(job_of(plane(((0.0, 0.0), (4.0, 0.0), (0.0, 4.0)))), planned())
    lines = [rail for rail in plan.rails.values() if rail.start[0] == pytest.approx(rail.end[0])]
    slanted = [rail for rail in plan.rails.values() if rail not in lines]
    assert all(rail.length == pytest.approx(4 - rail.start[0]) for rail in lines) and len(lines) == len(slanted) == 3
    assert all(0 < 4 - sum(place) <= 0.051 for rail in slanted for place in rail.ends)
    assert sum(bay.area for bay in plan.bays) == pytest.approx(8)


@pytest.mark.parametrize("seed", range(12))
def test_the_board_lies_on_two_rails_wherever_it_is(seed: int) -> None:
    """Of random outlines with a hole: square to the way from any place of a bay there is a rail on both sides, no
    further apart than the board less its overhang, but where the edge leaves no room for one."""
    draw = np.random.default_rng(seed)
    turned = draw.uniform(0, 0.5, 9) + np.arange(9) * 2 * math.pi / 9
    outline = tuple((float(r * math.cos(a)), float(r * math.sin(a)))
                    for r, a in zip(draw.uniform(1.5, 5, 9), turned, strict=True))  # fmt: skip
    pear = Island("tree pit", "pear", circle((0.2, 0.1), 0.4))
    plan = rail_plan(job_of(plane(outline, bearing=float(draw.uniform(0, 360))), islands=(pear,)), planned())
    for bay in plan.bays:
        for _n in range(40):
            place = np.array(shapely.get_coordinates(bay.outline.representative_point())[0])
            place = place + draw.uniform(-2, 2, 2)
            if not bay.outline.buffer(-0.2).covers(shapely.Point(place)):
                continue
            along, aside = float(place @ bay.way), np.array((-bay.way[1], bay.way[0]))
            offs = []
            for side in (bay.one, bay.other):
                spans = [(rail, sorted(float(np.array(end) @ bay.way) for end in rail.ends)) for rail in side]
                reached = [rail for rail, (low, high) in spans if low - 1.01 <= along <= high + 1.01]
                assert reached, (bay.name, place)
                near = min(reached, key=lambda rail: shapely.LineString(rail.ends).distance(shapely.Point(place)))
                ends = sorted((float(np.array(e) @ bay.way), float(np.array(e) @ aside)) for e in near.ends)
                offs.append(float(np.interp(along, *zip(*ends, strict=True))))
            assert 0 < offs[1] - offs[0] <= 1.9 + 1e-6, (bay.name, offs)


def test_a_board_wider_than_the_area_wants_two_rails() -> None:
    narrow = ((0.0, 0.0), (1.2, 0.0), (1.2, 18.0), (0.0, 18.0))
    plan = rail_plan(job_of(plane(narrow)), planned("3.0"))
    assert len(plan.rails) == 2 and len(plan.bays) == 1
    sliver = ((0.0, 0.0), (0.1, 0.0), (0.1, 5.0), (0.0, 5.0))
    assert len(rail_plan(job_of(plane(sliver)), planned()).rails) == 2


def test_the_bed_over_a_base_against_integration() -> None:
    """A base with a low corner under rails of which one is 6 mm high at one end: the mean by a fine grid, the least
    and the greatest where they are by hand."""
    job = job_of(plane(RECTANGLE))
    plan = rail_plan(job, planned())
    off = {("R4" if plan.rails["R4"].start[0] > 4 else "R1", "start"): 0.006}

    def dip(x, y):
        return -0.020 * np.clip(1 - np.hypot(x - 5, y - 4) / 2, 0, None)

    stations = job.stations
    built = AsBuilt(job, job.specification.surface("base"), stations, [float(dip(*s.at)) for s in stations])
    bed = bed_over(job, built, plan, off)
    rail = plan.rails[next(iter(off))[0]]
    other = max((r for r in plan.rails.values() if r is not rail), key=lambda r: r.start[0])

    assert bed.greatest == (pytest.approx(0.030 + 0.006 + 0.020, abs=1e-6), pytest.approx((5, 4)))
    assert bed.least[0] == pytest.approx(0.030 - float(built.deviations.max()), abs=1e-4)
    step = 0.02
    x, y = (each.ravel() for each in np.meshgrid(np.arange(step / 2, 5, step), np.arange(step / 2, 4, step)))
    inside = np.isfinite(level := built.mesh.level_at(built.deviations, np.column_stack([x, y])))
    lift = 0.006 * y / 4 * np.clip((x - other.start[0]) / (rail.start[0] - other.start[0]), 0, 1)
    mean = float((0.030 + lift - level)[inside].mean())
    assert bed.mean == pytest.approx(mean, abs=0.0002) and bed.area == pytest.approx(inside.sum() * step**2, abs=0.2)


def test_without_a_plan_or_a_setting_the_bed_is_as_designed() -> None:
    job = job_of(plane(RECTANGLE))
    assert off_level(None, {}, np.array([[1.0, 1.0]])) == pytest.approx([0.0])
    built = AsBuilt(job, job.specification.surface("base"), job.stations)
    bed = bed_over(job, built, None, {})
    assert (bed.least[0], bed.greatest[0], bed.mean) == pytest.approx((0.030, 0.030, 0.030))
    assert bed.volume == pytest.approx(0.030 * 20) and math.isclose(max(bed.at_stations().values()), 0.030)
    thin = replace(job, specification=replace(job.specification, settlement=0.0))
    assert bed_over(thin, AsBuilt(thin, thin.specification.surface("base"), thin.stations), None, {}).mean == (
        pytest.approx(0.030))  # fmt: skip


# --- as recorded ---


def on_the_pad(*entries) -> Assessment:
    """The pad of the tests, 6 by 4 m, with a level set up."""
    job = loads(PAD)
    set_up = SetUp("s", job.marks[0].name, parse_rod("1300", Unit.MILLIMETRES))
    return assess(replace(job, entries=(set_up, planned(), *entries)))


def shot(a: Assessment, rail: str, end: str, high_mm: float, name: str = "") -> RailShot:
    """Read so high over what it should be."""
    target = a.bedding.target(rail, end, a.levels.present)
    reading = parse_rod(f"{(target - high_mm / 1000) * 1000:.1f}", Unit.MILLIMETRES)
    return RailShot(name or f"{rail}{end}", "p", rail, end, "s", reading)


def test_a_rail_is_shot_at_both_ends_and_told_what_to_do() -> None:
    a = on_the_pad()
    bed = a.bedding
    first = next(iter(bed.ends.values()))
    height = a.levels.instrument_height(a.levels.set_up)
    assert bed.target(first.rail.name, first.end, a.levels.present) == pytest.approx(height - first.level)
    for high, says in ((0, "good"), (4.0, "good, close"), (9.0, "bed it down 9 mm"), (-9.0, "pack it up 9 mm"),
                       (6.0, "too close")):  # fmt: skip
        after = on_the_pad(shot(a, first.rail.name, first.end, high)).bedding
        end = after.ends[first.rail.name, first.end]
        assert end.deviation == pytest.approx(high / 1000, abs=1e-4)
        assert end.action.text(Unit.MILLIMETRES).startswith(says), (high, end.action)
        assert {f.rule for f in after.findings} == ({"K01"} if abs(high) == 9 else set())
    assert bed.next_end == (first.rail.name, first.end)
    done = on_the_pad(shot(a, first.rail.name, first.end, 0.0)).bedding
    assert done.next_end == list(bed.ends)[1]


@given(st.floats(-0.03, 0.03), st.floats(0.0001, 0.006))
def test_what_a_page_says_is_what_the_judgement_says(deviation: float, u: float) -> None:
    """The outcomes that travel against the call itself, over deviations and tools; lifted beyond 10 mm, and not
    before a call is high."""
    for rule in (SET, SettingRule(Tolerance(0.005, 0.005), "down {amount}", "up {amount}")):
        told = [each for each in rule.outcomes(COVERAGE * u) if deviation > each.over(COVERAGE * u)][-1]
        assert told.call is call(deviation, u, rule.tolerance, simple=True)
        assert (told.phrase == rule.too_high) == (told.call is Call.HIGH and deviation > rule.most + ROUNDING)
        assert rule.action(deviation, u, was_shot=True).phrase == told.phrase


def test_a_level_that_moved_a_new_plan_and_a_rail_there_is_not() -> None:
    a = on_the_pad()
    rail, end = next(iter(a.bedding.ends))
    knocked = on_the_pad(shot(a, rail, end, 0.0), Disturbance("d", a.job.marks[0].name, "s"))
    assert knocked.bedding.ends[rail, end].deviation is None
    assert "no longer holds" in knocked.bedding.ends[rail, end].action.text(Unit.MILLIMETRES)
    anew = on_the_pad(shot(a, rail, end, 9.0), replace(planned("3.0"), id="p2"))
    assert all(each.shot is None for each in anew.bedding.ends.values()) and anew.bedding.findings == ()
    there = a.standing
    assert shot(a, rail, end, 0).wrong(there) is None
    assert replace(shot(a, rail, end, 0), rail="R99").wrong(there).field == "rail"
    assert replace(shot(a, rail, end, 0), plan="moon").wrong(there).field == "plan"
    assert replace(shot(a, rail, end, 0), set_up="moon").wrong(there).field == "set_up"
    assert planned("9").wrong(there).field == "board" and planned(longest="0.1").wrong(there).field == "longest"


def test_a_string_shows_what_hangs_and_a_trial_what_seating_takes() -> None:
    a = on_the_pad()
    rail = a.bedding.plan.rails["R1"]
    should = a.bedding.hangs(rail)
    # 4 m in six lengths: a packing stands in the middle.
    assert rail.spans == 6 and should == 0.0
    for gap, rules in (("1", set()), ("4", {"K05"})):
        assert {f.rule for f in on_the_pad(RailDipped("q", "p", "R1", parse_layer(gap, M))).bedding.findings} == rules
    units = [TrialSeated(f"t{n}", f"unit {n}", parse_layer(str(high), M), parse_layer("0", M))
             for n, high in enumerate((8, 9, 8.5))]  # fmt: skip
    assert on_the_pad(*units[:2]).bedding.findings == ()
    (found,) = on_the_pad(*units).bedding.findings
    assert found.rule == "K06" and found.found.lengths["drop"] == pytest.approx(0.0085)
    changed = with_settlement(a.job.specification, 0.0085)
    assert changed.settlement == 0.0085 and changed.excavation_depth == pytest.approx(
        a.job.specification.excavation_depth)  # fmt: skip
    assert TrialSeated("t", "x", parse_layer("2", M), parse_layer("5", M)).wrong(a.standing).field == "after"


def test_a_base_too_low_is_caught_before_the_bed_and_packings_reach_down_to_it() -> None:
    a = on_the_pad()
    key, spec = a.bedding.carrying, a.job.specification
    station = a.job.stations[0]
    depth = dict.fromkeys((s.name for s in a.job.stations), 0.0) | {station.name: 0.035}
    readings = [
        Reading(f"r{n}", s.name, "s", parse_rod(
            f"{(a.targets.at(s.name, key) + depth[s.name]) * 1000:.1f}", Unit.MILLIMETRES), surface=key)
        for n, s in enumerate(a.job.stations)
    ]  # fmt: skip
    low = on_the_pad(*readings).bedding
    (found,) = (f for f in low.findings if f.rule == "K02")
    assert found.stations == (station.name,)
    assert low.bed.greatest[0] == pytest.approx(spec.layer(Role.BEDDING).thickness + 0.035, abs=0.002)
    assert a.bedding.bed is None and not any(f.rule.startswith("K") for f in a.bedding.findings)
    # A packing over the design: bed less tube; where the base is shot and as designed, the same.
    rail = low.plan.rails["R1"]
    usual = spec.layer(Role.BEDDING).thickness - 0.025
    assert [pack for _at, pack, is_shot in a.bedding.packs("R1") if not is_shot] == pytest.approx([usual] * 7)
    assert min(pack for _at, pack, _shot in low.packs(rail.name)) == pytest.approx(usual, abs=0.002)


def test_by_hand_a_packing_of_seven_and_a_notch_of_fifty_five() -> None:
    """100.000 finished, a unit of 60 laid 5 proud, a tube of 25, the base at 99.913: 7 mm under the rail; and off a
    flush kerb the notch is 55."""
    job = job_of(plane(RECTANGLE))
    rail = next(iter(rail_plan(job, planned()).rails.values()))
    at_100 = (100.0 - (rail.start_level + 0.055)) / (rail.end_level - rail.start_level)
    assert (rail.level(at_100) - 0.025 - 99.913) * 1000 == pytest.approx(7.0, abs=1e-6)
    assert notch(job, 0.0) == pytest.approx(0.055)


def test_as_much_as_will_be_covered() -> None:
    bays = rail_plan(job_of(plane(RECTANGLE)), planned()).bays
    assert [(bay.name, round(share, 3)) for bay, share in covered(bays, 10.0)] == [
        (bays[0].name, 1.0), (bays[1].name, round((10 - bays[0].area) / bays[1].area, 3))]  # fmt: skip
    half = bays[0].until(0.5)
    assert half.area == pytest.approx(bays[0].area / 2) and half.bounds[3] == pytest.approx(4.0)  # from its upper end
    assert covered(bays, 0.0) == [] and [share for _bay, share in covered(bays, 99)] == [1.0, 1.0, 1.0]


# --- bays, mortar ---


def screeded(bay: str, day: int, hour: int = 9) -> BayScreeded:
    return BayScreeded(f"sc{bay}{day}-{hour}", "p", bay, datetime(2026, 3, day, hour))


def looked(bay: str, along: str, across: str, n: str = "") -> BayChecked:
    return BayChecked(f"ch{bay}{n}", "p", bay, parse_layer(along, MM), parse_layer(across, MM))


def on_day(day: int, *entries) -> Assessment:
    return assess(replace(job_of(plane(RECTANGLE)), today=date(2026, 3, day), entries=(planned(), *entries)))


def test_a_bay_is_screeded_looked_at_and_covered() -> None:
    """5 is what a bed may lie low, told by wedge to ±0.8 (1.645 × 0.5): 5 good, 5.6 look again, 7 add and screed."""
    for gaps, step, action in (
        (("2", "5"), "cover", "level"), (("5.6", "1"), "check", "lay the straightedge"),
        (("1", "7"), "mend", "add 7 mm where it is low, screed again"),
    ):  # fmt: skip
        bed = on_day(6, screeded("B1", 6), looked("B1", *gaps)).bedding
        assert (bed.bays["B1"].step, bed.bays["B1"].action.text(MM).startswith(action)) == (step, True), gaps
        assert ("K09" in {f.rule for f in bed.findings}) == (step == "mend")
    assert [each.step for each in on_day(6).bedding.bays.values()] == ["screed"] * len(on_day(6).bedding.bays)
    again = on_day(6, screeded("B1", 6), looked("B1", "1", "7"), screeded("B1", 6, 11)).bedding
    assert again.bays["B1"].step == "check" and "K09" not in {f.rule for f in again.findings}
    laid = on_day(6, screeded("B1", 6), looked("B1", "1", "7"), BayClosed("c", "p", "B1", "laid")).bedding
    assert laid.bays["B1"].step == "" and "K09" in {f.rule for f in laid.findings}
    assert looked("B9", "1", "1").wrong(on_day(6).standing).field == "bay"
    assert looked("B1", "400", "1").wrong(on_day(6).standing).field == "along"


def test_what_is_left_open_overnight_is_flagged() -> None:
    def rules(day: int, *more) -> set[str]:
        return {f.rule for f in on_day(day, screeded("B1", 6), *more).bedding.findings}

    assert "K08" not in rules(6) and "K08" in rules(7)
    for how in ("laid", "sheeted", "raked off"):
        assert "K08" not in rules(7, BayClosed("c", "p", "B1", how))
    assert on_day(7, screeded("B1", 6), BayClosed("c", "p", "B1", "sheeted")).bedding.bays["B1"].step == "lay"
    assert on_day(7, screeded("B1", 6), BayClosed("c", "p", "B1", "raked off")).bedding.bays["B1"].step == "screed"
    # A new plan of rails has bays of its own.
    other = replace(planned(board="1.5"), id="q")
    assert all(each.screeded is None for each in on_day(7, screeded("B1", 6), other).bedding.bays.values())


def test_a_batch_has_its_life_and_a_hollow_flag_is_lifted() -> None:
    """90 minutes at 20 °C, 45 at 30; 95 % of a back at least; 600 × 600 × 50 at 2300 is 41.4 kg; of 10 m² of such
    flags, 28, two are lifted."""
    at = datetime(2026, 3, 6, 10, 15)
    warm, hot = (BatchMixed(f"m{c}", at, 4.0, 0.08, c) for c in (20.0, 30.0))
    bed = on_day(6, warm, hot, BatchEnded("e", "m30.0", "used up")).bedding
    assert [b.until for b in bed.batches] == [datetime(2026, 3, 6, 11, 45), datetime(2026, 3, 6, 11, 0)]
    assert [b.is_past(datetime(2026, 3, 6, 12)) for b in bed.batches] == [True, False]
    assert not bed.batches[0].is_past(datetime(2026, 3, 6, 11, 45))
    assert "K07" not in {f.rule for f in bed.findings}
    assert "K07" in {f.rule for f in on_day(7, warm, hot).bedding.findings}
    flags = (FlagLifted("f1", "row 3", 0.90), FlagLifted("f2", "row 9", 0.95))
    assert [f.found.text(MM) for f in on_day(6, *flags).bedding.findings if f.rule == "K10"] == ["hollow under row 3"]
    assert "K10" not in {f.rule for f in on_day(6, *flags, FlagLifted("f3", "row 3", 0.97)).bedding.findings}
    assert [percent_held(each) for each in (0.9499, 0.95, 0.946, 1.0)] == [94, 95, 94, 100]
    assert replace(warm, at=datetime(9999, 12, 31, 23, 59)).wrong(on_day(6).standing).field == "at"
    assert screeded("B1", 6).wrong(on_day(6).standing) is None
    assert flag_mass(0.6, 0.6, 0.05) == pytest.approx(41.4) and to_lift(10.0, 0.6, 0.6) == (28, 2)
    assert to_lift(7.2, 0.6, 0.6) == (20, 1)


def test_a_rail_that_reads_a_metre_off_is_asked_about() -> None:
    base = assess(replace(job_of(plane(RECTANGLE)), entries=(planned(),)))
    assert base.bedding.misread(RailShot("n", "p", "R1", "start", "no set-up", parse_rod("1.5", M))) is None
    a = assess(replace(job_of(plane(RECTANGLE), marks=(Mark("B", (0.0, 0.0), 100.0),)),
                       entries=(planned(), SetUp("s", "B", parse_rod("1.3", M)))))  # fmt: skip
    target = a.bedding.target("R1", "start", a.levels.present)
    for off, slip in ((0.0, None), (0.02, None), (1.0, "a metre"), (-0.1, "100 mm")):
        found = a.bedding.misread(RailShot("n", "p", "R1", "start", "s", parse_rod(f"{target + off:.3f}", M)))
        assert (found and found.slip) == slip
