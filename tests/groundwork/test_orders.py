"""What a job takes, school by school, reckoned by hand; what the ground as it is changes; how it is ordered."""

import json
import math
from dataclasses import replace
from datetime import date

import numpy as np
import pytest
from tests.groundwork.test_stages import job as staged

from groundwork.assess import assess
from groundwork.brief import SpotLevel
from groundwork.cli import main
from groundwork.entries import Reading, SetUp
from groundwork.files import dumps
from groundwork.layerwork import Cured, CureKind, SoftSpot
from groundwork.laywork import LayoutChosen
from groundwork.measures import Measured
from groundwork.orders import in_units, usual_way, ways_to_order
from groundwork.orderwork import Measure

WIDE, WALK, OPEN, LIGHT = 26.145, 25.5642, 26.88, 25.0606
"""The pad of 6 by 4 m with its margin on the three sides without a wall: (6 + 2 m)(4 + m), by hand, m²: margins of
150, 110, 200 and 75 mm."""


def courses(long: float, wide: float, joint: float) -> float:
    """The share of joints in courses (geometry)."""
    return 1 - long * wide / ((long + joint) * (wide + joint))


def woven(wide: float, joint: float) -> float:
    """In herringbone of units twice as long as wide, which fits wheels best: two units in a square of two modules'
    side, less their joints (geometry)."""
    return 1 - wide**2 / (wide + joint) ** 2


BY_HAND = {
    # kg of each layer: area × compacted thickness × density, the materials' own (common practice). Joints: 24 m² by
    # their share by their depth, 15 mm less over sand that rises into them; 1 600, chip 1 500, mortar 2 000 kg/m³.
    "dense": {"base-lifts dense-graded": WIDE * 0.15 * 2200, "bedding concrete-sand": 24 * 0.025 * 1750,
              "joints dry sand": 24 * woven(0.1, 0.003) * 0.065 * 1600},
    "kerbed": {"base-lifts graded-sub-base": WIDE * 0.15 * 2150, "bedding sharp-sand": 24 * 0.030 * 1750,
               "joints kiln-dried sand": 24 * woven(0.1, 0.003) * 0.045 * 1600},
    "open": {"base-lifts clean-stone": OPEN * 0.20 * 1600, "bedding chip": 24 * 0.025 * 1500,
             "joints bonded sand": 24 * woven(0.1, 0.005) * 0.08 * 1600},
    "cells": {"base-lifts dense-graded": WIDE * 0.15 * 2200, "bedding concrete-sand": 24 * 0.010 * 1750,
              "joints pebble": 24 * (0.040 + 0.0125) * 1600},
    "slab-walk": {"base-lifts crusher-fines": WALK * 0.11 * 1950, "bedding fine-sand": 24 * 0.025 * 1700,
                  "joints dry sand": 24 * courses(0.6, 0.3, 0.003) * 0.025 * 1600},
    "overlay": {"bedding concrete-sand": 24 * 0.025 * 1750,
                "joints dry sand": 24 * woven(0.1, 0.003) * 0.045 * 1600},
    "panel": {"base-lifts fine-sand": 24 * 0.02 * 1700,
              "joints bonded sand": 24 * courses(0.2, 0.1, 0.003) * 0.06 * 1600},
    "rigid": {"base-lifts graded-sub-base": LIGHT * 0.15 * 2150,
              "joints mortar": 24 * courses(0.6, 0.6, 0.006) * 0.02 * 2000},
    "pervious": {"base-lifts clean-stone-mid": WIDE * 0.10 * 1550,
                 "base-lifts clean-stone-small": WIDE * 0.025 * 1600,
                 "bedding chip": 24 * 0.025 * 1500, "joints chip": 24 * woven(0.1, 0.006) * 0.08 * 1500},
    "slab": {"base-lifts clean-stone": WIDE * 0.15 * 1600,
             "joints bonded sand": 24 * woven(0.3, 0.002) * 0.05 * 1600},
}  # fmt: skip
CUBIC_METRES = {"slab": ("concrete", WIDE * 0.20), "pervious": ("pervious-concrete", WIDE * 0.15)}
DUG = {"dense": WIDE * 0.255, "slab": WIDE * 0.425, "open": OPEN * 0.305, "panel": 24 * 0.1, "overlay": 0.0}


