"""Hours by stage against sums by hand, the crew's own pace by simulation, days one after the other, what is hired."""

import math
import random
from dataclasses import replace
from datetime import date, datetime, timedelta

import pytest
from tests.groundwork.test_orders import LIGHT, WIDE
from tests.groundwork.test_stages import job as staged

from groundwork.assess import assess
from groundwork.bedding.today import FLAG_RATE, LAYING_RATE
from groundwork.bedding.today import FLAGS as LAID_BY_THE_BED
from groundwork.edgework import SideHeld
from groundwork.entries import Reading
from groundwork.labour import Stamp, hired, hours_seen, pace, planned_days, stage_of
from groundwork.labour.kit import KitItem
from groundwork.labour.labour import FLAGS as LAID_BY_HOURS
from groundwork.labour.rates import plate_rate, rates
from groundwork.layerwork import Direction, Passed
from groundwork.measures import Measured
from groundwork.orderwork import Hired, HireEnded, HoursWorked
from groundwork.tools import Machine, MachineKind

MONDAY = date(2026, 3, 2)
PLATE = 0.45 * 0.35 * 0.75 * 3600
"""m² an hour that the usual plate goes over once: its width × its speed × three quarters of the time."""
BY_HAND = {
    # Amount over what is done in an hour, by the table of the design (common practice).
    "kerbed": {
        "set-out pegs": 4 / 4, "excavation dig-by-machine": WIDE * 0.24 / 6, "subgrade plate": WIDE * 4 / PLATE,
        "base-lifts spread": WIDE * 0.15 * 1.25 / 3, "early-edges kerb": 14 / 3, "bedding screed": 24 / 12,
        "laying lay-units": 24 / 4, "joints joint-dry": 24 / 60,
    },
    "rigid": {
        "laying lay-flags": 24 / 2, "joints joint-mortar": 24 / 1.5, "bedding screed": 24 / 12,
        "base-lifts spread": LIGHT * 0.15 * 1.25 / 3, "late-edges edging": 14 / 10,
    },
    "open": {"joints joint-bonded": 24 / 20, "laying lay-units": 24 / 4},
    "slab": {"bound-base pour": WIDE * 0.20 / 1.5},
    "cells": {"laying lay-panels": 24 / 12},
}  # fmt: skip


@pytest.mark.parametrize("key", BY_HAND)
def test_hours_are_what_one_reckons_by_hand(key: str) -> None:
    found = {f"{t.stage} {t.done.rate.key}": t.hours for t in assess(staged(key)).labour.tasks({})}
    for name, hours in BY_HAND[key].items():
        assert found[name] == pytest.approx(hours, rel=3e-3), name


def test_two_lay_26_square_metres_in_three_hours_and_a_quarter() -> None:
    """At 4 m² a person-hour (the design's own check)."""
    laid = next(t for t in assess(staged("kerbed")).labour.tasks({}) if t.stage == "laying")
    assert laid.hours / laid.done.amount * 26 / 2 == pytest.approx(3.25)


def test_a_plate_goes_over_by_its_width_and_speed() -> None:
    wide = Machine("wide", MachineKind.PLATE, 150.0, 0.6, 0.8, speed=0.4)
    assert plate_rate(wide).amount == pytest.approx(0.6 * 0.4 * 0.75 * 3600)
    assert plate_rate(None).amount == pytest.approx(PLATE)


def test_a_crew_that_is_slower_takes_longer_at_that_stage_only() -> None:
    job = assess(staged("kerbed"))
    usual, slow = job.labour.tasks({}), job.labour.tasks({"laying": 1.5})
    for one, other in zip(usual, slow, strict=True):
        assert other.hours == pytest.approx(one.hours * (1.5 if one.stage == "laying" else 1.0))


@pytest.mark.parametrize(
    ("jobs", "factor"),
    [
        ([], 1.0),
        ([2.0], 2 ** (1 / 3)),  # one job against the table's two
        ([5.0], 2 ** (1 / 3)),  # so odd that it counts as twice
        ([1.5, 1.5], 1.5 ** (2 / 4)),
        ([1.2] * 5 + [6.0], math.exp((5 * math.log(1.2) + math.log(1.2) + math.log(2)) / 8)),
    ],
)
def test_pace_by_hand(jobs: list[float], factor: float) -> None:
    assert pace(jobs) == pytest.approx(factor)


@pytest.mark.parametrize("truth", [0.6, 1.0, 1.5])
def test_pace_comes_near_the_truth_and_one_odd_day_does_not_swing_it(truth: float) -> None:
    """Simulated: 300 crews, each job off by a quarter (one standard deviation of its logarithm). After forty jobs
    nineteen crews in twenty are within 12 % of the truth less the table's weight; one job five times as slow moves
    a pace learnt from six by less than 12 %."""
    draw, near, moved = random.Random(7), 0, 0.0
    for _crew in range(300):
        jobs = [truth * math.exp(draw.gauss(0, 0.25)) for _job in range(40)]
        near += abs(math.log(pace(jobs)) - math.log(truth) * 40 / 42) < math.log(1.12)
        few = jobs[:6]
        moved = max(moved, pace([*few, 5 * truth]) / pace(few))
    assert near >= 0.95 * 300
    assert moved < 1.14


