"""Seating and filling by keyboard, by touch, with somebody watching, and without a signal."""

import subprocess
import uuid
from datetime import timedelta
from itertools import takewhile
from unittest import mock

import pytest
from django.utils import timezone
from playwright.sync_api import expect

from groundwork.files import dumps
from groundwork.layerwork import MachineBrought
from groundwork.tools import Machine, MachineKind
from nivelum.jobs.services import Author
from nivelum.signoffs.services import accept_finding
from tests.browser.conftest import see_all, sign_in
from tests.browser.test_no_signal import device, mend, waits, wire
from tests.conftest import make_world
from tests.groundwork.test_stages import job as staged
from tests.walking import PLATE as HEAVY_PLATE

__all__ = ["device", "wire"]
PHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}
PLATE = Machine("small plate", MachineKind.PLATE, 90, 0.4, 0.5, force=18.0)


def plated(rod: str = "mm"):
    world = make_world(rod=rod)
    world.set_up("4.2651" if rod.startswith("ft") else "1300")
    world.record(MachineBrought(str(uuid.uuid4()), PLATE))
    return world


def test_paving_is_seated_mended_and_filled_with_somebody_watching(site, person) -> None:
    world = plated()
    lead, watcher = person(world, "lead"), person(world, "crew", **PHONE)
    at = f"/jobs/{world.job.id}/joints/"
    lead.goto(at)
    watcher.goto(at)
    for left in ("2 more passes", "1 more pass", "Gone over everywhere"):
        lead.locator("button.press[data-next]").click()
        expect(lead.locator("#seating-told .verdict").first).to_contain_text(left)
        expect(watcher.locator("#seating-told .verdict").first).to_contain_text(left)
    expect(lead.get_by_role("link", name="Shoot it as it lies now")).to_be_focused()
    # A place touched on the plan goes into both forms; the list says in which order to walk.
    watcher.goto(f"{at}units/")
    lead.goto(f"{at}units/")
    box = watcher.locator("#units-drawn svg").bounding_box()
    watcher.touchscreen.tap(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    expect(watcher.locator("[name=at]").first).not_to_have_value("")
    east, north = map(float, watcher.locator("[name=at]").first.input_value().split())
    x0, y0, x1, y1 = world.assessment().site.area.bounds
    assert x0 <= east <= x1 and y0 <= north <= y1
    watcher.get_by_role("button", name="Put it on the list").click()
    expect(lead.locator("#units-told .verdict")).to_contain_text("1 unit to mend")
    watcher.get_by_role("button", name="1 is mended").click()
    expect(lead.locator("#units-told .verdict")).to_contain_text("No unit to mend")
    lead.goto(f"{at}filling/")
    steps = world.assessment().jointing.fill.steps
    for step in steps:
        expect(lead.locator("#filling-told .verdict")).to_contain_text(step.does)
        lead.get_by_role("button", name="Done all over").click()
    for spot in range(world.assessment().jointing.places):
        expect(lead.get_by_label(f"patch 1, place {spot + 1}: below the edge")).to_be_focused()
        lead.keyboard.type("2")
        lead.keyboard.press("Enter")
    expect(lead.locator("#filling-told .verdict")).to_contain_text("Full everywhere")
    assert not world.assessment().jointing.next_depth


def test_what_is_typed_while_a_press_is_on_its_way_stays(site, person) -> None:
    world = plated()
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/joints/filling/")
    answers = []
    for what in ("step", "depth"):
        page.route(f"**/joints/filling/{what}/", lambda route: answers.append((route, route.fetch())))
    first, second, *_rest = world.assessment().jointing.fill.steps
    expect(page.locator("#filling-told .verdict")).to_contain_text(first.does)
    page.get_by_role("button", name="Done all over").click()
    while not answers:
        page.wait_for_timeout(20)
    field = page.get_by_label("patch 1, place 1: below the edge")
    field.fill("2")
    route, answer = answers.pop()
    route.fulfill(response=answer)
    expect(page.locator("#filling-told .verdict")).to_contain_text(second.does)
    expect(field).to_have_value("2")
    expect(field).to_be_focused()
    # Sent while another press is on its way, what it was answered is shown all the same.
    for typed in ("no number", "2"):
        page.get_by_role("button", name="Done all over").click()
        while not answers:
            page.wait_for_timeout(20)
        field.fill(typed)
        field.press("Enter")
        while len(answers) < 2:
            page.wait_for_timeout(20)
        in_turn = sorted(answers, key=lambda each: "/depth/" in each[0].request.url)  # as they were pressed
        answers.clear()
        for route, answer in in_turn:
            route.fulfill(response=answer)
            page.wait_for_timeout(200)
        if typed == "2":
            expect(page.get_by_label("patch 1, place 2: below the edge")).to_have_value("")
        else:
            expect(page.locator("#filling-told")).to_contain_text("is not a measurement")
            expect(field).to_have_value(typed)


def test_what_was_refused_stays_with_why_as_something_else_is_pressed(site, person) -> None:
    world = plated()
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/joints/filling/")
    field = page.get_by_label("patch 1, place 1: below the edge")
    field.fill("no number")
    field.press("Enter")
    expect(page.locator("#filling-told")).to_contain_text("is not a measurement")
    second = world.assessment().jointing.fill.steps[1]
    page.get_by_role("button", name="Done all over").click()
    expect(page.locator("#filling-told .verdict")).to_contain_text(second.does)
    expect(page.locator("#filling-told")).to_contain_text("is not a measurement")
    expect(field).to_have_value("no number")
    expect(field).to_have_attribute("aria-invalid", "true")
    field.fill("2")
    field.press("Enter")
    expect(page.get_by_label("patch 1, place 2: below the edge")).to_have_value("")
    expect(page.locator("#filling-told")).not_to_contain_text("is not a measurement")


def test_passes_and_fillings_wait_for_a_signal(site, device, wire) -> None:
    world = plated()
    page = device().open(**PHONE)
    sign_in(page, world, "crew")
    page.goto(f"/jobs/{world.job.id}/joints/")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    wire.cut()
    page.locator("button.press[data-next]").click()
    waits(page, 1)
    mend(page, wire)
    expect(page.locator("#seating-told .verdict").first).to_contain_text("2 more passes")
    assert len(world.assessment().seating.gone_over) == 1


FOUR = ("kerbed", "open", "rigid", "cells")


def to_the_bed(key: str):
    """A job of a school with everything up to its bed signed, weeks ago."""
    long_ago = timezone.now() - timedelta(days=50)
    with mock.patch.object(timezone, "now", lambda: long_ago):
        world = make_world(rod="mm", job_file=dumps(staged(key)), brief_signed=False)
        world.sign("brief")
        world.square()
        world.sign("set-out")
        world.record(MachineBrought(str(uuid.uuid4()), HEAVY_PLATE))
        early = takewhile(lambda each: each[0] != "bedding", world.assessment().stages.steps.items())
        for n, (stage, step) in enumerate(early):
            if n < len(("brief", "set-out")):
                continue
            later = long_ago + timedelta(days=4 * n)
            with mock.patch.object(timezone, "now", lambda later=later: later):
                world.make(stage)
                for slot in step.slots:
                    world.sign(stage, {"engineer": "engineer", "second look": "crew"}.get(slot, "lead"), slot)
    return world


@pytest.mark.parametrize("key", FOUR)
def test_from_the_bed_to_a_handover_a_client_can_read(key: str, site, person, tmp_path) -> None:
    world = to_the_bed(key)
    lead = person(world, "lead")
    at = f"/jobs/{world.job.id}"
    for stage in list(world.assessment().stages.steps):
        if world.assessment().stages.of(stage).gate.is_signed:
            continue
        if stage == "joints":
            fill(lead, world, at)
        else:
            world.make(stage)
        if stage == "seating":
            lead.goto(f"{at}/joints/")
            expect(lead.locator("#seating-told")).to_contain_text("Gone over everywhere")
        if stage == "late-edges":
            lead.goto(f"{at}/edges/?side=0")
            expect(lead.locator("#edges-set")).to_contain_text("What holds side 1")
        sign(lead, world, at, stage)
    lead.goto(f"{at}/record/")
    expect(lead.locator(".plain")).to_contain_text("Your paving")
    expect(lead.locator(".plain")).to_contain_text("places measured are where they were designed")
    pdf = lead.request.get(f"{at}/record.pdf")
    while not pdf.headers["content-type"].startswith("application/pdf"):
        lead.wait_for_timeout(500)
        pdf = lead.request.get(f"{at}/record.pdf")
    kept = tmp_path / "record.pdf"
    kept.write_bytes(pdf.body())
    text = subprocess.check_output(["pdftotext", "-layout", str(kept), "-"], text=True)
    first, second, *_evidence = text.split("\f")
    assert "Your paving" in first and "Walk on it from" in first and "Stages" not in first.splitlines()
    assert "Who stands for it" in first + second and "Lead Person signed" in first + second


def fill(page, world, at: str) -> None:
    """Dry enough, every step, every joint that wants taping."""
    page.goto(f"{at}/joints/filling/")
    joints = world.assessment().jointing
    if joints.fill.over_dew is not None:
        for name, typed in (("air", "20"), ("surface", "20"), ("humidity", "50")):
            page.locator(f"[name={name}]").fill(typed)
        page.get_by_role("button", name="Read", exact=True).click()
        expect(page.locator("#filling-told")).to_contain_text("dew point")
    for step in joints.fill.steps:
        expect(page.locator("#filling-told .verdict")).to_contain_text(step.does)
        page.get_by_role("button", name="Done all over").click()
    below = f"{(joints.fill.least + joints.fill.most) * 500:.0f}"
    for patch in joints.patches:
        for spot in range(joints.places):
            field = page.get_by_label(f"patch {patch}, place {spot + 1}: below the edge")
            field.fill(below)
            field.press("Enter")
    expect(page.locator("#filling-told .verdict")).to_contain_text("Full everywhere")


def sign(page, world, at: str, stage: str) -> None:
    """Every question answered by looking, a photo where one is wanted, a wait accepted, signed in one's own name."""
    for stop in world.assessment().stages.of(stage).stops:
        if stop.rule == "G10":
            accept_finding(world.visit("lead"), stage, stop.identity, "left to set over night", uuid.uuid4(),
                           Author(world.people["lead"]))  # fmt: skip
    for asked in world.assessment().stages.asked(stage):
        if asked.ask.photo:
            world.look(stage)
    page.goto(f"{at}/sign-offs/?stage={stage}")
    see_all(page)
    page.get_by_role("button", name="Sign the").click()
    expect(page.locator("#gate-says")).to_contain_text("Signed")