def needs(key: str):
    return {f"{need.stage} {need.what}": need for need in assess(staged(key)).orders.needs}


@pytest.mark.parametrize("key", BY_HAND)
def test_what_each_school_takes_is_what_one_reckons_by_hand(key: str) -> None:
    found = needs(key)
    for name, kilograms in BY_HAND[key].items():
        assert found[name].measure is Measure.MASS
        assert found[name].now == pytest.approx(kilograms, rel=1e-4), name
    if key in CUBIC_METRES:
        what, cubic = CUBIC_METRES[key]
        assert found[f"bound-base {what}"].measure is Measure.VOLUME
        assert found[f"bound-base {what}"].now == pytest.approx(cubic, rel=2e-3)
    if key in DUG:
        spoil = found.get("excavation spoil")
        assert (spoil.now if spoil else 0.0) == pytest.approx(DUG[key] * 1.25, rel=2e-3)


def test_units_without_a_layout_are_reckoned_by_the_module_and_the_patterns_waste() -> None:
    """24 m² of 200 × 100 with 3 mm joints: 1/(0.203 × 0.103) = 47.83 to the square metre, 1 148 in all. On foot in
    courses 5 % is lost; under wheels, woven, half the edge is met askew: 10 %."""
    for key, waste in (("panel", 0.05), ("dense", 0.10)):
        units = needs(key)["laying concrete-block"]
        assert units.measure is Measure.PIECES and units.waste == waste
        assert units.now == pytest.approx(1147.8, abs=0.2)
    # Mortar for a bed of 35 mm under 24 m²: 0.84 m³, 1.05 m³ loose; 1 : 4 of it is cement, at 1 440 kg/m³.
    rigid = needs("rigid")
    assert rigid["bedding cement"].now == pytest.approx(0.84 * 1.25 / 5 * 1440, rel=1e-3)
    assert rigid["bedding sharp-sand"].now == pytest.approx(0.84 * 1.25 * 4 / 5 * 1600, rel=1e-3)


def test_an_edge_that_nobody_planned_is_reckoned_as_it_would_be_proposed() -> None:
    """Three sides without a wall, 6 + 4 + 4 m, of kerbs 915 mm long with 3 mm joints: 14/0.918 = 15.3, by side 7, 5
    and 5. Concrete: (50 + 125 + 150) × 100 mm and a haunch of 150 × 75 mm: 0.04375 m³ a metre, 0.6125 in all; 1 : 6,
    1.3 times as much loose."""
    found = needs("kerbed")
    assert found["early-edges kerb"].now == 17
    assert found["early-edges cement"].now == pytest.approx(0.6125 * 1.3 / 7 * 1440, rel=1e-3)
    assert found["early-edges all-in ballast"].now == pytest.approx(0.6125 * 1.3 * 6 / 7 * 1750, rel=1e-3)
    # Spiked edging on foot, 14 m: lengths of 2.4 m, a spike each 300 mm and one at the end of each side.
    walk = needs("slab-walk")
    assert walk["late-edges spiked edging"].now == 3 + 2 + 2
    assert walk["late-edges spike"].now == 21 + 15 + 15


def test_a_dig_that_went_too_deep_takes_its_volume_in_stone_and_says_so() -> None:
    """40 mm over 12 m² is 0.48 m³; at 2.2 t/m³ 1 056 kg."""
    job, court = staged("dense"), ((0.0, 0.0), (4.0, 0.0), (4.0, 3.0), (0.0, 3.0))
    details = replace(job.specification.details, margin=0.0)
    job = replace(job, specification=replace(job.specification, details=details), outline=court, features=(),
                  facets=tuple(replace(f, outline=court) for f in job.facets))  # fmt: skip
    empty = assess(job)
    (stone,) = (n for n in empty.orders.needs if n.what == "dense-graded")
    assert stone.now == stone.designed == pytest.approx(12 * 0.15 * 2200) and not stone.changes
    entries = [SetUp("s", job.marks[0].name, Measured("1300", 1.3))]
    at = assess(replace(job, entries=tuple(entries)))
    for station in job.stations:
        low = at.targets.at(station.name, "formation") + 0.040
        entries.append(Reading(f"r{station.name}", station.name, "s", Measured(f"{low * 1000:.3f}", low)))
    deep = assess(replace(job, entries=tuple(entries)))
    (stone,) = (n for n in deep.orders.needs if n.what == "dense-graded")
    assert stone.now - stone.designed == pytest.approx(0.040 * 12 * 2200, rel=1e-3)
    (change,) = stone.changes
    assert "deep" in change.says.phrase and change.amount == pytest.approx(1056, rel=1e-3)
    (spoil,) = (n for n in deep.orders.needs if n.what == "spoil")
    assert spoil.now - spoil.designed == pytest.approx(0.040 * 12 * 1.25, rel=1e-3)


