"""Limits, defaults and thicknesses as the trade writes them in each system, and signs where they are wanted."""

from dataclasses import replace
from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.groundwork.test_assess import JOB as PAD
from tests.groundwork.test_assess import shot_everywhere
from tests.groundwork.test_lifts import JOB as LIFTED
from tests.groundwork.test_lifts import brought, passed, works
from tests.groundwork.test_setout import taped
from tests.groundwork.test_soundness import job as sound_job
from tests.groundwork.test_soundness import layer

from groundwork.assess import assess
from groundwork.base import SurfaceKey, Tolerance, quantities
from groundwork.brief import Traffic
from groundwork.entries import MarginMeasured
from groundwork.job import SignOff
from groundwork.layerwork import kinds as w
from groundwork.measures import INCH, Unit, Words, format_limit, in_system, inside, parse_layer
from groundwork.schools import school
from groundwork.soundness import soundness
from groundwork.survey.dig import (
    formation_findings,
)
from groundwork.tools import Machine, MachineKind, greatest_thickness
from groundwork.verdict import Shot, Sight, Standing, judge
from groundwork.verdict.judgement import (
    Call,
    call,
)

EVERY_SCHOOL = ["dense", "open", "kerbed", "slab", "pervious", "rigid", "cells", "slab-walk", "panel"]


# Common practice, no published source: what a North American crew calls these.
@pytest.mark.parametrize(
    ("mm", "inches"),
    [(25, "1″"), (50, "2″"), (75, "3″"), (100, "4″"), (150, "6″"), (200, "8″"), (300, "12″"), (60, "2 3/8″"),
     (80, "3 1/8″"), (10, "3/8″"), (5, "3/16″"), (3, "1/8″"), (-15, "−5/8″"), (600, "24″"), (0.2, "1/16″")],
)  # fmt: skip
def test_sizes_are_written_as_the_trade_writes_them(mm: float, inches: str) -> None:
    assert format_limit(mm / 1000, Unit.FEET_INCHES) == inches
    assert format_limit(mm / 1000, Unit.MILLIMETRES).startswith("−" if mm < 0 else str(round(mm)))


@given(st.floats(0.001, 2.0), st.sampled_from(list(Unit)), st.sampled_from([1, -1]))
def test_a_value_typed_as_its_limit_is_shown_is_inside(limit: float, unit: Unit, sign: int) -> None:
    shown = format_limit(limit, unit).replace("″", '"').replace("′", "'")
    typed = sign * parse_layer(shown, unit).metres
    limit = sign * (round(limit, 3) if unit.is_metric else limit)
    assert inside(typed, limit, None, unit) and inside(typed, None, limit, unit)


def test_millimetres_in_sentences_follow_the_crew() -> None:
    said = "low edging, spiked about every 300 mm, on clean 6 to 10 mm chip"
    assert in_system(said, Unit.FEET_INCHES) == "low edging, spiked about every 12″, on clean 1/4″ to 3/8″ chip"
    assert in_system(said, Unit.MILLIMETRES) == said


@pytest.mark.parametrize(
    "key", ["dense", "open", "kerbed", "slab", "pervious", "rigid", "cells", "slab-walk", "panel"]
)
def test_a_usual_base_in_inches_is_in_inches_and_nothing_stops_it(key: str) -> None:
    taken = school(key).traffic[-1]
    base = school(key).specification(taken, Unit.FEET_INCHES)
    for each in base.layers:
        sixteenths = (each.thickness / INCH) * 16
        assert sixteenths == pytest.approx(round(sixteenths), abs=1e-6), each
    site = replace(sound_job(key, str(taken)), unit=Unit.FEET_INCHES, specification=base)
    assert [f for f in soundness(site) if f.rule in ("S05", "S12", "S20")] == []
    # Its metric twin differs by no more than the trade's inch from 25 mm, or a sixteenth.
    for each, metric in zip(base.layers, school(key).specification(taken).layers, strict=True):
        assert abs(each.thickness - metric.thickness) <= max(0.02 * metric.thickness, 0.0026)


def test_a_four_inch_base_is_laid_in_two_lifts_of_two_inches_with_a_light_plate() -> None:
    plate = Machine("plate", MachineKind.PLATE, 91, 0.5, 0.5)
    base = school("dense").specification(Traffic.FOOT, Unit.FEET_INCHES)
    job = replace(LIFTED, unit=Unit.FEET_INCHES, specification=base)
    plan = works(brought(plate), job=job).lifts["base"].plan
    assert (plan.layer_lifts, plan.passes, plan.too_light) == (2, 3, False)
    made = works(brought(plate), *passed(3, "base"), job=job).lifts["base"]
    assert "L01" not in {f.rule for f in made.findings}
    # Six inches under vehicles are two lifts of three inches, as 150 mm are two of 75.
    assert len(school("dense").specification(Traffic.DRIVE, Unit.FEET_INCHES).courses) == 4


