"""Every screen, at a desk, on phones and on a tablet: nothing spills over, nothing shuts anyone out, whatever is
touched is as large as a thumb, and what one presses most is near."""

import itertools
import math
import random
import re
import time
from pathlib import Path

import pytest
from playwright.sync_api import expect

from nivelum.records.page import Part
from nivelum.sharing.models import For
from nivelum.sharing.services import make_share
from tests.places import PLACES, address, dug_world

pytestmark = pytest.mark.browser

AXE = (Path(__file__).parents[2] / "node_modules/axe-core/axe.min.js").read_text(encoding="utf-8")
SIZES = {
    "desk": (1280, 800), "phone": (390, 844), "small": (360, 640), "side": (844, 390), "tablet": (820, 1180),
}  # fmt: skip
THUMB, TABS = 44, 8
"""px: the least a target is wide and high (WCAG 2.2, 2.5.5); presses of Tab to the main press, at most."""


@pytest.fixture(scope="module")
def dug(site: str):
    """A job with every kind of trouble in it."""
    return dug_world("ft-in")


# What may be touched, but for what is drawn (a plan is measured by itself) and a link among other words.
SMALL = """(least) => {
  const seen = (e) => e.checkVisibility({ visibilityProperty: true }) && !e.closest("svg, .sr-only")
    && e.getBoundingClientRect().width > 1;
  const amongWords = (e) => getComputedStyle(e).display.startsWith("inline")
    && [...e.parentElement.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim().length > 1);
  return [...document.querySelectorAll("a[href], button, input, select, textarea, summary")].filter(seen)
    .map((e) => e.matches("[type=checkbox], [type=radio]") ? e.closest("label") ?? e : e)
    .filter((e) => !(e.matches("a") && amongWords(e)))
    .map((e) => [e.tagName, e.className, (e.textContent || e.name).trim().slice(0, 30), e.getBoundingClientRect()])
    .filter(([, , , box]) => box.width < least - 0.5 || box.height < least - 0.5)
    .map(([tag, css, text, box]) => `${tag}.${css} "${text}" ${Math.round(box.width)} x ${Math.round(box.height)}`);
}"""
MAIN = "#main .press:not(.quiet), #main .tap:not(.low)"
AT_ITS_START = (
    "() => { document.body.tabIndex = -1; document.body.focus(); document.body.removeAttribute('tabindex'); }"
)
IS_MAIN = f"""() => {{
  const seen = (e) => e.checkVisibility() && !e.disabled;
  return document.activeElement === [...document.querySelectorAll("{MAIN}")].find(seen);
}}"""


