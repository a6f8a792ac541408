"""Twenty jobs and the base a contractor would choose for each: common practice, no published source. What is first is
one of those named; what is never chosen there comes after it, and is not among the first three."""

from dataclasses import dataclass, field, replace

import pytest

from groundwork.base import BaseSpecification
from groundwork.brief import Brief, DustControl, Neighbour, Outlet, Season, Soil, Traffic
from groundwork.job import Job
from groundwork.measures import Severity, Unit
from groundwork.plan import Feature, along_side
from groundwork.schools import school
from groundwork.soundness import advise, completed, soundness
from groundwork.surfaces import Facet

OUTLINE = ((0.0, 0.0), (8.0, 0.0), (8.0, 6.0), (0.0, 6.0))
OUTLET = Outlet("ditch", (4.0, 0.0), 6.0, 9.0)


@dataclass(frozen=True)
class Asked:
    """A job by its brief, what a contractor would build, what never, and why."""

    traffic: Traffic
    soil: Soil
    builds: set[str]
    never: set[str]
    why: str
    brief: dict = field(default_factory=dict)
    house: bool = False
    outlet: bool = False

    @property
    def job(self) -> Job:
        brief = Brief(self.traffic, self.soil, dust_control=DustControl.WATER, **self.brief)
        beside = (Feature("building", "house", along_side(OUTLINE, 2, "building"), 2),) if self.house else ()
        out = Feature("free edge", "", along_side(OUTLINE, 0, "free edge"), 0)
        facet = Facet("all", OUTLINE, (0.0, 6.0), 10.0, 180.0, 1 / 50)
        base: BaseSpecification = school("dense").specification(self.traffic)
        return Job("j", Unit.MILLIMETRES, OUTLINE, (facet,), base, 2.0, features=(*beside, out), brief=brief,
                   outlet=OUTLET if self.outlet else None)  # fmt: skip


