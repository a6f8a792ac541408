"""A job from nothing to a signed brief, as people do it: with a mouse, and with the keyboard alone."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import go_to, see_all

pytestmark = pytest.mark.browser


def test_a_job_is_started_and_its_section_tried_with_the_mouse(field_world, person) -> None:
    page = person(field_world(), "lead")
    page.click("text=Start a job")
    page.fill("[name=name]", "Gauge hut path")
    page.wait_for_load_state()  # what is typed before the page's scripts are there redraws nothing
    page.select_option("[name=soil]", "sand")
    page.fill("#id_area", "6\n4\n6.5")
    expect(page.locator("#area-pane")).to_contain_text("m²")
    page.fill("#id_area", "6\n4\n6")
    expect(page.locator("#area-pane")).to_contain_text("24.0 m²")

    # A corner is dragged out by about half a metre, and put right again by typing.
    box = page.locator("circle.drag").nth(1).bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2 + 30, box["y"] + box["height"] / 2, steps=4)
    page.mouse.up()
    expect(page.locator("#area-pane")).not_to_contain_text("24.0 m²")
    expect(page.locator("#id_area")).to_have_value(
        re.compile(r"^0\.000 0\.000\n6\.[1-9]\d -?0\.0\d\n6\.000 4\.000\n")
    )
    page.fill("#id_area", "0 0\n6 0\n6 4\n0 4")
    expect(page.locator("#area-pane")).to_contain_text("24.0 m²")

    page.select_option("[name=side-2-along]", "building")
    page.fill("[name=side-2-name]", "hut")
    page.fill("[name=height-0-name]", "door")
    page.fill("[name=height-0-at]", "side 3")
    page.fill("[name=height-0-level]", "ten")
    page.click("button:has-text('Start the job')")
    expect(page.locator("#wrong-height-0-level")).to_contain_text("is not a measurement")
    expect(page.locator("[name=side-2-name]")).to_have_value("hut")
    page.fill("[name=height-0-level]", "10.000")
    page.click("button:has-text('Start the job')")
    expect(page.locator("svg.section")).to_be_visible()

    # Dust is not controlled yet: a stop.
    expect(page.locator("#base-answers")).to_contain_text("no dust control named")

    # Levels where the plan is touched.
    box = page.locator("[data-cutting] svg path.area").bounding_box()
    page.mouse.click(box["x"] + box["width"] * 0.25, box["y"] + box["height"] * 0.75)
    expect(page.locator("#base-answers h2").first).to_contain_text(re.compile(r"Levels at 1\.\d+ \d\.\d+"))


def test_a_section_is_tried_by_button_by_hand_and_by_typing_and_kept(field_world, person) -> None:
    world = field_world(brief_signed=False)
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/base/")
    depth, base = page.locator("#base-depth .figure"), page.locator("#id_base-0-thickness")
    page.click("button[data-for='id_base-0-thickness'][data-step='5']")
    expect(depth).to_contain_text("260 mm")
    handle = page.locator("g.handle[data-field='id_base-0-thickness']").bounding_box()
    page.mouse.move(handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2)
    page.mouse.down()
    page.mouse.move(handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2 + 25, steps=4)
    page.mouse.up()
    expect(depth).not_to_contain_text("260 mm")
    assert int(base.input_value()) > 155
    base.fill("a hand")
    expect(page.locator("#wrong-base-0-thickness")).to_contain_text("is not a measurement")
    base.fill("145")
    expect(page.locator("#wrong-base-0-thickness")).to_be_empty()
    expect(depth).to_contain_text("250 mm")
    expect(page.locator("#base-answers")).to_contain_text("base 145 mm")
    base.fill("170")
    expect(depth).to_contain_text("275 mm")
    page.click("button:has-text('Keep as version 2')")
    expect(page.locator("nav[aria-label=Base]")).to_contain_text("version 2")
    expect(depth).to_contain_text("275 mm")


def test_a_school_is_chosen_the_falls_planned_and_the_brief_signed(field_world, person) -> None:
    world = field_world(brief_signed=False)
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/base/schools/")
    page.locator("input[name=one][value=dense]").check()
    page.locator("input[name=other][value=open]").check()
    expect(page.locator("#beside svg.section")).to_have_count(2)
    expect(page.locator("#beside")).to_contain_text("density ratio")
    page.locator("li", has=page.locator("input[name=one][value=kerbed]")).locator("button").click()
    expect(page.locator("body")).to_contain_text("Unbound sub-base between kerbs")

    # A drain too high for the least fall: the conflict is named, with by how much; a lower drain cures it.
    page.click("nav[aria-label=Base] >> text=Brief")
    page.click("text=Another level")
    for row, (kind, name, at, level) in enumerate(
        [("threshold", "door", "side 3", "10.000"), ("drain", "gully", "side 1", "9.980")], start=2
    ):
        page.select_option(f"[name=height-{row}-kind]", kind)
        for field, typed in (("name", name), ("at", at), ("level", level)):
            page.fill(f"[name=height-{row}-{field}]", typed)
    page.click("button:has-text('Keep as version 3')")
    expect(page.locator("nav[aria-label=Base]")).to_contain_text("version 3")
    expect(page.locator("#base-answers")).to_contain_text("S21")
    page.click("nav[aria-label=Base] >> text=Falls")
    page.check("input[value=one]")
    page.click("button:has-text('Plan the falls')")
    expect(page.locator("#falls-answers")).to_contain_text("gully down by 47 mm")
    page.fill("[name=least]", "1:210")
    page.click("button:has-text('Plan the falls')")
    expect(page.locator("#falls-answers")).to_contain_text("There are falls that meet everything")
    expect(page.locator("#falls-answers")).to_contain_text("all falls 1:200")  # S04: it would pond
    page.click("nav[aria-label=Base] >> text=Brief")
    page.locator("input[value=gully]").wait_for()
    row = page.locator("input[value=gully]").get_attribute("name").replace("name", "level")
    page.fill(f"[name={row}]", "9.900")
    page.click("button:has-text('Keep as version 4')")
    expect(page.locator("nav[aria-label=Base]")).to_contain_text("version 4")
    page.click("nav[aria-label=Base] >> text=Falls")
    page.check("input[value=one]")
    page.click("button:has-text('Plan the falls')")
    expect(page.locator("#falls-answers")).to_contain_text("There are falls that meet everything")
    page.click("button:has-text('Keep as version 5')")
    expect(page.locator("nav[aria-label=Base]")).to_contain_text("version 5")
    assert page.locator("#falls-answers table td").nth(1).get_by_role("img").get_attribute("aria-label") == (
        "towards 180°"
    )

    go_to(page, "Sign-offs")
    see_all(page)
    expect(page.locator("#stage")).to_contain_text("May be signed")
    page.click("text=Sign the brief")
    expect(page.locator("#stage")).to_contain_text("Signed. Go on.")
    expect(page.locator("#stage")).to_contain_text("on version 5")
    expect(page.locator("#course")).to_contain_text("Brief, signed")


def tab_to(page: Page, selector: str) -> None:
    """Presses Tab until what `selector` finds has the focus."""
    for _ in range(150):
        if page.evaluate("s => document.activeElement?.matches(s)", selector):
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"no way to {selector} by keyboard")


def fill(page: Page, selector: str, typed: str) -> None:
    tab_to(page, selector)
    page.keyboard.press("Control+a")
    page.keyboard.type(typed)


def test_from_nothing_to_a_signed_brief_with_the_keyboard_alone(field_world, person) -> None:
    page = person(field_world(), "lead")
    tab_to(page, "a[href='/jobs/new/']")
    page.keyboard.press("Enter")
    page.wait_for_selector("[name=name]:focus")
    page.keyboard.type("Gauge hut path")
    tab_to(page, "[name=soil]")
    page.keyboard.type("sand")
    tab_to(page, "[name=dust_control]")
    page.keyboard.type("water")
    fill(page, "#id_area", "6\n4\n6")
    expect(page.locator("#area-pane")).to_contain_text("24.0 m²")
    tab_to(page, "[name=side-2-along]")
    page.keyboard.type("a building")
    for name, typed in (("name", "door"), ("at", "side 3"), ("level", "10.000")):
        fill(page, f"[name=height-0-{name}]", typed)
    tab_to(page, "button[name=keep]")
    page.keyboard.press("Enter")
    page.wait_for_selector("svg.section")
    fill(page, "input[name$='base-0-thickness']", "160")
    expect(page.locator("#base-answers")).to_contain_text("Not kept yet")
    tab_to(page, "#base-answers button.press")
    page.keyboard.press("Enter")
    expect(page.locator("nav[aria-label=Base]")).to_contain_text("version 2")
    tab_to(page, ".opens-rooms")
    page.keyboard.press("Enter")
    tab_to(page, "#rooms a[href$='/sign-offs/']")
    page.keyboard.press("Enter")
    for left in (2, 1):
        expect(page.locator("#stage button[value=yes]")).to_have_count(left)
        tab_to(page, "#stage button[value=yes]")
        page.keyboard.press("Enter")
    expect(page.locator("#stage")).to_contain_text("May be signed")
    tab_to(page, "#stage form[action$='/sign/'] button")
    page.keyboard.press("Enter")
    expect(page.locator("#stage")).to_contain_text("Signed. Go on.")


def test_a_stop_is_accepted_on_the_screen(field_world, person) -> None:
    from tests.nivelum.test_bases import DUSTY

    world = field_world(job_file=DUSTY, brief_signed=False)
    page = person(world, "lead")
    page.click(f"#jobs a[href*='{world.job.id}']")
    go_to(page, "Sign-offs")
    see_all(page)
    expect(page.locator("#stage")).to_contain_text("Not yet")
    page.click("text=Accept it, with a reason")
    page.fill("[name=reason]", "no")
    page.click("button:has-text('Accept it')")
    expect(page.locator("#stage")).to_contain_text("at least 8 characters")
    expect(page.locator("[name=reason]")).to_have_value("no")
    page.fill("[name=reason]", "all cutting is done off the site")
    page.click("button:has-text('Accept it')")
    expect(page.locator("#stage")).to_contain_text("Accepted stop")
    expect(page.locator("#stage")).to_contain_text("May be signed")


def test_who_looks_at_a_base_is_told_of_a_newer_version(field_world, person) -> None:
    world = field_world()
    lead, engineer = person(world, "lead"), person(world, "engineer")
    for page in (lead, engineer):
        page.goto(f"/jobs/{world.job.id}/base/")
    lead.fill("#id_base-0-thickness", "180")
    engineer.fill("#id_base-0-thickness", "200")
    for page in (lead, engineer):  # what each has typed is answered before one of them keeps it
        expect(page.locator("#base-answers")).to_contain_text("Overtakes Brief, signed by Lead Person")
    lead.click("button:has-text('Keep as version 2')")
    expect(lead.locator("nav[aria-label=Base]")).to_contain_text("version 2")
    expect(engineer.locator("[role=status]", has_text="Lead Person has kept version 2")).to_be_visible()
    expect(engineer.locator("#course")).to_contain_text("Brief · changed since")
    expect(engineer.locator("#id_base-0-thickness")).to_have_value("200")
    engineer.click("button:has-text('Keep as version 2')")
    expect(engineer.locator("#base-answers")).to_contain_text("Someone has changed the design")
    expect(engineer.locator("#id_base-0-thickness")).to_have_value("200")