# What a screen reader would stumble over and no rule of axe's sees: a heading too many, a name used twice, a table
# whose rows or itself have no name, presses that do different things under one name.
SAID_BADLY = """() => {
  const seen = (e) => e.checkVisibility({ visibilityProperty: true });
  const name = (e) => e.getAttribute("aria-label") || e.textContent.replace(/\\s+/g, " ").trim();
  const own = ["csrfmiddlewaretoken", "entry_id", "device_at"];
  const fields = (form) => [...new FormData(form)].filter(([key]) => !own.includes(key));
  const sent = (e) => e.form ? e.form.action + e.value + fields(e.form)
    : e.href || e.closest("section, li, form")?.id;
  const heads = [...document.querySelectorAll("h1")].filter(seen).length;
  const ids = [...document.querySelectorAll("[id]")].map((e) => e.id);
  const does = new Map();
  for (const e of [...document.querySelectorAll("button, a[href]")].filter((e) => seen(e) && !e.closest("svg")))
    does.set(name(e), (does.get(name(e)) ?? new Set()).add(sent(e)));
  const tables = [...document.querySelectorAll("table")].filter(seen);
  const rows = (table) => [...table.rows].filter((row) => !row.closest("thead") && row.cells.length > 1);
  return [
    ...(heads === 1 ? [] : [`${heads} first headings`]),
    ...new Set(ids.filter((id, n) => ids.indexOf(id) < n).map((id) => `twice: ${id}`)),
    ...[...does].filter(([, all]) => all.size > 1).map(([said, all]) => `${all.size} things called ${said}`),
    ...tables.filter((t) => !t.caption && !t.getAttribute("aria-label"))
      .map((t) => `a table without a name: ${t.textContent.trim().slice(0, 30)}`),
    ...tables.filter((t) => !rows(t).every((row) => row.querySelector("th")))
      .map((t) => `a table whose rows have no heads: ${t.getAttribute("aria-label")}`),
  ];
}"""
# Letters and words as far apart as some readers need them (WCAG 2.2, 1.4.12).
SPACED = """() => {
  const sheet = new CSSStyleSheet();
  const apart = { "line-height": 1.5, "letter-spacing": ".12em", "word-spacing": ".16em" };
  const rules = Object.entries(apart).map(([name, value]) => `${name}: ${value} !important`);
  sheet.replaceSync(`* { ${rules.join("; ")} }`);
  document.adoptedStyleSheets = [sheet];
}"""
PADS = ("ground/?", "lifts/?", "set-out/?", "water/?")
MAIN_IN_SIGHT = f"""() => {{
  const seen = (e) => e.checkVisibility() && !e.disabled;
  const main = [...document.querySelectorAll("{MAIN}")].find(seen);
  return !main || (main.getBoundingClientRect().top >= 0 && main.getBoundingClientRect().bottom <= innerHeight + 0.5);
}}"""
# How high the smallest letters of the page's drawings are, in px.
LETTERS = """() => Math.min(99, ...[...document.querySelectorAll("main svg:not(.mark, .thumbnail, .swatch) text")]
  .filter((text) => text.textContent.trim() && text.checkVisibility({ visibilityProperty: true })).map((text) => {
    const { a, b } = text.getScreenCTM();
    return parseFloat(getComputedStyle(text).fontSize) * Math.hypot(a, b);
  }))"""
# The field one types into: all of it is seen, and nothing lies on it.
IN_HAND = """() => {
  const e = document.activeElement, box = e.getBoundingClientRect();
  const seen = (y) => [e, ...(e.labels ?? [])].includes(document.elementFromPoint(box.left + box.width / 2, y));
  return !e.matches("input, textarea") || (box.top >= 0 && box.bottom <= innerHeight + 0.5
    && seen(box.top + 4) && seen(box.bottom - 4));
}"""


def tabs_to_the_main_press(page) -> int:
    """From the page's start; nought where it has none."""
    if not page.locator(MAIN).locator("visible=true").count():
        return 0
    page.evaluate(AT_ITS_START)
    for tabs in range(1, 60):
        page.keyboard.press("Tab")
        if page.evaluate(IS_MAIN):
            return tabs
    return 60


FRAMES = "(async () => { for (let n = 0; n < 4; n++) await new Promise(requestAnimationFrame); })()"
RULES = (
    "axe.run(document, {resultTypes: ['violations'], rules: {'color-contrast': {enabled: false},"
    " 'color-contrast-enhanced': {enabled: %s}}})"
)
IN_COLOUR = (
    "axe.run(document, {runOnly: ['color-contrast-enhanced', 'link-in-text-block'], resultTypes: ['violations']})"
)

PAINTS = """[...document.querySelectorAll("body *")].filter((one) => one.childNodes.length && one.checkVisibility())
  .map((one) => `${one.tagName} ${one.getAttribute("class") ?? ""} in ${one.parentElement.className}`)"""