def test_a_bed_of_an_inch_with_the_unit_three_eighths_proud_is_ordinary() -> None:
    site = layer(replace(sound_job(), unit=Unit.FEET_INCHES), "bedding", thickness=1 * INCH)
    site = replace(site, specification=replace(site.specification, settlement=3 / 8 * INCH))
    assert [f for f in soundness(site) if f.rule == "S05"] == []


# Common practice, no published source: by the force of a plate that is lighter than the table.
@pytest.mark.parametrize(
    ("force", "most"), [(0, 50), (14.9, 50), (15, 75), (24.9, 75), (25, 100), (45, 100), (45.1, 150)]
)
def test_a_hired_plate_compacts_by_the_force_of_its_blow(force: float, most: float) -> None:
    plate = Machine("hired", MachineKind.PLATE, 90, 0.45, 0.5, force=force)
    assert greatest_thickness(plate) == pytest.approx(most / 1000)
    assert greatest_thickness(replace(plate, kind=MachineKind.HAND)) == 0.050


def test_limits_on_both_sides_of_nothing_and_below_it_keep_their_signs() -> None:
    assert Words("{least} to {most}", limits={"least": -0.015, "most": -0.010}).text(Unit.MILLIMETRES) == (
        "−15 mm to −10 mm"
    )
    level = Words("{least} to {most}", limits={"least": -0.006, "most": 0.006})
    assert level.text(Unit.MILLIMETRES) == "−6 mm to +6 mm" and level.text(Unit.FEET_INCHES) == "−1/4″ to +1/4″"
    assert Words("{value} at A", signed={"value": -0.020}).text(Unit.MILLIMETRES) == "−20 mm at A"
    assert Words("high by {amount}", {"amount": 0.0003}).text(Unit.FEET_INCHES) == "high by under 1/16″"


# Simple acceptance above the base (JCGM 106:2012): ±6 mm with u = 1 mm; worked by hand.
@pytest.mark.parametrize(
    ("deviation_mm", "expected"),
    [(4.3, "good"), (4.4, "good, close to its limit"), (6.0, "good, close to its limit"),
     (6.1, "too close: shoot again"), (7.6, "too close: shoot again"), (7.7, "high by 8 mm"),
     (-6.0, "good, close to its limit"), (-7.7, "low by 8 mm")],
)  # fmt: skip
def test_the_finish_is_good_up_to_its_limit_and_the_base_only_where_that_is_sure(deviation_mm, expected) -> None:
    limits, one = Tolerance(0.006, 0.006), Shot((Sight(10 + deviation_mm / 1000, "s", 0.001, 0.0),))
    assert judge([one], 10.0, limits, SurfaceKey.FINISHED).action.text(Unit.MILLIMETRES).startswith(expected)
    guarded = judge([one], 10.0, limits, SurfaceKey.BASE).standing
    assert (guarded is Standing.GOOD) is (abs(deviation_mm) <= 6 - 1.645)
    assert call(deviation_mm / 1000, 0.001, limits, simple=True) is not Call.LOW or deviation_mm < -7.6


def test_pebbles_are_reckoned_with_what_stands_over_the_rims_and_cells_are_not_asked_for_joints() -> None:
    base = school("cells").specification(Traffic.FOOT)
    job = replace(LIFTED, specification=base)
    (fill,) = (q for q in quantities(job.area, base).layers if q.layer.material == "filled-cells")
    assert fill.volume == pytest.approx(24 * (0.040 + 0.0125))
    asked = {f.rule for stage in ("laying", "handover") for f in assess(job).stages.of(stage).findings}
    assert not asked & {"Y10", "V06"}
    assert {"Y10", "V06"} <= {f.rule for s in ("laying", "handover") for f in assess(LIFTED).stages.of(s).findings}


def test_a_margin_is_asked_of_free_edges_and_none_of_walls() -> None:
    # The pad's north side, P3 to P4, stands along the hut.
    job = replace(LIFTED, specification=school("dense").specification(Traffic.DRIVE))
    assert job.walls == {2}
    assert job.footprint.area == pytest.approx((6 + 2 * 0.150) * (4 + 0.150))
    none = [MarginMeasured(f"m{side}", side, taped("P1", "P2", 0.0).length) for side in range(4)]
    (found,) = assess(replace(job, entries=tuple(none))).setting_out.margin_findings
    assert found.found.names["sides"] == "P1–P2, P2–P3, P4–P1"