@pytest.mark.parametrize(
    ("need", "way", "number", "over"),
    [
        # 8 628 kg and 5 % waste: 9 059 kg. In half tonnes 9.5, 441 kg over; in bulk bags of 800 kg twelve, 541 over.
        ("base-lifts dense-graded", "tonne", 9.5, 440.8),
        ("base-lifts dense-graded", "bulk bag", 12, 540.8),
        # 1 050 kg and 10 %: 1 155 kg. Two bulk bags, or 47 bags of 25 kg with 20 kg over.
        ("bedding concrete-sand", "bulk bag", 2, 445.0),
        ("bedding concrete-sand", "bag", 47, 20.0),
    ],
)
def test_orders_are_rounded_up_and_what_is_over_stays_in_sight(
    need: str, way: str, number: float, over: float
) -> None:
    found = needs("dense")[need]
    known = {each.key: each for each in ways_to_order(found.measure, metric=True)}
    rounded = in_units(found.with_waste, known[way])
    assert rounded.number == pytest.approx(number)
    assert rounded.over == pytest.approx(over, abs=0.5)


def test_ready_mix_comes_at_its_least_load() -> None:
    cubic = next(w for w in ways_to_order(Measure.VOLUME, metric=True) if w.key == "cubic metre")
    assert in_units(0.3, cubic).number == 1.0
    assert in_units(5.229 * 1.05, cubic).number == 5.5
    assert in_units(0.0, cubic).number == 0.0


@pytest.mark.parametrize("key", BY_HAND)
def test_a_need_is_the_sum_of_what_it_was_reckoned_of(key: str) -> None:
    for need in needs(key).values():
        assert need.designed == pytest.approx(math.fsum(line.amount for line in need.lines))
        assert need.now == pytest.approx(need.designed + math.fsum(line.amount for line in need.changes))
        assert need.now > 0 and 0 <= need.waste <= 0.15
        assert all(line.says.phrase for line in need.lines)


def test_the_command_line_says_what_a_job_takes(tmp_path, capsys) -> None:
    file = tmp_path / "job.json"
    file.write_text(dumps(staged("kerbed")))
    assert main(["order", str(file)]) == 0
    rows = {row["what"]: row for row in json.loads(capsys.readouterr().out)["needs"]}
    assert rows["kerb"]["sold_in"]["piece"]["number"] == 17
    assert rows["graded-sub-base"]["reckoned"][0]["says"] == "26.1 m² covered, 150 mm thick once it is made"
    assert rows["graded-sub-base"]["sold_in"]["tonne"]["number"] == 9.0  # 8 432 kg and 5 %: 8 853


def shot(job, surface: str, high_mm: float):
    """Every station of a surface so much above its design."""
    at = assess(job)
    for station in job.stations:
        reading = at.targets.at(station.name, surface) - high_mm / 1000
        typed = Measured(f"{reading * 1000:.3f}", reading)
        yield Reading(f"{surface}{station.name}", station.name, "s", typed, surface=surface)


def test_a_base_laid_too_thick_takes_more_stone_and_less_sand() -> None:
    """10 mm over 26.145 m² of 2.2 t/m³: 575.2 kg more; the bed's 30 mm as screeded are 20 left: a third less sand."""
    job = staged("dense")
    job = replace(job, entries=(SetUp("s", job.marks[0].name, Measured("1300", 1.3)),))
    job = replace(job, entries=(*job.entries, *shot(job, "formation", 0.0), *shot(job, "base", 10.0)))
    found = {need.what: need for need in assess(job).orders.needs}
    (thicker,) = found["dense-graded"].changes
    assert "thicker" in thicker.says.phrase and thicker.amount == pytest.approx(WIDE * 0.010 * 2200, rel=1e-3)
    (thinner,) = found["concrete-sand"].changes
    assert "thinner" in thinner.says.phrase and thinner.amount == pytest.approx(-24 * 0.025 * 1750 / 3, rel=1e-2)
    assert not found["spoil"].changes  # dug as it should be


