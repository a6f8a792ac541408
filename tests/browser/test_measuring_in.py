"""An area measured in on a phone, by touch: right angles by arrows, tapes from the house, curves, a tree."""

import io
import re

import pytest
from PIL import Image
from playwright.sync_api import expect

from groundwork.measures import Unit
from groundwork.shape import measured_area
from nivelum.jobs.models import Job
from nivelum.jobs.services import snapshot
from tests.browser.conftest import sign_in
from tests.browser.test_keyboard import Hands
from tests.browser.test_no_signal import device, mend, wire
from tests.conftest import DRAINED_PAD, make_world

__all__ = ["device", "wire"]

pytestmark = pytest.mark.browser

PHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}
KIDNEY = """A B 7
1.803 5.701 rise 0.5
5.590 2.915 rise 0.8
7.211 5.000 rise -0.4
5.385 7.071 rise 0.6
X1 X2 4.123
X1 X3 4.243"""
"""X1 (1, 1.5), X2 (5, 2.5), X3 (4, 6)… from A (0, 0) and B (7, 0), as two tapes have them."""


@pytest.fixture
def lead(site, person):
    world = make_world(rod="mm")
    page = person(world, "lead", **PHONE)
    page.goto("/jobs/new/")
    return page


def started(page):
    """The job that was started, as it is kept."""
    page.get_by_role("button", name="Start the job").tap()
    page.wait_for_url("**/base/")
    return snapshot(Job.objects.get(id=re.search(r"/jobs/([0-9a-f-]{36})/", page.url)[1])).assessment.job


def levels(page) -> None:
    page.fill("[name=height-0-name]", "door")
    page.fill("[name=height-0-at]", "X1")
    page.fill("[name=height-0-level]", "10")


def test_an_l_shaped_yard_by_right_angles_in_under_forty_taps_and_digits(lead) -> None:
    page = lead
    page.fill("[name=name]", "L yard")
    hands = 0
    for way, length in (("to the right", "6"), ("up", "2"), ("to the left", "4"), ("up", "3"), ("to the left", "2")):
        page.get_by_role("button", name=f"a step {way}", exact=True).tap()
        page.keyboard.type(length)
        hands += 1 + len(length)
    expect(page.locator("#area-pane strong")).to_have_text("18.0 m²")
    assert hands < 40
    levels(page)
    job = started(page)
    assert job.ring.area == pytest.approx(18) and len(job.outline) == 6


def by_thumb(page) -> None:
    """The terrace as `KIDNEY` has it, by two tapes, curves and two checks, on the pads for them."""
    page.get_by_role("button", name="Two tapes").tap()
    for line in KIDNEY.splitlines()[1:-2]:
        from_a, from_b, _rise, by = line.split()
        tapes = page.locator("[data-panel=tapes]")
        if not tapes.is_visible():
            page.get_by_role("button", name="Two tapes").tap()
        if tapes.locator("[data-part=base]").is_visible():
            tapes.locator("[data-part=base]").fill("7")
        tapes.locator("[data-part=a]").fill(from_a)
        tapes.locator("[data-part=b]").fill(from_b)
        tapes.get_by_role("button", name="Add the corner").tap()
        page.get_by_role("button", name="A curve").tap()
        page.locator("[data-panel=curve] [data-part=amount]").fill(by.lstrip("-"))
        page.locator("[data-panel=curve] [data-part=into]").select_option("-" if by.startswith("-") else "")
        page.get_by_role("button", name="Curve it").tap()
    page.get_by_role("button", name="A check").tap()
    for line in KIDNEY.splitlines()[-2:]:
        for part, value in zip(("one", "other", "length"), line.replace("X", "").split(), strict=True):
            page.locator(f"[data-panel=check] [data-part={part}]").fill(value)
        page.keyboard.press("Enter")
    page.get_by_text("In the area, not paved").tap()
    page.select_option("[name=island-0-kind]", "tree pit")
    page.fill("[name=island-0-name]", "pear")
    page.fill("[name=island-0-places]", "3.5 3.5")
    page.fill("[name=island-0-size]", "1.2")
    assert re.sub("[AB] ", "", page.input_value("#id_area")).splitlines() == ["7", *KIDNEY.splitlines()[1:]]
    levels(page)


def is_the_terrace(job) -> None:
    assert [island.name for island in job.islands] == ["pear"] and sum(map(bool, job.bulges)) == 4
    assert job.ring.area == pytest.approx(measured_area(KIDNEY, Unit.METRES).ring.area)