@pytest.mark.parametrize("half", [0, 1])
def test_axe_finds_no_fault_and_nothing_spills_sideways(dug, person, half: int) -> None:
    """Colours do not change with the size: they are looked at on the desk, by day and at dusk, where a page has paint
    that none before it had; what axe sees changes with the layout, of which there are two."""
    page = person(dug, "lead", color_scheme="light")
    titles: list[str] = []
    painted: set[str] = set()
    for place in PLACES[half::2]:
        found = []
        for size, (width, height) in SIZES.items():
            page.set_viewport_size({"width": width, "height": height})
            if size == "desk":
                page.goto(address(dug, place))
                page.evaluate(AXE)
                assert tabs_to_the_main_press(page) <= TABS, place
                assert page.evaluate(SAID_BADLY) == [], place
                titles.append(page.title())
            if size in ("desk", "phone"):
                found += page.evaluate(RULES % "false")["violations"]
            assert page.evaluate("document.documentElement.scrollWidth") <= width, (place, size)
            assert page.evaluate(SMALL, THUMB) == [], (place, size)
            assert not place.startswith(PADS) or page.evaluate(MAIN_IN_SIGHT), (place, size)
            page.evaluate(FRAMES)  # labels follow a change of size by one or two
            assert page.evaluate(LETTERS) >= 10.9, (place, size)
        page.set_viewport_size({"width": 320, "height": 640})
        assert page.evaluate("document.documentElement.scrollWidth") <= 320, place
        page.set_viewport_size({"width": 390, "height": 844})
        page.evaluate(SPACED)
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, (place, "spaced")
        if not (paints := set(page.evaluate(PAINTS))) <= painted:
            painted |= paints
            page.set_viewport_size(dict(zip(("width", "height"), SIZES["desk"], strict=True)))
            for scheme in ("dark", "light"):
                page.emulate_media(color_scheme=scheme)
                found += page.evaluate(IN_COLOUR)["violations"]
        faults = [(v["id"], v["impact"], [n["html"][:120] for n in v["nodes"]][:3]) for v in found]
        assert faults == [], place
    paths = [place.partition("?")[0] for place in PLACES[half::2]]
    assert len(set(titles)) >= len(set(paths)) and not any(
        title.startswith(("Test pad", "Nivelum")) for title in titles
    )


@pytest.mark.parametrize("size", SIZES)
def test_what_one_types_into_is_in_sight_as_a_page_opens(dug, person, size: str) -> None:
    """With the most keys there are: feet, inches and fractions."""
    width, height = SIZES[size]
    page = person(dug, "lead", viewport={"width": width, "height": height}, has_touch=size != "desk")
    buried = []
    for place in (place for place in PLACES if place.startswith(PADS) or "?pane=" in place):
        page.goto(address(dug, place))
        late = time.monotonic() + 5  # what comes into sight as the page's scripts have run
        while not (seen := page.evaluate(IN_HAND) and page.evaluate(MAIN_IN_SIGHT)) and time.monotonic() < late:
            page.wait_for_timeout(100)
        if not seen:
            buried.append(place)
    assert buried == []


def test_who_is_not_signed_in_finds_the_way_in_and_an_opened_link_as_well_made(site: str, dug, browser) -> None:
    _share, token = make_share(dug.visit("lead"), For.CLIENT, "the office", tuple(Part), 30, None)
    page = browser.new_page(base_url=site)
    for path in ("/sign-in/", f"/shared/{token}/"):
        for width, height in SIZES.values():
            page.set_viewport_size({"width": width, "height": height})
            page.goto(path)
            assert page.evaluate("document.documentElement.scrollWidth") <= width, (path, width)
            assert page.evaluate(SMALL, THUMB) == [], (path, width)
        page.evaluate(AXE)
        assert [(v["id"], v["impact"]) for v in page.evaluate(RULES % "true")["violations"]] == [], path
        assert page.evaluate(SAID_BADLY) == [], path
    page.close()


def test_what_hangs_open_closes_by_escape_and_by_a_press_beside_it_and_gives_the_focus_back(dug, person) -> None:
    page = person(dug, "lead")
    page.goto(f"/jobs/{dug.job.id}/ground/?station=A2")
    hangs = page.locator("[data-hangs][open]")
    for opens in ("header summary", "#plan .surfaces summary", "#pad .hand summary"):
        page.locator(opens).press("Enter")
        expect(hangs).to_have_count(1)
        page.keyboard.press("Escape")
        expect(hangs).to_have_count(0)
        expect(page.locator(opens)).to_be_focused()
        page.locator(opens).click()
        expect(hangs).to_have_count(1)
        page.mouse.click(640, 20)
        expect(hangs).to_have_count(0)
    for opens, what in ((".opens-rooms", "#rooms"), (".paver.opener", "#at-excavation")):
        page.locator(opens).press("Enter")
        expect(page.locator(what)).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.locator(what)).to_be_hidden()
        expect(page.locator(opens)).to_be_focused()
        page.locator(opens).click()
        page.mouse.click(640, 20)
        expect(page.locator(what)).to_be_hidden()