def test_hours_that_were_written_down_add_up_by_stage() -> None:
    entries = (
        HoursWorked("h1", "excavation", MONDAY, 2, 6.5, 4.0), HoursWorked("h2", "excavation", MONDAY, 1, 2.0),
        HoursWorked("h3", "laying", MONDAY, 3, 8.0), Hired("r1", "plate", MONDAY), Hired("r2", "saw", MONDAY),
        HireEnded("r3", "r1", MONDAY + timedelta(days=2)),
    )  # fmt: skip
    labour = assess(replace(staged("kerbed"), entries=entries)).labour
    assert labour.worked == {"excavation": 15.0, "laying": 24.0} and labour.ran == {"excavation": 4.0}
    plate, saw = labour.on_hire
    assert plate.days(MONDAY + timedelta(days=9)) == 3 and saw.days(MONDAY + timedelta(days=9)) == 10


def test_hours_are_seen_from_the_first_entry_of_a_day_to_the_last() -> None:
    """Two on Monday from 8 to 11:30: seven person-hours. One with one entry on Tuesday: a quarter of an hour."""
    at = datetime(2026, 3, 2, 8)
    stamps = [
        Stamp("laying", at, "Ines"), Stamp("laying", at.replace(hour=11, minute=30), "Odo"),
        Stamp("laying", at + timedelta(days=1), "Ines"), Stamp("joints", at, "Odo"),
    ]  # fmt: skip
    assert hours_seen(stamps) == {"laying": 7.25, "joints": 0.25}


def test_an_entry_is_of_the_stage_it_is_made_at() -> None:
    reading = Reading("r", "A1", "s", Measured("1", 1.0))
    assert stage_of(reading, early=True) == "excavation"
    assert stage_of(replace(reading, surface="base.1"), early=True) == "base-lifts"
    assert stage_of(Passed("p", "finished", "m", Direction.ALONG), early=True) == "seating"
    assert stage_of(SideHeld("s", 0, "wall"), early=False) == "late-edges"


def test_days_follow_each_other_over_the_weekend_and_the_setting() -> None:
    """Two for eight hours, 16 person-hours a day: dig 10 and base 6 on Monday; edges 4 on Tuesday, and nothing beside
    them on Wednesday; laying 40 from Thursday: 16, 16, and 8 on Monday."""
    hours = {"excavation": 10.0, "base-lifts": 6.0, "early-edges": 4.0, "laying": 40.0}
    days = planned_days(hours, MONDAY, 2, 8.0)
    assert [(d.stage, d.first.day, d.last.day) for d in days] == [
        ("excavation", 2, 2), ("base-lifts", 2, 2), ("early-edges", 3, 3), ("laying", 5, 9),
    ]  # fmt: skip
    with pytest.raises(ValueError, match="somebody"):
        planned_days(hours, MONDAY, 0, 8.0)


def test_what_is_hired_stands_no_longer_than_it_pays() -> None:
    days = planned_days({"excavation": 8.0, "base-lifts": 8.0, "laying": 96.0, "seating": 4.0}, MONDAY, 2, 8.0)
    items = [
        KitItem("excavation", "", "excavator"),
        KitItem("base-lifts", "", "plate"),
        KitItem("seating", "", "plate"),
    ]
    found = [(h.what, h.first.day, h.last.day, h.days) for h in hired(items, days)]
    # Laying takes six days, from Tuesday the 3rd to the 10th: meanwhile the plate goes back.
    assert found == [("excavator", 2, 2, 1), ("plate", 2, 2, 1), ("plate", 11, 11, 1)]
    short = planned_days({"base-lifts": 8.0, "laying": 16.0, "seating": 4.0}, MONDAY, 2, 8.0)
    assert [(h.first.day, h.last.day, h.days) for h in hired(items, short)] == [(2, 3, 2)]


def test_kit_follows_school_edges_and_units() -> None:
    def kit(key: str) -> set[str]:
        return {item.what.split(",")[0] for item in assess(staged(key)).labour.kit}

    assert "rails" in kit("kerbed") and "plate with a rubber mat" in kit("kerbed")
    assert "forms" in kit("slab") and "lifter for flags" in kit("rigid")
    assert "pointing trowels" in kit("rigid") and "pointing trowels" not in kit("kerbed")
    assert not any(item.what == "mixer" and item.stage == "bedding" for item in assess(staged("kerbed")).labour.kit)
    assert any(item.what == "mixer" and item.stage == "bedding" for item in assess(staged("rigid")).labour.kit)


def test_the_bed_reckons_with_the_same_rates_as_hours_do() -> None:
    table = rates()
    assert (table["lay-units"].amount, table["lay-flags"].amount) == (LAYING_RATE, FLAG_RATE)
    assert LAID_BY_THE_BED == LAID_BY_HOURS
