"""A base of two lifts, as a crew makes it: planned, wetted, gone over by two, shot, tested, reworked, tight."""

import uuid

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import DRAINED_PAD

pytestmark = pytest.mark.browser


@pytest.fixture
def dug(field_world):
    """A pad whose dig is shot, with a plate brought and a laboratory's curve known."""
    from groundwork.layerwork import LaboratoryTest, MachineBrought
    from groundwork.tools import Machine, MachineKind

    world = field_world(job_file=DRAINED_PAD)
    world.shoot_all()
    plate = Machine("plate", MachineKind.PLATE, 500, 0.5, 0.5, 0.35, vibration=5.0)
    world.record(MachineBrought(str(uuid.uuid4()), plate))
    # Its vertex is 2200 kg/m³ at 6 %.
    curve = ((0.04, 0.05, 0.06, 0.07, 0.08), (2160.0, 2190.0, 2200.0, 2190.0, 2160.0))
    world.record(LaboratoryTest(str(uuid.uuid4()), "dense-graded", *curve, 2.7))
    return world


def says(page: Page, words: str) -> None:
    expect(page.locator("#lift-says .verdict")).to_contain_text(words)


def tap(page: Page, way: str, times: int = 1) -> None:
    for _tap in range(times):
        button = page.locator(".tap", has_text=way)
        before = int(button.locator(".figure").inner_text())
        button.click()
        expect(button.locator(".figure")).to_have_text(str(before + 1))


def spread(page: Page, thickness: int) -> None:
    page.locator("form[action$='/spread/'] [name=thickness]").fill(str(thickness))
    page.locator("form[action$='/spread/'] button").click()


def tamp(page: Page) -> None:
    """Along all four sides by hand."""
    sides = page.locator("form[action$='/tamped/'] button")
    for left in (3, 2, 1, 0):
        sides.first.click()
        expect(sides).to_have_count(left)


def shoot_top(world, surface: str) -> None:
    for station in world.assessment().surveys.of(surface).answers:
        world.shoot(station, surface=surface)


def gauge(page: Page, job, place: str, wet: int, lift: str = "base.1") -> None:
    page.goto(f"/jobs/{job.id}/lifts/tests/?lift={lift}")
    form = page.locator("form[action$='/gauge/']")
    form.locator("[name=place]").fill(place)
    form.locator("[name=wet]").fill(str(wet))
    form.locator("[name=moisture]").fill("5")
    form.get_by_role("button").click()
    expect(page.locator("table.ledger")).to_contain_text(place)


def test_a_base_of_two_lifts_is_made_tight(dug, person) -> None:  # noqa: PLR0915 (one story)
    one, other = person(dug, "crew"), person(dug, "lead")
    where = f"/jobs/{dug.job.id}/lifts/?lift=base.1"
    one.goto(where)
    # The plan: 75 mm by 1.25 and five passes of this plate, by the table.
    says(one, "Spread 94 mm loose")
    expect(one.locator("#lift-says")).to_contain_text("5 passes")
    spread(one, 94)
    says(one, "Squeeze a handful")
    one.get_by_role("button", name="falls apart").click()
    # 24 m² × 75 mm × 2.2 t/m³ × 2 points.
    says(one, "Too dry: add 79 l")
    one.get_by_role("button", name="holds").click()
    says(one, "Passes left: 5, next along")
    # Two sessions go over it; each sees the other's passes.
    other.goto(where)
    tap(one, "down the fall", 2)
    expect(other.locator(".tap", has_text="down the fall").locator(".figure")).to_have_text("2")
    tap(other, "across the fall", 2)
    expect(one.locator(".tap", has_text="across the fall").locator(".figure")).to_have_text("2")
    says(one, "Passes left: 1")
    tap(one, "down the fall")
    expect(one.locator(".lift-plan .count")).to_have_text("5")
    says(one, "Test at T1, T2")
    # One place is loose; it is gone over again and tested again.
    gauge(one, dug.job, "T1", 2320)
    gauge(one, dug.job, "T2", 2150)
    expect(one.locator(".verdict")).to_contain_text("Not tight on the mean")
    expect(one.locator("svg.curve .field-test")).to_have_count(2)
    one.goto(where)
    says(one, "Not tight at T2")
    tap(one, "across the fall", 2)
    gauge(one, dug.job, "T2", 2290)
    expect(one.locator(".verdict")).to_contain_text("Tight: ")
    one.goto(where)
    says(one, "Tamp the edges by hand")
    tamp(one)
    says(one, "Shoot its top")
    shoot_top(dug, "base.1")
    one.goto(where)
    says(one, "Tight: go on")
    # The second lift learns how much the first swelled, and is planned by it.
    one.goto(f"/jobs/{dug.job.id}/lifts/?lift=base")
    says(one, "Spread 94 mm loose")
    expect(one.locator("text=from 1 measurement here")).to_be_visible()
    spread(one, 93)
    says(one, "Squeeze a handful")
    one.locator("[name=share]").fill("5.5")
    one.locator("form[action$='/moisture/'] .press").click()
    says(one, "Passes left: 5")
    tap(one, "down the fall", 3)
    tap(one, "across the fall", 2)
    gauge(one, dug.job, "T1", 2310, "base")
    gauge(one, dug.job, "T2", 2310, "base")
    one.goto(f"/jobs/{dug.job.id}/lifts/?lift=base")
    tamp(one)
    says(one, "Shoot its top")
    shoot_top(dug, "base")
    one.goto(f"/jobs/{dug.job.id}/lifts/?lift=base")
    says(one, "Tight: go on")
    # Nothing the record has lost: every tap is there, by who made it.
    passes = [entry for entry in dug.assessment().works.lifts["base.1"].work if entry.KIND == "pass"]
    assert len(passes) == 7