@pytest.mark.parametrize(("high_mm", "says"), [(0.4, 0), (1.0, 2)])
def test_what_would_be_said_to_be_off_by_nothing_is_no_change(high_mm: float, says: int) -> None:
    job = staged("dense")
    job = replace(job, entries=(SetUp("s", job.marks[0].name, Measured("1300", 1.3)),))
    job = replace(job, entries=(*job.entries, *shot(job, "formation", 0.0), *shot(job, "base", high_mm)))
    assert sum(len(need.changes) for need in assess(job).orders.needs) == says  # the base, and the bed over it


def test_with_a_layout_units_are_counted_by_size_with_spares() -> None:
    """197 × 97 with 3 mm joints is a module of 200 × 100: forty courses of thirty over 6 by 4 m, and 2 % to keep."""
    chosen = LayoutChosen("l", "stack", Measured("197", 0.197), Measured("97", 0.097), Measured("3", 0.003), 0)
    units = {n.what: n for n in assess(replace(staged("dense"), entries=(chosen,))).orders.needs}["concrete-block"]
    laid, spares = units.lines
    assert (laid.amount, spares.amount, units.waste) == (1200, 24, 0.0)


@pytest.mark.parametrize(("over", "dug"), [(0.1, 0.355), (-0.055, 0.2), (-0.3, 0.0)])
def test_spoil_is_reckoned_from_the_ground_where_that_is_known(over: float, dug: float) -> None:
    """Ground so much over the finished surface, with a dig of 255 mm under it: the sum of both over 26.145 m², a
    quarter more once loose; none where the ground lies under the formation."""
    job = staged("dense")
    at = np.array([(-1.0, -1.0), (8.0, -1.0), (8.0, 6.0), (-1.0, 6.0)])
    levels = job.design.level_at(*at.T) + over
    spots = tuple(SpotLevel((x, y), level) for (x, y), level in zip(at.tolist(), levels.tolist(), strict=True))
    found = {need.what: need for need in assess(replace(job, spots=spots)).orders.needs}
    assert (found["spoil"].now if "spoil" in found else 0.0) == pytest.approx(WIDE * dug * 1.25, rel=1e-3)


def test_a_soft_spot_takes_stone_until_it_is_treated_otherwise() -> None:
    """A triangle of half a square metre, 200 mm deep, 2.15 t/m³: 215 kg."""
    spot = SoftSpot("w", "gate", ((1.0, 1.0), (2.0, 1.0), (2.0, 2.0)), Measured("200", 0.2))
    limed = Cured("c", "w", CureKind.LIME, date(2026, 3, 1), dose=0.03)
    filled = Cured("c", "w", CureKind.FABRIC_AND_STONE, date(2026, 3, 1), lifts=1)
    for entries, kilograms in (((spot,), 215.0), ((spot, limed), None), ((spot, filled), 215.0)):
        found = {f"{n.stage} {n.what}": n for n in assess(replace(staged("dense"), entries=entries)).orders.needs}
        stone = found.get("subgrade graded-sub-base")
        assert (stone.now if stone else None) == (pytest.approx(kilograms) if kilograms else None)


def test_who_only_makes_the_base_orders_no_paving() -> None:
    job = staged("dense")
    found = assess(replace(job, brief=replace(job.brief, by_others=True))).orders.needs
    assert {need.stage for need in found} == {"excavation", "base-lifts"}


@pytest.mark.parametrize(
    ("kilograms", "metric", "way"),
    [(143, True, "bag"), (799, True, "bag"), (800, True, "bulk bag"), (9059, True, "tonne"), (16000, True, "load"),
     (20, True, "bag"), (9059, False, "short ton")],
)  # fmt: skip
def test_the_usual_way_to_order_is_the_largest_that_is_not_too_much(kilograms: float, metric: bool, way: str) -> None:
    assert usual_way(kilograms, ways_to_order(Measure.MASS, metric=metric)).key == way