def test_a_terrace_by_two_tapes_and_arcs_with_a_tree_in_it(lead) -> None:
    page = lead
    page.fill("[name=name]", "Terrace")
    by_thumb(page)
    expect(page.locator("#area-pane svg")).to_contain_text("pear")
    is_the_terrace(started(page))
    page.goto(page.url.replace("/base/", "/ground/"))
    expect(page.locator("#plan svg.plan")).to_contain_text("pear")


def test_two_terraces_are_measured_in_where_there_is_no_signal(device, wire) -> None:
    """The first goes on when the signal is back; the second is left for another day, and carried on behind the house
    before it is started in front of it."""
    world, phone = make_world(rod="mm"), device()
    page = phone.open(**PHONE)
    sign_in(page, world, "lead")
    while not page.evaluate("caches.match('/jobs/new/', { ignoreVary: true }).then(Boolean)"):
        page.wait_for_timeout(200)
    wire.cut()
    page.goto("/jobs/new/")
    page.fill("[name=name]", "First")
    by_thumb(page)
    page.get_by_role("button", name="Start the job").tap()
    expect(page.locator("#told")).to_contain_text("needs a signal")
    mend(page, wire)
    expect(page.locator("#area-pane svg")).to_contain_text("pear")
    first = started(page)
    is_the_terrace(first)
    wire.cut()
    page.goto("/jobs/new/")
    page.fill("[name=name]", "Second")
    by_thumb(page)
    phone.close()
    page = phone.open(**PHONE)
    page.goto("/jobs/new/")
    page.get_by_role("button", name="Carry on").tap()
    expect(page.locator("[name=name]")).to_have_value("Second")
    mend(page, wire)
    expect(page.locator("#area-pane svg")).to_contain_text("pear")
    second = started(page)
    is_the_terrace(second)
    assert sorted(Job.objects.filter(crew=world.crew).values_list("name", flat=True)) == [
        "First",
        "Second",
        "Test pad",
    ]


def test_a_yard_is_measured_in_by_keyboard_alone(site, person) -> None:
    """An L before a house: a corner by tapes, one off the wall, steps, an angle, and a side that curves."""
    page = person(make_world(rod="mm"), "lead")
    page.goto("/jobs/new/")
    hands = Hands(page)
    page.keyboard.type("Keyboard yard")
    for button, *typed in (
        ("Two tapes", "9", "1.4142", "8.0623"),
        ("Along a wall", "7", "1", "left"),
        ("An angle", "90", "4"),
        ("An angle", "90", "6"),
    ):
        hands.to(button)
        hands.press()
        for n, value in enumerate(typed):
            if n:
                hands.press("Tab")
            page.keyboard.type(value)
        hands.to("Add")
        hands.press()
        hands.lands_on("from A" if "Along" not in button and "angle" not in button else
                       "along from A" if "Along" in button else "angle inside")  # fmt: skip
        page.keyboard.press("Shift+Tab")
        while hands.on != button:
            page.keyboard.press("Shift+Tab")
        hands.press()
    expect(page.locator("#area-pane strong")).to_have_text("24.0 m²")
    hands.to("what")
    for value in ("door", "X1", "10"):
        hands.press("Tab")
        page.keyboard.type(value)
    hands.to("Start the job")
    hands.press()
    page.wait_for_url("**/base/")


def test_others_begin_like_the_job_that_the_crew_chose(site, person) -> None:
    world = make_world(rod="mm")
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/base/brief/")
    page.get_by_role("button", name="Let the crew begin other jobs like this one").click()
    expect(page.get_by_text("The crew begins other jobs like this one.")).to_be_visible()
    page.goto("/jobs/new/")
    page.get_by_role("link", name="Test pad").click()
    expect(page.locator("[name=soil]")).to_have_value("gravel")


def test_a_slip_of_the_tape_is_named_and_nothing_typed_is_lost(lead) -> None:
    page = lead
    page.get_by_label("as measured on site").check()
    page.fill("#id_area", KIDNEY.replace("X1 X2 4.123", "X1 X2 4.523"))
    expect(page.locator("#area-pane .finding-line")).to_contain_text("misses the others by")
    page.fill("#id_area", KIDNEY.replace("1.803 5.701", "1.8 1.1"))
    expect(page.locator("#area-pane [role=alert]")).to_contain_text("line 2: these tapes do not meet")
    assert page.locator("#id_area").input_value().startswith("A B 7\n1.8 1.1")