FOOT, LIGHT, DRIVE = Traffic.FOOT, Traffic.LIGHT, Traffic.DRIVE
THROUGH = {"open", "pervious"}
JOBS = {
    "a garden path on sand": Asked(
        FOOT, Soil.SAND, {"slab-walk", "dense", "open", "panel"}, {"slab", "overlay"},
        "light work for feet; nobody pours a slab for a path"),
    "a terrace on clay at the house, no outlet": Asked(
        FOOT, Soil.CLAY, {"dense", "kerbed"}, THROUGH, "clay lets nothing go: a bath", house=True),
    "the same with frost": Asked(
        FOOT, Soil.CLAY, {"dense", "kerbed"}, THROUGH, "what stands in it freezes", {"frost": True}, house=True),
    "a court on clay with an outlet, in the rain": Asked(
        FOOT, Soil.CLAY, {"open"}, {"slab"}, "clean stone goes on in rain, and its water has a way out",
        {"season": Season.WET}, outlet=True),
    "a drive on gravel in summer": Asked(
        DRIVE, Soil.GRAVEL, {"dense", "open", "kerbed"}, {"slab-walk", "panel", "overlay"},
        "either base; nothing that is for feet"),
    "a drive on silt with frost, no outlet": Asked(
        DRIVE, Soil.SILT, {"dense", "kerbed"}, THROUGH, "silt is frost’s own soil: no water in it", {"frost": True}),
    "a drive on sand in the rain": Asked(
        DRIVE, Soil.SAND, {"open"}, {"slab"}, "sand takes the water, stone goes on in rain", {"season": Season.WET}),
    "porcelain at the house": Asked(
        FOOT, Soil.CLAY, {"rigid"}, THROUGH | {"dense"}, "thin flags want a full bed", {"paver": "porcelain",
        "paver_thickness": 0.020, "joint": 0.006}, house=True),
    "a patio over a sound slab": Asked(
        FOOT, Soil.CLAY, {"overlay"}, THROUGH, "nothing to dig", {"sound_slab": True}, house=True),
    "a drive over a sound slab": Asked(
        DRIVE, Soil.CLAY, {"overlay"}, THROUGH, "nothing to dig", {"sound_slab": True}),
    "a drive of natural stone": Asked(
        DRIVE, Soil.CLAY, {"slab"}, THROUGH | {"panel"}, "thin stone under wheels wants a bound base",
        {"paver": "natural-stone", "paver_thickness": 0.050, "joint": 0.002}),
    "permeable blocks on gravel": Asked(
        LIGHT, Soil.GRAVEL, {"open", "pervious"}, {"slab", "rigid"}, "the rain is to go through",
        {"paver": "permeable-block", "paver_thickness": 0.080, "joint": 0.008}),
    "parking on gravel cells": Asked(
        DRIVE, Soil.GRAVEL, {"cells"}, {"slab", "rigid", "panel"}, "cells have a base of their own",
        {"paver": "filled-cells"}),
    "a court in frost, with an outlet": Asked(
        FOOT, Soil.CLAY, {"open"}, {"rigid", "slab"}, "nothing that is wetted is placed in frost",
        {"season": Season.FREEZING, "frost": True}, outlet=True),
    "beside an old dense drive": Asked(
        DRIVE, Soil.GRAVEL, {"dense"}, {"slab-walk", "panel"}, "alike beside alike", {"neighbour": Neighbour.DENSE}),
    "beside an old open court, with an outlet": Asked(
        FOOT, Soil.CLAY, {"open"}, {"slab"}, "alike beside alike: fines would wash into it",
        {"neighbour": Neighbour.OPEN}, outlet=True),
    "behind a raised edge, no outlet": Asked(
        FOOT, Soil.CLAY, {"dense", "kerbed"}, THROUGH, "water leaves over the base", {"raised": True}, house=True),
    "a garden tractor’s way on clay": Asked(
        LIGHT, Soil.CLAY, {"dense", "kerbed"}, {"slab-walk", "panel"} | THROUGH, "wheels, and no way out"),
    "a drive on peat": Asked(
        DRIVE, Soil.PEAT, {"slab", "dense", "kerbed"}, {"slab-walk", "panel"} | THROUGH, "a slab, or much stone"),
    "clay pavers before a shop, on rock": Asked(
        FOOT, Soil.ROCK, {"dense", "kerbed", "slab-walk", "panel"}, THROUGH, "rock lets nothing in: no bath on it",
        {"paver": "clay-paver", "paver_thickness": 0.060, "joint": 0.003}),
}  # fmt: skip


def test_there_are_twenty() -> None:
    assert len(JOBS) == 20


@pytest.mark.parametrize("name", JOBS)
def test_the_schools_come_in_the_order_a_contractor_would_have_them(name: str) -> None:
    asked = JOBS[name]
    order = [a.school.key for a in advise(asked.job)]
    told = [(a.school.key, a.ruled_out, a.score) for a in advise(asked.job)]
    assert order[0] in asked.builds, (asked.why, told)
    assert not asked.never & set(order[:3]), (asked.why, told)


@pytest.mark.parametrize("name", JOBS)
def test_what_is_compared_is_sound_as_far_as_a_school_can_be_and_is_what_is_taken(name: str) -> None:
    job = JOBS[name].job
    for each in advise(job):
        assert each.specification == completed(job, each.school)
        found = {f.rule for f in soundness(replace(job, specification=each.specification))}
        # What the adviser itself could have put right it has: fabric, margins, laps, strips.
        assert not found & {"S10", "S11", "S16"}, (each.school.key, found)
        if job.brief.soil is not Soil.PEAT:
            assert "S12" not in found, each.school.key
        margin = each.school.margin_for(job.brief.traffic, each.specification.unbound)
        assert each.specification.details.margin == pytest.approx(margin)
        # No reason praises what a finding warns of.
        praise = " ".join(r.words.phrase for r in each.reasons if r.side == "for")
        if "S14" in {f.rule for f in each.findings}:
            assert "hold none" not in praise and "Holds no water" not in praise and "lets the water in" not in praise
        if any(f.severity is Severity.STOP for f in each.findings):
            assert each.ruled_out
