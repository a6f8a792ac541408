"""A court railed, set and looked at: by keyboard with somebody watching, and where there is no signal."""

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import sign_in
from tests.browser.test_no_signal import device, mend, waits, wire
from tests.conftest import make_world

__all__ = ["device", "wire"]
pytestmark = pytest.mark.browser
PHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}


def set_rail(page, high_mm: int = 0) -> None:
    """Reads on the rail in hand so high over what it should be, by keyboard."""
    target = int(page.locator("#target").inner_text())
    page.keyboard.type(str(target - high_mm))


def test_a_court_is_railed_by_keyboard_with_somebody_watching(site, person) -> None:
    world = make_world(rod="mm")
    world.set_up()
    lead, watcher = person(world, "lead"), person(world, "crew", **PHONE)
    lead.goto(f"/jobs/{world.job.id}/bed/")
    lead.get_by_role("button", name="Lay them out").focus()
    lead.keyboard.press("Enter")
    expect(lead.locator("#entry")).to_be_focused()
    watcher.goto(f"/jobs/{world.job.id}/bed/")
    ends = list(world.assessment().bedding.ends)
    for n, (rail, _end) in enumerate(ends):
        expect(lead.locator("#rail [name=rail]")).to_have_value(rail)
        set_rail(lead, 9 if n == 1 else 0)
        expect(lead.locator("#foretold")).to_have_text("bed it down 9 mm" if n == 1 else "good")
        lead.keyboard.press("Enter")
        expect(lead.locator("#rails-set .verdict:not([hidden])")).to_contain_text(f"{rail}, ")
    expect(lead.locator("#rails-set")).to_contain_text("rails off their level")
    expect(watcher.locator(".rail-end.right")).to_have_count(len(ends) - 1)
    expect(watcher.locator(".rail-end.out")).to_have_count(1)
    # The one that is off is in hand again; bedded down, it is right, and nothing holds the rails.
    expect(lead.locator("#rail [name=rail]")).to_have_value(ends[1][0])
    set_rail(lead)
    lead.keyboard.press("Enter")
    expect(watcher.locator(".rail-end.right")).to_have_count(len(ends))
    assert world.assessment().bedding.findings == ()


def test_rails_are_set_where_there_is_no_signal_and_arrive_in_order(device, wire) -> None:
    world = make_world(rod="mm")
    world.set_up()
    assert world.client("lead").post(f"/jobs/{world.job.id}/bed/plans/", {
        "entry_id": "6a0f4ad2-27f9-4c0c-9c0e-1d0a5c3e7f11", "way": "along", "board": "2",
        "tube": "25", "longest": "3",
    }).status_code == 302  # fmt: skip
    page = device().open(**PHONE)
    sign_in(page, world, "lead")
    page.goto(f"/jobs/{world.job.id}/bed/")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    wire.cut()
    ends = list(world.assessment().bedding.ends)[:3]
    for n, (rail, end) in enumerate(ends):
        expect(page.locator("#rail [name=rail]")).to_have_value(rail)
        expect(page.locator("#rail [name=end]")).to_have_value(end)
        page.locator("#entry").fill(str(int(page.locator("#target").inner_text()) + (9 if n == 2 else 0)))
        page.keyboard.press("Enter")
        waits(page, n + 1)
        expect(page.locator("#setting-told")).to_contain_text("pack it up 9 mm" if n == 2 else "good")
    mend(page, wire)
    expect(page.locator("#signal")).to_be_hidden()
    expect(page.locator(".rail-end.right")).to_have_count(2)
    bed = world.assessment().bedding
    assert [str(bed.ends[key].call) for key in ends] == ["good", "good", "low"]


def test_a_kerb_is_set_right_by_keyboard_with_a_misreading_a_reset_and_somebody_watching(site, person) -> None:
    world = make_world(rod="mm")
    world.set_up()
    lead, watcher = person(world, "lead"), person(world, "crew", **PHONE)
    lead.goto(f"/jobs/{world.job.id}/edges/")
    # Another kind brings its own sizes, the first its own again; what one typed oneself stays.
    first = lead.locator("[name=what]:checked").get_attribute("value")
    usual = {name: lead.locator(f"[name={name}]").input_value() for name in ("length", "height")}
    lead.locator("[name=what]:checked").focus()
    lead.locator("[name=height]").fill("333")
    lead.locator("[name=what]:checked").press("ArrowDown")
    other = lead.locator("[name=what]:checked")
    expect(lead.locator("[name=length]")).to_have_value(other.get_attribute("data-length"))
    expect(lead.locator("[name=height]")).to_have_value("333")
    other.press("ArrowUp")
    assert lead.locator("[name=what]:checked").get_attribute("value") == first
    expect(lead.locator("[name=length]")).to_have_value(usual["length"])
    lead.locator("[name=what][value=kerb]").check()
    for name, typed in (("upstand", "25"), ("length", "0.915"), ("joint", "3"), ("height", "150")):
        lead.locator(f"[name={name}]").fill(typed)
    lead.locator("[name=height]").press("Enter")
    expect(lead.locator("#entry")).to_be_focused()
    watcher.goto(f"/jobs/{world.job.id}/edges/")
    joints = world.assessment().edges.runs[0].looked_at
    for n in joints:
        expect(lead.locator("#joint [name=joint]")).to_have_value(str(n))
        if n == joints[1]:
            # A metre off is asked about; the same key again keeps nothing, and it is read anew.
            set_rail(lead, 1000)
            lead.keyboard.press("Enter")
            expect(lead.locator("#doubt")).to_contain_text("out by a metre")
            with lead.expect_response("**/edges/tops/"):
                lead.keyboard.press("Enter")
            expect(lead.locator("#doubt button")).to_be_disabled()  # drawn anew
            lead.locator("#entry").fill("")
            lead.locator("#entry").focus()
        set_rail(lead, -12 if n == joints[2] else 0)
        lead.keyboard.press("Enter")
    expect(lead.locator("#edges-set")).to_contain_text("reset 2 units from unit")
    expect(watcher.locator("#edges-drawn .edge-section .rail-end.out")).to_have_count(1)
    expect(lead.locator("#joint [name=joint]")).to_have_value(str(joints[2]))
    set_rail(lead)
    lead.keyboard.press("Enter")
    expect(watcher.locator("#edges-drawn .edge-section .rail-end.right")).to_have_count(len(joints))
    assert world.assessment().edges.findings == ()
    # A string over both ends: the same joint, taped down from it.
    lead.get_by_role("link", name="By a string over both ends").press("Enter")
    expect(lead.locator("#joint [name=over]")).to_have_value("100")
    set_rail(lead, 3)
    expect(lead.locator("#foretold")).to_contain_text("good")
    lead.keyboard.press("Enter")
    expect(lead.locator("#edges-set .verdict:not([hidden])")).to_contain_text("good")
    assert {e.KIND for e in world.assessment().job.entries} >= {"edge_top", "edge_string"}