def test_a_valley_drawn_over_the_plan_is_caught_at_its_edges_and_planned_at_once(site, person) -> None:
    door = '"heights": [{"kind": "threshold", "name": "door", "at_m": [0, 4], "level_m": 10.0}], "marks": ['
    world = make_world(rod="mm", job_file=DRAINED_PAD.replace('"marks": [', door))
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/base/falls/")
    page.get_by_label("two, falling to a line").check()
    corners = page.evaluate(
        """() => { const svg = document.querySelector("[data-laying] svg"), m = svg.getScreenCTM();
        return JSON.parse(svg.dataset.snaps).map(([, x, y]) => [x * m.a + m.e, y * m.d + m.f]); }"""
    )
    (x1, y1), (x2, _y2), _x3, (_x4, y4) = corners[:4]
    page.mouse.move((x1 + x2) / 2, y1 - 9)  # a thumb's width off the edge
    page.mouse.down()
    page.mouse.move((x1 + x2) / 2, (y1 + y4) / 2, steps=4)
    page.mouse.move((x1 + x2) / 2, y4 + 9, steps=4)
    page.mouse.up()
    expect(page.locator("#id_where")).to_have_value("3.00 0.00; 3.00 4.00")
    expect(page.locator("#falls-drawing path.ridge").first).to_be_attached()
    page.mouse.move(x1 + 9, y1 - 8)
    page.mouse.down()
    page.mouse.move((x1 + x2) / 2, (y1 + y4) / 2, steps=4)
    page.mouse.up()
    expect(page.locator("#id_where")).to_have_value("X1; 3.00 2.00")


def test_what_was_begun_is_carried_on_after_the_page_is_lost_and_gone_once_it_is_started(site, person) -> None:
    page = person(make_world(rod="mm"), "lead", **PHONE)
    page.goto("/jobs/new/")
    expect(page.locator("[data-draft]")).to_be_hidden()
    page.fill("[name=name]", "Half done")
    page.get_by_label("as measured on site").check()
    page.fill("#id_area", KIDNEY)
    levels(page)
    page.goto("/")
    page.goto("/jobs/new/")
    expect(page.locator("[data-draft-name]")).to_have_text("Half done")
    page.get_by_role("button", name="Carry on").tap()
    expect(page.locator("#id_area")).to_have_value(KIDNEY)
    assert page.locator("[name=height-0-level]").input_value() == "10"
    assert started(page).name == "Half done"
    page.goto("/jobs/new/")
    expect(page.locator("[data-draft]")).to_be_hidden()


def test_a_job_begins_like_an_earlier_one(site, person) -> None:
    world = make_world(rod="mm")
    page = person(world, "lead")
    page.goto("/jobs/new/")
    page.get_by_text("Begin like an earlier job").click()
    page.get_by_role("link", name="Test pad").click()
    expect(page.locator("[name=soil]")).to_have_value("gravel")
    page.fill("[name=name]", "Its neighbour")
    page.fill("#id_area", "5\n3\n5")
    levels(page)
    page.get_by_role("button", name="Start the job").click()
    page.wait_for_url("**/base/")
    job = snapshot(Job.objects.get(id=re.search(r"/jobs/([0-9a-f-]{36})/", page.url)[1])).assessment.job
    assert job.specification == world.assessment().job.specification and job.area.area == pytest.approx(15)


def test_a_photo_of_a_plan_is_traced_by_two_places_known_and_its_corners(site, person) -> None:
    """A picture of 400 by 300 dots on which 100 dots are 2 m: a yard of 4 by 3 m and a half."""
    picture = io.BytesIO()
    Image.new("RGB", (400, 300), "white").save(picture, "PNG")
    page = person(make_world(rod="mm"), "lead", **PHONE)
    page.goto("/jobs/new/")
    page.get_by_text("Trace a photo").tap()
    page.set_input_files("[data-trace] input[type=file]", {"name": "s.png", "mimeType": "image/png",
                                                           "buffer": picture.getvalue()})  # fmt: skip
    over = page.locator(".tracing svg")
    over.scroll_into_view_if_needed()
    wide = over.bounding_box()["width"]

    def touch(x: float, y: float) -> None:
        over.click(position={"x": x * wide / 400, "y": y * wide / 400})

    touch(50, 280)
    touch(150, 280)
    expect(page.locator("[data-trace-says]")).to_have_text("Type how far apart they are.")
    page.fill("[data-trace-apart]", "2")
    for at in ((100, 250), (300, 250), (300, 75), (100, 75)):
        touch(*at)
    # 14 m², give or take a dot of the screen at each corner.
    expect(page.locator("#area-pane strong")).to_have_text(re.compile(r"1(3\.[6-9]|4\.[0-4]) m²"))
