"""The dig, from sign-in to sign-off, as people do it."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import go_to, see_all

pytestmark = pytest.mark.browser


def read(page: Page, typed: str) -> None:
    """Types a reading and waits until the pad has moved on or said why not."""
    was = page.locator("#reading input[name=entry_id]").input_value()
    page.fill("#entry", typed)
    page.keyboard.press("Enter")
    page.wait_for_function(
        "was => ![...document.querySelectorAll('#reading input[name=entry_id]')].some(i => i.value === was)"
        " || document.querySelector('#entry-wrong')",
        arg=was,
    )


def target(page: Page) -> int:
    return int(page.locator("#target").inner_text())


def station(page: Page) -> str:
    return page.locator("#here").input_value()


def set_up(page: Page, backsight: str) -> None:
    page.fill("#entry", backsight)
    page.keyboard.press("Enter")
    page.wait_for_selector("#target")


def test_from_opening_a_job_to_the_first_verdict_in_three_taps_and_the_digits(field_world, person) -> None:
    world = field_world()
    page = person(world, "crew", has_touch=True)
    taps = 0

    def tap(selector: str) -> None:
        nonlocal taps
        taps += 1
        page.tap(selector)

    tap(f"#jobs a[href*='{world.job.id}']")
    page.wait_for_selector("#entry:focus")
    page.keyboard.type("1300")
    tap("#pad .press:has-text('Level is set up')")
    page.wait_for_selector("#target")
    first = station(page)
    page.keyboard.type(str(target(page)))
    tap("#pad .press:has-text('Read at')")
    page.wait_for_selector(".verdict")
    assert taps <= 3
    expect(page.locator(".verdict")).to_contain_text(f"{first}: good")
    assert station(page) != first


def test_the_whole_dig_seen_by_two(field_world, person) -> None:
    world = field_world()
    lead, other = person(world, "lead"), person(world, "viewer")
    lead.click(f"#jobs a[href*='{world.job.id}']")
    go_to(lead, "Base")
    expect(lead.locator("svg.section")).to_be_visible()
    expect(lead.locator("main")).to_contain_text("255 mm")
    go_to(lead, "Ground")
    set_up(lead, "4' 3 3/16\"")  # 51 3/16 inches: 1.300 m to the millimetre
    expect(lead.locator("#pad")).to_contain_text("height of instrument 11.500")
    other.goto(f"/jobs/{world.job.id}/sign-offs/")
    expect(other.locator("#stage")).to_contain_text("Ready to check")

    names = []
    first_target = target(lead)
    read(lead, str(first_target - 34))
    expect(lead.locator(".verdict")).to_contain_text("dig 34 mm")
    while (name := station(lead)) not in names:
        names.append(name)
        read(lead, str(target(lead)) if len(names) % 2 else f'{target(lead) / 25.4:.0f} 0/2"')
        if lead.locator(".verdict").inner_text().split(":")[0] == name and len(names) > 20:
            break
        if not lead.locator("#course", has_text="to shoot").count():
            break
    expect(other.locator("#stage")).to_contain_text("not looked at yet: 2")
    expect(lead.locator("#course")).to_contain_text("3 things to clear")

    # Held: no way to sign, and the station that holds it is named and leads there.
    go_to(lead, "Sign-offs")
    expect(lead.locator("#stage")).to_contain_text("1 not deep enough, up to 34 mm high")
    assert lead.locator("text=Sign the dig >> visible=true").count() == 0
    lead.click("[aria-label=Signing] a.figure")
    expect(lead.locator(".verdict")).to_contain_text("dig 34 mm")

    # A slip and its correction: what was typed comes back to be mended.
    slip = str(first_target - 27)
    read(lead, slip)
    expect(lead.locator(".verdict")).to_contain_text("dig 27 mm")
    lead.click("text=Undo")
    expect(lead.locator("#entry")).to_have_value(slip)
    read(lead, str(first_target))
    expect(lead.locator(".verdict")).to_contain_text("good")
    expect(lead.locator("#course")).to_contain_text("2 things to clear")
    go_to(lead, "Sign-offs")
    see_all(lead)

    expect(other.locator("#stage")).to_contain_text("May be signed")
    lead.click("button:has-text('Sign the dig')")
    expect(lead.locator("#stage")).to_contain_text("Signed. Go on.")
    expect(other.locator("#stage")).to_contain_text("Lead Person")
    expect(other.locator("#course")).to_contain_text("signed")


def test_anothers_reading_appears_without_disturbing_what_one_is_typing(field_world, person) -> None:
    world = field_world()
    world.set_up()
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/?station=B1")
    page.fill("#entry", "17")
    world.shoot("A1", high_mm=40, role="lead")
    expect(page.locator("#plan a[aria-label='A1 40 mm, dig']")).to_be_attached()
    assert page.input_value("#entry") == "17"
    assert station(page) == "B1"
    expect(page.locator("#stake h2")).to_have_text("B1")


def test_who_is_reading_is_told_when_the_level_is_set_up_anew(field_world, person) -> None:
    world = field_world()
    world.set_up()
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/?station=B1")
    before = target(page)
    page.fill("#entry", "17")
    world.set_up("1350")
    expect(page.locator("#set-up-news")).to_contain_text("Crew Person has set the level up anew")
    assert page.input_value("#entry") == "17" and target(page) == before
    page.click("text=Show the new one")
    expect(page.locator("#target")).to_have_text(str(before + 50))
    expect(page.locator("#set-up-news")).to_be_empty()


def test_news_asked_for_before_the_new_set_up_was_shown_brings_no_old_notice_back(field_world, person) -> None:
    world = field_world()
    world.set_up()
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/?station=B1")
    before = target(page)
    world.set_up("1350")
    expect(page.locator("#set-up-news")).to_contain_text("set the level up anew")
    answers = []
    page.route("**/ground/now/*", lambda route: answers.append((route, route.fetch())), times=1)
    page.evaluate("htmx.trigger(document.body, 'recorded')")
    while not answers:
        page.wait_for_timeout(20)
    page.click("text=Show the new one")
    expect(page.locator("#target")).to_have_text(str(before + 50))
    route, answer = answers[0]
    came = []
    page.on("response", lambda response: came.append(response.url) if "/ground/now/" in response.url else None)
    route.fulfill(response=answer)
    while len(came) < 2:  # looked at again, for what is in hand now
        page.wait_for_timeout(20)
    expect(page.locator("#set-up-news")).to_be_empty()


def test_stations_are_chosen_by_touch_and_by_arrow_keys(field_world, person) -> None:
    world = field_world()
    world.set_up()
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/?station=A1")
    page.focus("#entry")
    page.keyboard.press("ArrowRight")  # where one types, an arrow is an arrow
    page.focus("#plan .plan-pane")
    for key, name in [("ArrowRight", "A2"), ("ArrowUp", "B2"), ("ArrowLeft", "B1"), ("ArrowDown", "A1")]:
        page.keyboard.press(key)
        expect(page.locator("#stake h2")).to_have_text(name)
    page.click("#plan a[data-station='B3'] .reach")
    expect(page.locator("#stake h2")).to_have_text("B3")
    expect(page.locator("#entry")).to_be_focused()


def test_feet_inches_and_fractions_on_the_pads_own_keys(field_world, person) -> None:
    world = field_world(rod="ft-in")
    world.set_up()
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/?station=A1")
    for key in ["5", "'", "2", " ", "1", "3", "/", "1", "6", '"']:
        page.click(f".keys [data-key='{key}']" if key != "'" else '.keys [data-key="\'"]')
    assert page.input_value("#entry") == "5'2 13/16\""
    page.keyboard.press("Enter")
    # By hand: A1 is 3 m down a fall of 1:50 from 10.000, its formation 255 mm below: 9.685. Read 62 13/16 in,
    # 1.5954 m, below 11.500: 9.9046, high by 219.6 mm, 8.644 in.
    expect(page.locator(".verdict .fraction").first).to_be_visible()
    spoken = page.locator(".verdict strong").evaluate(
        "e => [...e.childNodes].map(n => n.ariaLabel ?? n.textContent).join('')"
    )
    assert re.search(r"A1: dig 8 5/8″", spoken), spoken


@pytest.mark.parametrize("typed", ["abc", "", "1e9", "-3", "4' 13\"", "x" * 10_000], ids=lambda t: t[:8] or "empty")
def test_a_bad_reading_is_answered_beside_the_field_and_kept(field_world, person, typed: str) -> None:
    world = field_world()
    world.set_up()
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/?station=A1")
    page.fill("#entry", typed)
    page.keyboard.press("Enter")
    expect(page.locator("#entry-wrong")).to_be_visible()
    assert page.input_value("#entry") == typed
    below = page.locator("#entry-wrong").bounding_box()["y"] - page.locator("#entry").bounding_box()["y"]
    assert 0 < below < 130
    assert world.assessment().surveys.formation.shot_count == 0


def test_the_essential_path_without_any_script(field_world, person) -> None:
    world = field_world()
    page = person(world, "lead", java_script_enabled=False)
    page.click(f"#jobs a[href*='{world.job.id}']")
    page.fill("#entry", "1300")
    page.click("text=Level is set up")
    page.fill("#entry", str(target(page) - 40))
    page.click("#pad .press:has-text('Read at')")
    assert "dig 40 mm" in page.locator(".verdict").inner_text()
    page.click("text=Undo")
    assert world.assessment().surveys.formation.shot_count == 0


def test_touching_the_plan_says_where_the_level_stands(field_world, person) -> None:
    world = field_world()
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/")
    page.click("text=Where it stands")
    corner = page.locator("#plan a[aria-label^='X1,'] .reach").bounding_box()
    page.mouse.click(corner["x"] + corner["width"] / 2, corner["y"] + corner["height"] / 2)
    assert abs(float(page.input_value("[name=east]"))) < 0.1
    assert abs(float(page.input_value("[name=north]"))) < 0.1
    page.fill("#entry", "1300")
    page.keyboard.press("Enter")
    page.wait_for_selector("#target")
    assert world.assessment().levels.set_up.at == pytest.approx((0, 0), abs=0.1)