def test_a_patch_is_chosen_on_the_plan_and_counted_alone(field_world, person) -> None:
    from groundwork.layerwork import MachineBrought
    from groundwork.tools import Machine, MachineKind

    wide = DRAINED_PAD.replace("[6, 0], [6, 4], [0, 4]", "[12, 0], [12, 8], [0, 8]")
    world = field_world(job_file=wide, brief_signed=False)
    world.record(MachineBrought(str(uuid.uuid4()), Machine("roller", MachineKind.ROLLER, 1350, 0.9)))
    page = person(world, "crew")
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"/jobs/{world.job.id}/lifts/?lift=base.1")
    page.locator(".lift-plan [data-patch='2'] .gone").click()
    expect(page.locator(".lift-plan .patch.chosen")).to_have_attribute("data-patch", "2")
    tap(page, "down the fall")
    counts = page.locator(".lift-plan .patch .count").all_text_contents()
    assert counts == ["0", "1", "0", "0"]


def test_a_soft_spot_is_marked_on_the_plan_cured_and_found_firm(field_world, person) -> None:
    world = field_world(job_file=DRAINED_PAD)
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/lifts/ground/")
    plan = page.locator("[data-marking] svg").bounding_box()
    middle = plan["x"] + plan["width"] / 2, plan["y"] + plan["height"] / 2
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 60, middle[1] + 50)
    page.mouse.up()
    page.fill("[name=name]", "wet corner")
    page.fill("[name=depth]", "250")
    page.get_by_role("button", name="Draw it").click()
    expect(page.locator(".soft-spot")).to_contain_text("wet corner")
    expect(page.locator(".finding")).to_contain_text("soft spots with no cure logged: 1")
    spot = world.assessment().works.subgrade.spots[0]
    assert 0.2 < spot.outline.area < 12
    page.select_option("[name=how]", "fabric and stone")
    page.fill("form[action$='/cured/'] [name=lifts]", str(spot.lifts))
    page.locator("form[action$='/cured/'] button").click()
    expect(page.locator(".finding")).to_contain_text("cured and not tested since")
    x, y = spot.outline.representative_point().coords[0]
    page.goto(f"/jobs/{world.job.id}/lifts/tests/?lift=formation")
    page.locator("summary", has_text="Spike").click()
    form = page.locator("form[action$='/spike/']")
    form.locator("[name=place]").fill("S1")
    form.locator("[name=at]").fill(f"{x:.2f} {y:.2f}")
    form.locator("[name=sank]").fill("10")
    form.get_by_role("button").click()
    expect(page.locator("table.ledger")).to_contain_text("firm")
    page.goto(f"/jobs/{world.job.id}/lifts/ground/")
    expect(page.locator("text=Nothing found soft.")).to_be_visible()


def test_what_is_wanted_now_and_then_opens_beside_the_lift(dug, person) -> None:
    page = person(dug, "crew")
    page.goto(f"/jobs/{dug.job.id}/lifts/?lift=base.1")
    tap(page, "down the fall")
    page.locator("summary", has_text="Settlement, machines").click()
    page.locator("summary", has_text="Loosened").click()
    page.locator("form[action$='/scarified/'] [name=depth]").fill("deep")
    page.locator("form[action$='/scarified/'] button").click()
    expect(page.locator("form[action$='/scarified/'] .wrong")).to_contain_text("deep")
    page.locator("form[action$='/scarified/'] [name=depth]").fill("60")
    page.locator("form[action$='/scarified/'] button").click()
    # What was compacted before it was loosened no longer counts.
    expect(page.locator(".tap", has_text="down the fall").locator(".figure")).to_have_text("0")
    expect(page.locator("#lift")).to_have_count(1)
    expect(page.locator("#lift li", has_text="loosened 60 mm deep")).to_be_visible()
