"""Fifteen ordinary jobs started from nothing but a name, an outline, one height and a way out, as a lead types them,
in metric and in feet: none ponds as designed, none starts steeper than its heights force. Judged from outside the
product: a raster of the planes, flooded (scikit-image)."""

import math

import pytest
from playwright.sync_api import Page, expect

from groundwork.brief import HeightKind
from groundwork.measures import FOOT, Unit
from tests.groundwork.test_proposal import JOBS, STEP, Started, flooded

pytestmark = pytest.mark.browser
RODS = {Unit.MILLIMETRES: "mm", Unit.FEET_INCHES: "ft-in", Unit.FEET_TENTHS: "ft"}
STARTED = [name for name, job in JOBS.items() if "held" not in name and len(job.outline) < 8]
ALONG = {"building+drain": "drained"}


def typed(metres: float, unit: Unit) -> str:
    return f"{metres:.4f}" if unit.is_metric else f"{metres / FOOT:.4f}'"


def start(page: Page, name: str, job: Started) -> None:
    page.goto("/jobs/new/")
    page.fill("[name=name]", name)
    page.check("[name=area_as][value=corners]")
    corners = [f"{typed(x, job.unit)} {typed(y, job.unit)}" for x, y in job.outline]
    page.fill("#id_area", "\n".join(corners))
    expect(page.locator("#area-pane select")).to_have_count(len(job.outline))
    for side, along in job.along.items():
        page.select_option(f"[name=side-{side}-along]", ALONG.get(along, along))
    (height,) = job.heights
    page.select_option("[name=height-0-kind]", str(height.kind))
    page.fill("[name=height-0-name]", "the one height")
    page.fill("[name=height-0-at]", f"{typed(height.at[0], job.unit)} {typed(height.at[1], job.unit)}")
    page.fill("[name=height-0-level]", typed(height.level, job.unit))
    if job.things:
        page.locator("details:has([name=thing-0-kind]) > summary").click()
        for n, thing in enumerate(job.things):
            places = "; ".join(f"{typed(x, job.unit)} {typed(y, job.unit)}" for x, y in thing.points)
            page.select_option(f"[name=thing-{n}-kind]", thing.kind)
            page.fill(f"[name=thing-{n}-name]", thing.name)
            page.fill(f"[name=thing-{n}-places]", places)
    page.click("button:has-text('Start the job')")
    expect(page.locator("svg.section")).to_be_visible()


def test_there_are_fifteen_of_them_in_metric_and_in_feet() -> None:
    assert len(STARTED) >= 15
    assert {JOBS[name].unit for name in STARTED} == set(RODS)
    assert all(len(JOBS[name].heights) == 1 for name in STARTED)


@pytest.mark.parametrize("unit", RODS)
def test_none_ponds_as_designed_and_none_is_steeper_than_its_heights_force(field_world, person, unit: Unit) -> None:
    from nivelum.jobs.models import Job
    from nivelum.jobs.services import snapshot

    world = field_world(rod=RODS[unit])
    page = person(world, "lead")
    for name in (name for name in STARTED if JOBS[name].unit is unit):
        started = JOBS[name]
        start(page, name, started)
        expect(page.locator("#base-answers")).not_to_contain_text("S22")
        assessment = snapshot(Job.objects.get(crew=world.crew, name=name)).assessment
        job = assessment.job
        led = math.sqrt(2) if len(job.facets) > 1 else 1.0
        assert max(f.steepest[0] for f in job.facets) <= started.steepest * led * 1.002, name
        if any(f.kind in ("drain", "free edge") for f in job.features) or job.heights[0].kind is HeightKind.DRAIN:
            assert flooded(job) <= 0.003 + STEP * started.steepest, name
        assert not {"S02", "S03", "S21", "S22"} & {f.rule for f in assessment.soundness}, name