def test_arrows_go_along_the_line_of_stages(dug, person) -> None:
    page = person(dug, "lead")
    page.goto(f"/jobs/{dug.job.id}/ground/")
    page.locator("#course .in-hand").first.focus()
    page.keyboard.press("ArrowRight")
    expect(page.locator("#course .opener")).to_be_focused()
    page.keyboard.press("ArrowRight")
    expect(page.locator("#course [data-stage=subgrade]")).to_be_focused()
    page.keyboard.press("Enter")
    page.locator("#at-subgrade").get_by_role("link", name="Soft ground and fabric").press("Enter")
    expect(page).to_have_url(re.compile("/lifts/ground/$"))
    page.locator("#course .in-hand").first.press("End")
    expect(page.locator("#course [data-stage=handover]")).to_be_focused()


IN_SIGHT = """(what) => [...document.querySelectorAll(what)].every((e) => {
  const box = e.getBoundingClientRect();
  const inside = box.top >= 0 && box.bottom <= innerHeight + 0.5 && box.left >= 0 && box.right <= innerWidth + 0.5;
  const on = document.elementFromPoint(box.left + box.width / 2, box.top + box.height / 2);
  return inside && (e === on || e.contains(on));
})"""
STATIONS = """() => [...document.querySelectorAll("#plan .station")].map((station) => {
  const { e, f } = station.querySelector(".reach").getScreenCTM();
  const pane = document.querySelector("#plan svg").getBoundingClientRect();
  const inside = e > pane.left + 10 && e < pane.right - 10 && f > pane.top + 10 && f < pane.bottom - 10;
  return [station.dataset.station, e, f, inside];
})"""


@pytest.mark.parametrize("rod", ["mm", "ft-in"])
@pytest.mark.parametrize("size", SIZES)
def test_what_one_presses_on_the_pad_is_in_sight_with_a_verdict_and_with_a_doubt(site, person, size, rod) -> None:
    """Nothing is scrolled: read, see what it comes to, read again."""
    from tests.conftest import make_world

    world = make_world(rod=rod)
    world.set_up()
    width, height = SIZES[size]
    page = person(world, "crew", viewport={"width": width, "height": height}, has_touch=size != "desk")
    page.goto(f"/jobs/{world.job.id}/ground/?station=B2")
    press, entry = "#reading > .press", "#entry"

    def reads(off: int) -> str:
        """What is typed to be so much off what the rod should read there."""
        return f"{world.assessment().targets.at(page.locator('#here').input_value()) * 1000 + off:.0f} mm"

    assert page.evaluate(IN_SIGHT, press) and page.evaluate(IN_SIGHT, f"#target, {entry}")
    for off, says in ((0, "good"), (-40, "dig"), (60, "over-dug")):
        page.fill(entry, reads(off))
        page.keyboard.press("Enter")
        expect(page.locator("#pad .verdict strong")).to_contain_text(says)
        assert page.evaluate("scrollY") == 0 and page.evaluate(IN_SIGHT, press), (size, says)
        assert page.evaluate(IN_SIGHT, f"#pad .verdict strong, {entry}"), (size, says)
    page.fill(entry, reads(1000))
    page.keyboard.press("Enter")
    expect(page.locator("#doubt")).to_be_visible()
    assert page.evaluate(IN_SIGHT, f"{press}, #doubt p:first-child, {entry}"), size


