"""By keyboard alone: after a press the focus is on what comes next, never back at the top of the page. And what is
given up for something newer is no lost signal."""

import time
import uuid

import pytest
from playwright.sync_api import Page, Route, TimeoutError, expect

from tests.conftest import DRAINED_PAD

pytestmark = pytest.mark.browser
FOOT = DRAINED_PAD.replace('"traffic": "drive"', '"traffic": "foot"')
MOST_TABS = 40
CALLED = """((at) => (at.getAttribute("aria-label") || at.labels?.[0]?.innerText || at.innerText || at.name || "")
.trim())(document.activeElement)"""

CONTROLS = "a, button, input, select, summary, textarea"


class Hands:
    """A keyboard that counts its Tabs."""

    def __init__(self, page: Page) -> None:
        self.page, self.tabs = page, 0

    @property
    def on(self) -> str:
        """What has the focus, as one reads it."""
        return self.page.evaluate(f"() => document.activeElement === document.body ? 'the page' : ({CALLED})")

    def to(self, words: str) -> None:
        """Tab by Tab until the focus is on something called so."""
        while words not in self.on:
            self.page.keyboard.press("Tab")
            self.tabs += 1
            assert self.tabs <= 10 * MOST_TABS, f"{words} is not reached"

    def press(self, key: str = "Enter") -> None:
        self.page.keyboard.press(key)

    def lands_on(self, words: str) -> None:
        here = f"(words) => document.activeElement.matches({CONTROLS!r}) && ({CALLED}).includes(words)"
        try:
            self.page.wait_for_function(here, arg=words)
        except TimeoutError as error:
            shown = self.page.locator("main").inner_text()
            raise AssertionError(f"not on {words!r} but on {self.on!r}, of {shown}") from error


TWICE = {"viewport": {"width": 640, "height": 400}, "device_scale_factor": 2}
"""A desk whose page is drawn at 200 %."""


@pytest.mark.parametrize(
    ("slow", "screen"),
    [("", {}), ("", TWICE), ("**/lifts/*/", {}), ("**/lifts/now/*", {}), ("**/lifts/?lift=*", {})],
    ids=["quick", "at 200 %", "slow", "slow news", "slow page"],
)
def test_a_whole_lift_takes_at_most_forty_tabs(field_world, person, slow: str, screen: dict) -> None:
    from groundwork.layerwork import MachineBrought
    from groundwork.tools import Machine, MachineKind

    world = field_world(job_file=FOOT)
    world.shoot_all()
    world.record(MachineBrought(str(uuid.uuid4()), Machine("plate", MachineKind.PLATE, 500, 0.5, 0.5, 0.35)))
    page = person(world, "crew", **screen)
    page.goto(f"/jobs/{world.job.id}/lifts/?lift=base.1")
    for pattern in {slow, "**/lifts/*/"} if slow else ():
        page.route(pattern, late)
    hands = Hands(page)
    hands.to("thick, loose")
    page.keyboard.type("94")
    hands.press()
    hands.lands_on("holds")
    hands.press()
    for way in ("down the fall", "across the fall", "down the fall", "across the fall", "down the fall"):
        hands.lands_on(way)
        hands.press()
    for side in ("P1–P2", "P2–P3", "P3–P4", "P4–P1"):
        hands.lands_on(side)
        hands.press()
    hands.lands_on("Shoot its top")
    page.unroute_all(behavior="wait")  # the last answer may still be on its way
    expect(page.locator("#lift-says .verdict")).to_contain_text("Shoot its top")
    lift = world.assessment().works.lifts["base.1"]
    assert lift.passes_done == 5 and not lift.untamped and lift.moisture and lift.spread
    print(f"\na whole lift: {hands.tabs} Tabs")
    assert hands.tabs <= MOST_TABS