def test_a_kerb_is_set_where_there_is_no_signal(device, wire) -> None:
    world = make_world(rod="mm")
    world.set_up()
    kerb = {"side": "0", "what": "kerb", "upstand": "25", "length": "0.915", "joint": "3", "width": "125",
            "height": "150"}  # fmt: skip
    sent = {"entry_id": "6a0f4ad2-27f9-4c0c-9c0e-1d0a5c3e7f12"} | kerb
    assert world.client("lead").post(f"/jobs/{world.job.id}/edges/plans/", sent).status_code == 302
    page = device().open(**PHONE)
    sign_in(page, world, "lead")
    page.goto(f"/jobs/{world.job.id}/edges/")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    wire.cut()
    for n, (joint, high, says) in enumerate(
        ((0, 0, "good"), (1, 10, "tap it down 10 mm"), (2, 1000, "bed it 1000 mm"))
    ):
        expect(page.locator("#joint [name=joint]")).to_have_value(str(joint))
        page.locator("#entry").fill(str(int(page.locator("#target").inner_text()) - high))
        page.keyboard.press("Enter")
        waits(page, n + 1)
        expect(page.locator("#setting-told")).to_contain_text(says)
    mend(page, wire)
    # What looks misread comes back to be asked about; the others are written.
    page.locator("#signal a.refused").click()
    refused = page.locator("#waiting .refused")
    expect(refused).to_contain_text("out by a metre")
    refused.get_by_role("button", name="It does read").click()
    expect(page.locator("#nothing-waits")).to_be_visible()
    joints = world.assessment().edges.joints(0)
    assert [str(joints[n].call) for n in (0, 1, 2)] == ["good", "high", "high"]


def test_a_court_is_railed_its_bays_checked_and_the_bed_signed(field_world, person) -> None:
    world = field_world()
    for stage in ("excavation", "subgrade", "base-lifts", "base-proof"):
        world.make(stage)
        world.sign(stage)
    world.sign("base-proof", "crew", "second look")
    page = person(world, "lead", **PHONE)
    page.goto(f"/jobs/{world.job.id}/bed/")
    page.get_by_role("button", name="Lay them out").tap()
    expect(page.locator("#rail")).to_be_visible()  # the plan is on record before its ends are asked for
    for rail, _end in list(world.assessment().bedding.ends):
        expect(page.locator("#rail [name=rail]")).to_have_value(rail)
        set_rail(page)
        page.keyboard.press("Enter")
        expect(page.locator("#rails-set .verdict:not([hidden])")).to_contain_text(f"{rail}, ")
    page.goto(f"/jobs/{world.job.id}/bed/bays/")
    for n, bay in enumerate(world.assessment().bedding.bays):
        page.get_by_role("button", name=f"{bay} is screeded").tap()
        if n == 0:
            page.locator("[name=along]").fill("3")
            page.locator("[name=across]").fill("8")
            page.get_by_role("button", name="Looked").tap()
            expect(page.locator("#rails-set .verdict")).to_contain_text("Add 8 mm where it is low, screed again")
            page.get_by_role("button", name=f"{bay} is screeded").tap()
        expect(page.locator("#rails-set .verdict")).to_contain_text("Lay the straightedge")
        page.locator("[name=along]").fill("3")
        page.locator("[name=across]").fill("2")
        page.get_by_role("button", name="Looked").tap()
        expect(page.locator("#rails-set .verdict")).to_contain_text("Level: lay on it")
        page.get_by_role("button", name=f"{bay} laid on").tap()
        expect(page.locator("#rails-set .verdict")).to_contain_text("Laid")
        if (onward := page.get_by_role("link", name="On to")).count():
            onward.tap()
    world.look("bedding")
    page.goto(f"/jobs/{world.job.id}/sign-offs/?stage=bedding")
    page.locator("form.signing button").first.tap()
    expect(page.locator("#stage")).to_contain_text("Signed. Go on.")
    signed = world.assessment().stages.of("bedding").sign_off.evidence["bed"]
    assert [bay["closed"] for bay in signed["bays"]] == ["laid"] * len(signed["bays"])
    page.goto(f"/jobs/{world.job.id}/record/")
    expect(page.locator("main")).to_contain_text("Under the straightedge:")