@pytest.mark.parametrize("size", ["phone", "small", "side", "tablet"])
def test_the_plan_can_be_read_and_touched_where_it_is_small(site, person, size: str) -> None:
    from tests.conftest import PAD, make_world

    world = make_world(job_file=PAD.replace("[6, 0], [6, 4], [0, 4]", "[24, 0], [24, 16], [0, 16]"))
    world.set_up()
    width, height = SIZES[size]
    page = person(world, "crew", viewport={"width": width, "height": height}, has_touch=True, is_mobile=True)
    page.goto(f"/jobs/{world.job.id}/ground/?station=B2")
    assert page.evaluate("matchMedia('(pointer: coarse)').matches")
    draw = random.Random(20)
    for _tap in range(5 if size != "phone" else 20):
        assert page.evaluate(LETTERS) >= 10.9
        stations = page.evaluate(STATIONS)
        places = [(x, y) for _name, x, y, _inside in stations]
        assert min(math.dist(a, b) for a, b in itertools.combinations(places, 2)) >= 24
        name, x, y, _inside = draw.choice([each for each in stations if each[3]])
        angle = draw.uniform(0, 2 * math.pi)
        page.touchscreen.tap(x + 8 * math.cos(angle), y + 8 * math.sin(angle))
        expect(page.locator("#here")).to_have_value(name)
        expect(page.locator("#plan .chosen")).to_have_attribute("data-station", name)
        assert name in [each[0] for each in page.evaluate(STATIONS) if each[3]]  # it follows


def test_the_plan_is_moved_and_drawn_apart_by_fingers(site, person) -> None:
    from tests.conftest import PAD, make_world

    world = make_world(job_file=PAD.replace("[6, 0], [6, 4], [0, 4]", "[24, 0], [24, 16], [0, 16]"))
    world.set_up()
    page = person(world, "crew", viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)
    page.goto(f"/jobs/{world.job.id}/ground/?station=C5")
    at = {name: (x, y) for name, x, y, _inside in page.evaluate(STATIONS)}
    touch = page.context.new_cdp_session(page)

    def fingers(kind: str, *points: tuple[float, float]) -> None:
        touch.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": [{"x": x, "y": y} for x, y in points]})

    x, y = at["C5"]
    fingers("touchStart", (x, y))
    for step in range(1, 5):
        fingers("touchMove", (x - 10 * step, y + 5 * step))
    fingers("touchEnd")
    moved = {name: (x, y) for name, x, y, _inside in page.evaluate(STATIONS)}
    assert moved["C5"] == pytest.approx((x - 40, y + 20), abs=1)
    expect(page.locator("#here")).to_have_value("C5")  # what was moved was not touched
    before = math.dist(moved["C5"], moved["C6"])
    fingers("touchStart", (x - 30, y), (x + 30, y))
    for step in range(1, 4):
        fingers("touchMove", (x - 30 - 10 * step, y), (x + 30 + 10 * step, y))
    fingers("touchEnd")
    apart = {name: (x, y) for name, x, y, _inside in page.evaluate(STATIONS)}
    assert math.dist(apart["C5"], apart["C6"]) == pytest.approx(2 * before, rel=0.1)
    page.get_by_label("All of the plan").tap()
    assert all(inside for _name, _x, _y, inside in page.evaluate(STATIONS))


def test_the_pads_targets_are_as_large_as_a_glove(dug, person) -> None:
    page = person(dug, "crew", has_touch=True)
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"/jobs/{dug.job.id}/ground/?station=B3")
    for box in (
        page.locator(".keys button:visible, #pad form .press:visible, #entry").nth(n).bounding_box() for n in range(6)
    ):
        assert box["height"] >= 56


def test_a_first_view_is_light(dug, person, site: str, browser) -> None:
    page = person(dug, "crew")
    sent = 0
    session = page.context.new_cdp_session(page)
    session.send("Network.enable")
    session.send("Network.clearBrowserCache")

    def count(event) -> None:
        nonlocal sent
        sent += event["encodedDataLength"]

    session.on("Network.loadingFinished", count)
    page.goto(f"/jobs/{dug.job.id}/ground/")
    page.wait_for_load_state("networkidle")
    assert 20_000 < sent <= 200_000
    first, sent = sent, 0
    page.reload()
    page.wait_for_load_state("networkidle")
    assert sent <= 30_000 < first