def test_a_whole_dig_by_keyboard_at_twice_the_size(field_world, person) -> None:
    """Set up, every station, one out and dug again, looked at and signed: without a mouse."""
    world = field_world()
    page = person(world, "lead", **TWICE)
    page.goto(f"/jobs/{world.job.id}/ground/")
    hands = Hands(page)
    hands.to("Backsight")
    page.keyboard.type("1300")
    hands.press()
    names = [station.name for station in world.assessment().job.stations]
    out = names[3]
    for _station in names:
        here = _reads(page, hands, world, 40 if (now := page.locator("#here").input_value()) == out else 0)
        assert here == now
    assert _reads(page, hands, world, 0) == out  # dug, and read again: the way leads back to it
    shot = world.assessment().surveys.formation
    assert shot.shot_count == len(names)
    assert [name for name, a in shot.answers.items() if not a.judgement.standing.is_sound] == []
    page.goto(f"/jobs/{world.job.id}/sign-offs/?stage=excavation")
    asks = world.assessment().stages.of("excavation").asked
    for n, asking in enumerate(asks, start=1):
        hands.to(f"Yes: {asking.ask.asks}")
        hands.press()
        expect(page.locator("#stage button[value=yes]")).to_have_count(len(asks) - n)
    hands.to("Sign the dig")
    hands.press()
    expect(page.locator("#gate-says")).to_contain_text("Signed")


def _reads(page: Page, hands: Hands, world, high_mm: float) -> str:
    """Types what the rod should read, or so much less, and waits for the verdict."""
    hands.lands_on("should read")
    here = page.locator("#here").input_value()
    page.keyboard.type(str(int(page.locator("#target").inner_text()) - int(high_mm)))
    hands.press()
    expect(page.locator("#pad .verdict")).to_contain_text(f"{here}: {'dig' if high_mm else 'good'}")
    return here


def late(route: Route) -> None:
    """The answer to a press comes after the news of what it wrote, as on a thin signal."""
    answer = route.fetch()
    time.sleep(0.8)
    route.fulfill(response=answer)


@pytest.mark.parametrize("slow", [False, True], ids=["quick", "slow"])
def test_sign_offs_lead_on_from_question_to_question(field_world, person, slow: bool) -> None:
    world = field_world(job_file=FOOT)
    world.shoot_all()
    page = person(world, "lead")
    if slow:
        page.route("**/sign-offs/looks/", late)
    page.goto(f"/jobs/{world.job.id}/sign-offs/?stage=subgrade")
    hands = Hands(page)
    asks = [ask.ask.asks for ask in world.assessment().stages.asked("subgrade") if not ask.ask.photo]
    hands.to("Yes")
    for n, _ask in enumerate(asks, start=1):
        hands.press()
        expect(page.locator("#stage button[value=yes]")).to_have_count(len(asks) - n)
        hands.lands_on("Yes" if n < len(asks) else "Photo")
    page.unroute_all(behavior="wait")  # the last answer may still be on its way
    assert hands.tabs <= MOST_TABS


def test_every_length_of_the_set_out_is_typed_without_a_tab(field_world, person) -> None:
    world = field_world(job_file=FOOT, brief_signed=False)
    world.sign("brief")
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/set-out/")
    expect(page.locator("#entry")).to_be_focused()
    left = world.assessment().setting_out.pegs.still_to_tape
    for n, (start, end) in enumerate(left, start=1):
        page.keyboard.type(f"{world.assessment().setting_out.pegs.planned(start, end):.3f}")
        page.keyboard.press("Enter")
        expect(page.locator("#pegs-taped table tr")).to_have_count(n + 1)
        expect(page.locator("#entry")).to_be_focused()
    assert not world.assessment().setting_out.pegs.still_to_tape


def test_a_thickness_typed_and_a_box_ticked_at_once_can_be_kept(field_world, person) -> None:
    """The answer to the first is given up for the second: nothing was lost but that."""
    world = field_world(brief_signed=False)
    page = person(world, "lead")
    page.route("**/base/?*", lambda route: (page.wait_for_timeout(700), route.continue_()))
    page.goto(f"/jobs/{world.job.id}/base/")
    page.locator("details:has([name=dense_strip]) > summary").click()
    page.locator("#id_base-0-thickness").fill("170")
    page.wait_for_timeout(450)
    page.locator("[name=dense_strip]").check()
    expect(page.locator("#base-depth .figure")).to_contain_text("275 mm")
    expect(page.locator("#signal")).to_be_hidden()
    expect(page.locator("#told")).to_be_empty()
    page.unroute("**/base/?*")
    page.click("button:has-text('Keep as version 2')")
    expect(page.locator("nav[aria-label=Base]")).to_contain_text("version 2")
    assert world.assessment().job.specification.details.dense_strip
