"""Ladder, plan of passes and compaction curve: to scale, and what the core answered."""

import re
from dataclasses import replace

import pytest
from lxml import etree
from tests.conftest import PAD

from groundwork.assess import assess
from groundwork.files import loads
from groundwork.layerwork import kinds as w
from groundwork.measures import Unit
from groundwork.tools import Machine, MachineKind
from nivelum.drawing.lifts import compaction_curve, ladder, lift_plan


def worked_on(*more: object):
    """The pad with a plate brought, gone over twice, and a laboratory's curve."""
    plate = w.MachineBrought("m", Machine("plate", MachineKind.PLATE, 500, 0.5, 0.5))
    passes = [w.Passed(f"p{n}", "base.1", "m", way) for n, way in enumerate(w.Direction)]
    curve = ((0.04, 0.05, 0.06, 0.07, 0.08), (2160.0, 2190.0, 2200.0, 2190.0, 2160.0))
    tested = w.LaboratoryTest("l", "dense-graded", *curve, 2.7)
    return assess(replace(loads(PAD), entries=(plate, tested, *passes, *more)))


def numbers(path: str) -> list[float]:
    return [float(n) for n in re.findall(r"-?\d+\.?\d*", path)]


def test_the_ladder_is_to_scale_as_compacted_and_as_spread() -> None:
    root = etree.fromstring(ladder(worked_on(), "base.1", Unit.MILLIMETRES))
    blocks = root.findall(".//{*}rect[@class='layer']")
    ghosts = [numbers(ghost.get("d")) for ghost in root.findall(".//{*}path[@class='loose']")]
    heights = [float(block.get("height")) for block in blocks]
    assert heights[0] == pytest.approx(heights[1], abs=0.11)
    # Dense stone swells by a quarter: so much higher stands what is spread.
    for height, ghost, block in zip(heights, ghosts, blocks, strict=True):
        low, high = ghost[1], ghost[3]
        assert low - high == pytest.approx(1.25 * height, abs=0.3)
        assert low == pytest.approx(float(block.get("y")) + height, abs=0.2)
    assert [a.get("data-lift") for a in root.findall(".//{*}a")] == ["formation", "base.1", "base"]
    assert root.find(".//{*}a[@class='rung chosen']").get("data-lift") == "base.1"


def test_the_plan_of_passes_says_how_often_and_how_many_more() -> None:
    assessment = worked_on()
    root = etree.fromstring(lift_plan(assessment, assessment.works.lifts["base.1"], Unit.MILLIMETRES, "1"))
    assert root.find(".//{*}text[@class='count']").text == "2"
    assert root.find(".//{*}text[@class='patch-name']").text == "patch 1 · 3 more"
    assert root.find(".//{*}path[@class='gone']").get("fill") == "url(#gone-both)"
    places = root.findall(".//{*}g[@class='test-place v-close']")
    assert [place.find("{*}text").text for place in places] == ["T1", "T2"]


def test_the_curve_peaks_at_the_optimum_and_a_test_lies_by_its_moisture_and_density() -> None:
    curve = worked_on().works.curves["dense-graded"]
    # A test on the laboratory's own third point, 2200 at 6 %, falls on it.
    test = w.GaugeTest("g", "base.1", "T1", (1.0, 1.0), 2332.0, 0.06)
    root = etree.fromstring(compaction_curve(curve, Unit.MILLIMETRES, [(test, 2200.0)]))
    third = root.findall(".//{*}circle[@class='point']")[2]
    at = numbers(root.find(".//{*}g[@class='field-test']").get("transform"))
    assert at == pytest.approx([float(third.get("cx")), float(third.get("cy"))], abs=0.2)
    line = numbers(root.find(".//{*}path[@class='fitted']").get("d"))
    xs, ys = line[::2], line[1::2]
    assert xs[ys.index(min(ys))] == pytest.approx(float(third.get("cx")), abs=5)
    voids = numbers(root.find(".//{*}path[@class='voids']").get("d"))
    assert all(y < min(ys) or x > max(xs) for x, y in zip(voids[::2], voids[1::2], strict=True))
    assert "137.3 lb/ft³" in compaction_curve(curve, Unit.FEET_INCHES, [])