# In forced colours: what is pressed has an edge and the main press a thick one, what is current an outline, a stage
# that is signed a tick; and no letter has the colour of its ground.
BY_FORM = """() => {
  const seen = (e) => e.checkVisibility({ visibilityProperty: true }) && !e.matches(".sr-only");
  const style = (e, of) => getComputedStyle(e, of);
  const all = (of) => [...document.querySelectorAll(of)].filter(seen);
  const edge = (e) => style(e).borderTopStyle === "none" ? 0 : parseFloat(style(e).borderTopWidth);
  const said = (e, what) => `${what}: ${e.textContent.trim().slice(0, 30)}`;
  return [
    ...all(".press, .tap, .keys button").filter((e) => edge(e) < 2).map((e) => said(e, "no edge")),
    ...all(".press:not(.quiet), .tap:not(.low)").filter((e) => edge(e) < 4).map((e) => said(e, "a thin edge")),
    ...all("[aria-current]").filter((e) => style(e).outlineStyle === "none").map((e) => said(e, "not current")),
    ...all(".paver.laid").filter((e) => !style(e, "::before").content.includes("✓")).map((e) => said(e, "no tick")),
    ...all(".press, .tap").filter((e) => style(e).color === style(e).backgroundColor).map((e) => said(e, "unseen")),
  ];
}"""


def test_nothing_is_told_by_colour_alone_where_colours_are_forced(dug, person) -> None:
    page = person(dug, "lead", forced_colors="active")
    for place in ("/", "ground/?station=A2", "lifts/?lift=base.1", "base/", "set-out/?", "sign-offs/", "water/"):
        page.goto(address(dug, place))
        assert page.evaluate("matchMedia('(forced-colors: active)').matches")
        assert page.evaluate(BY_FORM) == [], place


PICTURES = """async () => {
  const all = new Set();
  for (let n = 0; n < 90; n++) {
    await new Promise(requestAnimationFrame);
    all.add(document.querySelector("[data-time]").value);
  }
  return all.size;
}"""


def test_rain_stands_still_in_pictures_for_whom_motion_does_harm(dug, person) -> None:
    seen = {}
    for motion in ("reduce", "no-preference"):
        page = person(dug, "lead", reduced_motion=motion)
        page.goto(address(dug, "water/"))
        page.locator("[data-play]").click()
        seen[motion] = page.evaluate(PICTURES)
    assert seen["reduce"] <= 4 < seen["no-preference"]


def test_an_answer_is_said_in_a_place_that_was_there_before_it(field_world, person) -> None:
    """What a reader of the screen hears: a status that stands on the page from its start is filled, not put in."""
    world = field_world()
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/ground/")
    says = page.locator("#says")
    expect(says).to_have_attribute("role", "status")
    expect(says).to_have_text("")
    page.fill("#entry", "1300")
    page.keyboard.press("Enter")
    page.locator("#target").wait_for()
    here = page.locator("#here").input_value()
    page.fill("#entry", page.locator("#target").inner_text())
    page.keyboard.press("Enter")
    expect(says).to_contain_text(f"{here}: good")
    page.goto(f"/jobs/{world.job.id}/base/")
    page.locator("#id_base-0-thickness").fill("170")
    expect(says).to_contain_text("275 mm")
    assert page.locator("main [role=status] [role=status]").count() == 0


def test_a_layers_edge_is_taken_by_a_thumb_that_misses_it(field_world, person) -> None:
    """Twelve pixels beside the line between base and soil: the base's thickness follows, and no other layer's."""
    world = field_world()
    page = person(world, "lead", viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)
    page.goto(f"/jobs/{world.job.id}/base/")
    fields = {layer: page.locator(f"#id_{layer}-0-thickness") for layer in ("paving", "bedding", "base")}
    was = {layer: field.input_value() for layer, field in fields.items()}
    handle = page.locator('.handle[data-field="id_base-0-thickness"] path').bounding_box()
    x, y = handle["x"] + handle["width"] / 2 + 10, handle["y"] + handle["height"] / 2 + 12
    assert page.evaluate("([x, y]) => Boolean(document.elementFromPoint(x, y).closest('.handle'))", [x, y])
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y + 20, steps=4)
    page.mouse.up()
    expect(fields["base"]).not_to_have_value(was["base"])
    assert {layer: fields[layer].input_value() for layer in ("paving", "bedding")} == {
        layer: was[layer] for layer in ("paving", "bedding")
    }
