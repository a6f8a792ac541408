"""Water, as a crew uses it: a puddle found, its fix followed, shot again, gone."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.conftest import DRAINED_PAD

pytestmark = pytest.mark.browser

STATIONS = ("A1", "A2", "A3", "B1", "B2", "B3", "X1", "X2", "X3", "X4")
WET = """canvas => {
  const pen = canvas.getContext('2d', {willReadFrequently: true});
  const data = pen.getImageData(0, 0, canvas.width, canvas.height).data;
  let wet = 0;
  for (let n = 3; n < data.length; n += 4) if (data[n] > 150 && data[n] < 230) wet += 1;
  return wet;
}"""


@pytest.fixture
def dipped(field_world):
    """A base top with a dip at B2 of which nobody could tell before it rains."""
    world = field_world(job_file=DRAINED_PAD)
    world.set_up()
    for station in STATIONS:
        world.shoot(station, -60 if station == "B2" else 0, surface="base")
    return world


def litres(page: Page, name: str) -> float:
    return float(re.sub("[^0-9.]", "", page.locator(f".clock [data-{name}]").inner_text()))


def test_a_puddle_is_found_its_fix_followed_shot_again_and_gone(dipped, person) -> None:
    page = person(dipped, "crew")
    page.goto(f"/jobs/{dipped.job.id}/water/?surface=base")
    expect(page.locator(".puddles li")).to_have_count(1)
    expect(page.locator(".puddles li")).to_contain_text("deep at B2")
    expect(page.locator(".puddles li")).to_contain_text("too deep")
    page.click("text=Work out the least fix")
    row = page.locator(".work-list li", has_text="B2")
    expect(row).to_contain_text("stone")
    amount = int(re.search(r"(\d+) mm", row.inner_text())[1])
    expect(page.locator("text=too deep")).to_have_count(0)
    expect(page.locator("svg .work .fill")).to_have_count(1)
    # The work is done as listed, and shot from the list.
    row.locator("a").click()
    target = int(page.locator("#target").inner_text())
    page.fill("#entry", str(target + 60 - amount))
    page.keyboard.press("Enter")
    sure = page.locator("button:has-text('I have read it twice'), .doubt button").first
    expect(page.locator(".verdict, .doubt").first).to_be_visible()
    if sure.is_visible():
        sure.click()
    expect(page.locator(".verdict")).to_contain_text("B2: good")
    page.goto(f"/jobs/{dipped.job.id}/water/?surface=base")
    expect(page.locator("text=Nothing stands: it drains.").or_(page.locator(".puddles"))).not_to_have_count(0)
    expect(page.locator(".too-deep")).to_have_count(0)


def test_the_rain_runs_fills_and_adds_up(dipped, person) -> None:
    page = person(dipped, "viewer")
    page.goto(f"/jobs/{dipped.job.id}/water/?surface=base&rain=2&minutes=120")
    time, canvas = page.locator("[data-time]"), page.locator(".sky canvas")
    expect(time).to_be_visible()
    wet, stands = [], []
    for frame in (0, 5, 15, 30, 60):
        time.evaluate(
            "(slider, at) => { slider.value = at; slider.dispatchEvent(new Event('input', {bubbles: true})); }", frame
        )
        wet.append(canvas.evaluate(WET))
        stands.append(litres(page, "standing"))
        assert litres(page, "fallen") == pytest.approx(litres(page, "run-off") + stands[-1], abs=1.2)
    assert stands[0] == 0 and stands == sorted(stands) and stands[-1] > 1
    assert wet[0] == 0 and wet == sorted(wet) and wet[-1] > 50
    # Played, the clock goes on by itself and stops at the end of the rain.
    page.click("[data-play]")
    first = page.locator("[data-minutes]").inner_text()
    page.wait_for_function("was => document.querySelector('[data-minutes]').textContent !== was", arg=first)
    page.click("[data-play]")
    expect(page.locator("[data-play]")).to_have_text("Play the rain")


def test_a_cut_is_dragged_across_the_surface(dipped, person) -> None:
    page = person(dipped, "crew")
    page.goto(f"/jobs/{dipped.job.id}/ground/surface/?surface=base")
    box = page.locator("svg.surface-plan path.area").bounding_box()
    was = page.locator(".surface-cut").inner_html()
    page.mouse.move(box["x"] + 20, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] - 20, box["y"] + box["height"] / 2, steps=4)
    page.mouse.up()
    page.wait_for_function("was => document.querySelector('.surface-cut')?.innerHTML !== was", arg=was)
    expect(page.locator(".surface-cut")).to_contain_text("heights ×")
    page.click("text=Coverage")
    expect(page.locator("svg.surface-plan.coverage .hole")).to_have_count(1)
    assert page.locator("#id_start").input_value() != ""
