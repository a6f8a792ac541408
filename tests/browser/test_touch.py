"""A whole dig and a whole lift by thumbs alone, on a small phone."""

import uuid

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_keyboard import FOOT

pytestmark = pytest.mark.browser
SMALL = {"viewport": {"width": 360, "height": 640}, "has_touch": True, "is_mobile": True, "device_scale_factor": 3}


def keyed(page: Page, figures: str) -> None:
    """Taps the pad's own keys."""
    for figure in figures:
        page.locator(f'.keys [data-key="{figure}"]').locator("visible=true").tap()


def test_a_whole_dig_by_touch(field_world, person) -> None:
    world = field_world()
    page = person(world, "crew", **SMALL)
    page.goto(f"/jobs/{world.job.id}/ground/")
    keyed(page, "1300")
    page.get_by_role("button", name="Level is set up").tap()
    names = [station.name for station in world.assessment().job.stations]
    for n in range(len(names) + 1):  # the second is read 40 mm high, dug, and read again: the way leads back to it
        page.locator("#target").wait_for()
        here = page.locator("#here").input_value()
        keyed(page, str(int(page.locator("#target").inner_text()) - (40 if n == 1 else 0)))
        page.get_by_role("button", name=f"Read at {here}").tap()
        verdict = page.locator("#pad .verdict")
        expect(verdict).to_contain_text(f"{here}: {'dig' if n == 1 else 'good'}")
        assert verdict.bounding_box()["y"] >= 0 and verdict.bounding_box()["y"] < 640, "the verdict is in sight"
    shot = world.assessment().surveys.formation
    assert shot.shot_count == len(names) and all(a.judgement.standing.is_sound for a in shot.answers.values())


def test_a_whole_lift_by_touch(field_world, person) -> None:
    from groundwork.layerwork import MachineBrought
    from groundwork.tools import Machine, MachineKind

    world = field_world(job_file=FOOT)
    world.shoot_all()
    world.record(MachineBrought(str(uuid.uuid4()), Machine("plate", MachineKind.PLATE, 500, 0.5, 0.5, 0.35)))
    page = person(world, "crew", **SMALL)
    page.goto(f"/jobs/{world.job.id}/lifts/?lift=base.1")
    page.get_by_label("thick, loose").tap()
    page.keyboard.type("94")  # the phone's own keys
    page.get_by_role("button", name="Log it: spread").tap()
    page.get_by_role("button", name="holds", exact=False).first.tap()
    for n, way in enumerate(("down", "across", "down", "across", "down")):
        tap = page.locator(".tap", has_text=f"{way} the fall")
        expect(tap.locator(".figure")).to_have_text(str(n // 2))
        tap.tap()
        expect(tap.locator(".figure")).to_have_text(str(n // 2 + 1))
    for side in ("P1–P2", "P2–P3", "P3–P4", "P4–P1"):
        page.get_by_role("button", name=side).tap()
        expect(page.get_by_role("button", name=side)).to_have_count(0)
    expect(page.locator("#lift-says .verdict")).to_contain_text("Shoot its top")
    lift = world.assessment().works.lifts["base.1"]
    assert lift.passes_done == 5 and not lift.untamped and lift.moisture and lift.spread
