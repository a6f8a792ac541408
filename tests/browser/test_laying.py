"""Paving laid out, dragged, kept, taped and cut: by keyboard, with somebody watching, and without a signal."""

import uuid

import pytest
from playwright.sync_api import expect

from tests.browser.conftest import sign_in
from tests.browser.test_no_signal import device, mend, waits, wire
from tests.conftest import make_world

__all__ = ["device", "wire"]
pytestmark = pytest.mark.browser
PHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}
LAYOUT = {
    "pattern": "running-half", "length": "200", "width": "100", "joint": "3", "side": "0", "turned": "0", "over": "0",
    "ahead": "0", "border": "none", "corner": "mitred", "seed": "1",
}  # fmt: skip


def laid_out(world) -> None:
    sent = LAYOUT | {"entry_id": str(uuid.uuid4())}
    assert world.client("lead").post(f"/jobs/{world.job.id}/laying/chosen/", sent).status_code == 302


def tape(page, off_mm: int = 0) -> None:
    """Tapes the place in hand so far from where it should be, by keyboard."""
    page.keyboard.type(str(int(page.locator("#target").inner_text()) + off_mm))
    page.keyboard.press("Enter")


def test_a_layout_is_proposed_compared_dragged_and_kept_with_somebody_watching(site, person) -> None:
    world = make_world(rod="mm")
    lead, watcher = person(world, "lead"), person(world, "crew", **PHONE)
    lead.goto(f"/jobs/{world.job.id}/laying/")
    watcher.goto(f"/jobs/{world.job.id}/laying/")
    expect(lead.locator("#design [name=pattern]:checked")).to_have_value("herringbone")
    lead.get_by_text("Look for the best three").click()
    expect(lead.locator("#best tbody tr, #best table tr")).to_have_count(4, timeout=60_000)
    lead.get_by_role("link", name="Start 1").click()
    before = lead.locator("#layout-told .verdict").inner_text()
    box = lead.locator("[data-layout] svg").bounding_box()
    at = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    lead.mouse.move(*at)
    lead.mouse.down()
    lead.mouse.move(at[0] + 9, at[1] - 7, steps=4)
    with lead.expect_response("**/laying/now/**"):
        lead.mouse.up()
    expect(lead.locator("#layout-told .verdict")).not_to_have_text(before)
    dragged = float(lead.locator("#design [name=over]").input_value())
    lead.get_by_role("button", name="Lay it so").click()
    expect(lead.get_by_role("link", name="Tape the rows")).to_be_focused()
    assert world.assessment().laying.chosen.over == pytest.approx(dragged, abs=1e-3)
    expect(watcher.locator("#layout-told")).to_contain_text("whole")
    # What is typed wrong is said beside its field, and the plan of before stays away until it is right.
    lead.locator("summary", has_text="Pattern, units").click()
    lead.locator("#design [name=length]").fill("nine")
    lead.locator("#design [name=length]").press("Tab")
    expect(lead.locator("#wrong-length")).to_contain_text("nine")
    lead.locator("#design [name=length]").fill("200")
    lead.locator("#design [name=length]").press("Tab")
    expect(lead.locator("#wrong-length")).to_be_empty()


def test_rows_are_taped_by_keyboard_a_fan_is_brought_home_and_pieces_are_cut(site, person) -> None:
    world = make_world(rod="mm")
    laid_out(world)
    lead, watcher = person(world, "lead"), person(world, "crew", **PHONE)
    lead.goto(f"/jobs/{world.job.id}/laying/courses/")
    watcher.goto(f"/jobs/{world.job.id}/laying/courses/")
    row, _where = world.assessment().laying.next_place
    for n, (where, off) in enumerate((("left", 0), ("middle", 5), ("right", 12))):
        expect(lead.locator("#taping [name=where]")).to_have_value(where)
        expect(lead.locator("#entry")).to_be_focused()
        tape(lead, off)
        expect(watcher.locator(".row-taped circle")).to_have_count(n + 1)
    expect(lead.locator("#courses-taped .verdict").first).to_contain_text("on the right")
    expect(lead.locator("#courses-taped")).to_contain_text(f"row {row} is up to 12 mm off its line")
    # A misreading is asked about; the row is taped again and in line.
    tape(lead, 500)
    expect(lead.locator("#doubt")).to_be_visible()
    lead.goto(f"/jobs/{world.job.id}/laying/courses/?row={row}&where=right")
    tape(lead, 1)
    lead.goto(f"/jobs/{world.job.id}/laying/courses/?row={row}&where=middle")
    tape(lead, 1)
    expect(lead.locator("#courses-taped .verdict").first).to_contain_text("In line: go on")
    expect(watcher.locator(".row-taped.out")).to_have_count(0)
    # The plan is touched where it is laid up to.
    lead.locator("[data-rows] svg .area").click(force=True)
    field = lead.locator("form[data-kind=rows_laid] [name=row]")
    expect(field).to_be_focused()
    assert 0.3 < int(field.input_value()) / max(world.assessment().laying.paving.rows) < 0.7
    lead.keyboard.press("Enter")
    expect(lead.locator("#courses-taped")).to_contain_text("to go")
    expect(watcher.locator(".laid-part")).to_have_count(1)
    lead.goto(f"/jobs/{world.job.id}/laying/cuts/")
    button = lead.get_by_role("button", name="1 is cut and laid")
    button.focus()
    lead.keyboard.press("Enter")
    expect(lead.get_by_role("button", name="2 is cut and laid")).to_be_focused()
    assert len(world.assessment().laying.done) == 1


def test_rows_are_taped_where_there_is_no_signal(device, wire) -> None:
    world = make_world(rod="mm")
    laid_out(world)
    page = device().open(**PHONE)
    sign_in(page, world, "lead")
    page.goto(f"/jobs/{world.job.id}/laying/courses/")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    wire.cut()
    row, _where = world.assessment().laying.next_place
    for n, (where, off) in enumerate((("left", 1), ("middle", 2), ("right", 13))):
        expect(page.locator("#taping [name=where]")).to_have_value(where)
        page.locator("#entry").fill(str(int(page.locator("#target").inner_text()) + off))
        page.keyboard.press("Enter")
        waits(page, n + 1)
        told = "13 mm too far: close the joints from here" if off == 13 else "good"
        expect(page.locator("#setting-told")).to_contain_text(told)
    mend(page, wire)
    expect(page.locator("#signal")).to_be_hidden()
    expect(page.locator(".row-taped.out circle")).to_have_count(3)
    assert world.assessment().laying.taped[row].faults == ("fan",)


def test_feet_and_inches_are_typed_and_told(site, person) -> None:
    world = make_world(rod="ft-in")
    lead = person(world, "lead")
    lead.goto(f"/jobs/{world.job.id}/laying/")
    lead.get_by_role("button", name="Lay it so").click()
    lead.get_by_role("link", name="Tape the rows").click()
    target = lead.locator("#target").inner_text()
    assert "″" in target or "′" in target
    row, where = world.assessment().laying.next_place
    inches = world.assessment().laying.targets[row] / 0.0254
    lead.locator("#entry").fill(f"{int(inches // 12)}' {inches % 12:.2f}\"")
    lead.keyboard.press("Enter")
    expect(lead.locator("#courses-taped .verdict").first).to_contain_text("In line: go on")
    assert world.assessment().laying.taped[row].off[where] == pytest.approx(0, abs=0.0002)