def test_a_lift_made_on_one_that_was_never_begun_is_said() -> None:
    upper = works(brought(), *passed(5, "base")).lifts["base"]
    assert upper.is_begun
    found = {f.rule: f for f in assess(replace(LIFTED, entries=(brought(), *passed(5, "base")))).stages.of(
        "base-lifts").findings}  # fmt: skip
    assert found["L14"].severity == "stop" and found["L14"].found.names["below"] == "base.1"
    both = (brought(), *passed(5, "base.1"), *passed(5, "base"))
    assert "L14" not in {f.rule for f in assess(replace(LIFTED, entries=both)).stages.of("base-lifts").findings}


@pytest.mark.parametrize(("key", "asked"), [("dense", True), ("open", True), ("pervious", False)])
def test_ground_that_nothing_compacted_holds_its_stage(key: str, asked: bool) -> None:
    job = replace(LIFTED, specification=school(key).specification(Traffic.DRIVE))
    spike = w.SpikeTest("k", "formation", "T1", (2.0, 2.0), parse_layer("10 mm", Unit.MILLIMETRES))

    def rules(*entries) -> set[str]:
        return {f.rule for f in assess(replace(job, entries=entries)).stages.of("subgrade").findings}

    assert ("D12" in rules(spike)) is asked
    assert "D12" not in rules(brought(), *passed(3, "formation"), spike)


@pytest.mark.parametrize(("key", "after", "before", "days"), [("kerbed", "early-edges", "base-lifts", 3),
                                                              ("rigid", "laying", "joints", 1)])  # fmt: skip
def test_what_has_to_set_holds_what_is_built_on_it(key: str, after: str, before: str, days: int) -> None:
    signed = date(2026, 3, 20)
    job = replace(LIFTED, specification=school(key).specification(Traffic.FOOT),
                  sign_offs=(SignOff("o", after, "Ines", {"findings": []}, on=signed),))  # fmt: skip
    for today, held in ((days - 1, True), (days, False)):
        at = replace(job, today=signed + timedelta(days=today))
        found = [f for f in assess(at).stages.of(before).findings if f.rule == "G10"]
        assert bool(found) is held and (not held or found[0].found.counts == {"n": 1})
    assert not [f for f in assess(replace(job, today=signed)).stages.of("brief").findings if f.rule == "G10"]


def test_a_formation_high_within_its_limit_leaves_the_base_short_and_says_so() -> None:
    for high, said in ((9, False), (11, True)):
        ground = assess(replace(PAD, entries=shot_everywhere(high))).surveys.ground.values()
        found = [f for f in formation_findings(ground, Tolerance(0.020, 0.030)) if f.rule == "D02"]
        assert [f.severity for f in found] == (["warning"] if said else [])


def test_limits_of_surfaces_are_those_a_crew_reads_in_inches() -> None:
    """As the trade writes them, worked by hand: 20 and 30 mm are 3/4″ and 1 1/4″, 10 mm is 3/8″, 6 mm is 1/4″: what
    is typed as its limit is shown is inside, and a sixteenth more is not."""
    feet = assess(replace(PAD, unit=Unit.FEET_INCHES))
    shown = {"formation": ("3/4″", "1 1/4″"), "base": ("3/8″", "3/8″"), "finished": ("1/4″", "1/4″")}
    inches = {"formation": (0.75, 1.25), "base": (0.375, 0.375), "finished": (0.25, 0.25)}
    for key, words in shown.items():
        limits, (high, low) = feet.surveys.of(key).tolerance, inches[key]
        assert (format_limit(limits.high, feet.job.unit), format_limit(limits.low, feet.job.unit)) == words
        assert limits.high >= high * INCH - 1e-9 and limits.low >= low * INCH - 1e-9
        assert limits.high < (high + 1 / 16) * INCH and limits.low < (low + 1 / 16) * INCH
        assert (
            call(high * INCH, 0.002, limits, simple=True)
            is call(-low * INCH, 0.002, limits, simple=True)
            is Call.GOOD
        )
        assert call((high + 1 / 16) * INCH, 0.0001, limits, simple=True) is Call.HIGH
    metric = assess(PAD).surveys
    assert metric.formation.tolerance == Tolerance(0.02, 0.03)
    assert metric.of("finished").tolerance == Tolerance(0.006, 0.006)
