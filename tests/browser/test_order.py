"""Orders and money as people meet them: a new job to an estimate on paper, tickets that settle an order, two who
order the same where only one has a signal, somebody who may see no money."""

import subprocess

import pytest
from playwright.sync_api import Page, expect

from tests.browser.conftest import go_to, sign_in
from tests.browser.test_new_jobs import start
from tests.browser.test_no_signal import device, mend, thin, waits, wire
from tests.conftest import World
from tests.groundwork.test_proposal import JOBS

__all__ = ["device", "wire"]
pytestmark = pytest.mark.browser
PHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True}
STONE = "dense-graded"


def thing(page: Page, title: str):
    """A thing's row, opened."""
    row = page.locator(f"#orders-told > details:has(summary:has-text('{title}'))")
    if row.get_attribute("open") is None:
        row.locator("summary").first.click()
    return row


def supply(world: World, what: str = STONE):
    return next(s for s in world.assessment().orders.supplies if s.what == what)


def test_from_a_new_job_to_an_estimate_on_paper(field_world, person) -> None:
    world = field_world()
    page = person(world, "lead")
    name, job = next((name, job) for name, job in JOBS.items() if job.unit.is_metric and len(job.outline) == 4)
    start(page, name, job)
    go_to(page, "Order")
    page.get_by_role("link", name="Costs").click()
    expect(page.locator(".caution")).to_contain_text("Without a price")
    page.get_by_role("link", name="The crew’s prices").click()
    for label, amount in (("crew: an hour", "44"), ("plate: a day", "48.50")):
        page.get_by_label("what, and in what").select_option(label)
        page.get_by_label("costs, without tax").fill(amount)
        page.get_by_role("button", name="Set the price").click()
        expect(page.get_by_role("status").first).to_contain_text("Set:")
    expect(page.get_by_role("table", name="Price book")).to_contain_text("€48.50")
    page.go_back()
    page.goto("/")
    page.get_by_role("link", name=name).first.click()
    go_to(page, "Order")
    page.get_by_role("link", name="Costs").click()
    page.get_by_label("called, if anything").fill("first thoughts")
    page.get_by_role("button", name="Keep this estimate").click()
    total = page.get_by_role("table", name="Versions").locator("td.figure").inner_text()
    with page.expect_download() as download:
        page.get_by_role("link", name="PDF of 1").click()
    said = subprocess.run(
        ["pdftotext", "-layout", str(download.value.path()), "-"], capture_output=True, check=True, text=True
    ).stdout
    assert "version 1" in said and "first thoughts" in said and total.strip("€") in said


def test_tickets_settle_an_order_on_a_phone(field_world, person) -> None:
    world = field_world()
    page = person(world, "crew", **PHONE)
    page.goto(f"/jobs/{world.job.id}/order/placed/")
    row = thing(page, "dense-graded")
    row.get_by_label("how many").fill("8.5")
    row.get_by_label("from whom").fill("the quarry")
    row.get_by_role("button", name="Order dense-graded").click()
    row = thing(page, "dense-graded")
    expect(row).to_contain_text("8.5 tonnes · ordered")
    for number, ticket in (("8.2", "A-1"), ("0.3", "A-2")):
        row = thing(page, "dense-graded")
        row.get_by_label("came", exact=True).fill(number)
        row.get_by_label("ticket", exact=True).fill(ticket)
        row.get_by_role("button", name="it came").click()
        expect(thing(page, "dense-graded")).to_contain_text("part of it came" if number == "8.2" else "· came")
    assert supply(world).has_come == 8500.0
    tally = next(t for t in world.assessment().works.tallies if t.material == STONE)
    assert [t.ticket for t in tally.tickets] == ["A-1", "A-2"]


def test_two_who_order_the_same_where_one_has_no_signal(field_world, device, wire) -> None:
    world, one, other = field_world(), device(), device()
    away = one.open(**PHONE)
    sign_in(away, world, "crew")
    away.goto(f"/jobs/{world.job.id}/order/placed/")
    away.evaluate("navigator.serviceWorker.ready.then(() => true)")
    wire.cut()
    thin(away)  # nothing of it is on its way when the signal comes back
    thing(away, "dense-graded").get_by_role("button", name="Order dense-graded").click()
    waits(away, 1)
    wire.mend()
    near = other.open()
    sign_in(near, world, "lead")
    near.goto(f"/jobs/{world.job.id}/order/placed/")
    thing(near, "dense-graded").get_by_role("button", name="Order dense-graded").click()
    expect(thing(near, "dense-graded")).to_contain_text("8.5 tonnes · ordered")
    away.reload()
    mend(away, wire)
    away.locator("#signal a.refused").click()
    expect(away.locator("#waiting .refused")).to_contain_text("omebody ordered of it meanwhile")
    assert len(supply(world).orders) == 1
    away.get_by_role("button", name="Order it all the same").click()
    expect(away.locator("#nothing-waits")).to_be_visible()
    assert [o.made.number for o in supply(world).orders] == [8.5, 8.5]


def test_somebody_who_may_not_see_money_sees_none(field_world, person) -> None:
    world = field_world()
    page = person(world, "viewer")
    page.goto(f"/jobs/{world.job.id}/order/")
    expect(page.get_by_role("link", name="Hours and kit")).to_be_visible()
    expect(page.get_by_role("link", name="Costs")).to_have_count(0)
    assert page.goto(f"/jobs/{world.job.id}/order/costs/").status == 403
    assert page.goto(f"/crews/{world.crew.id}/prices/").status == 403
    page.goto(f"/crews/{world.crew.id}/")
    expect(page.get_by_role("link", name="Price book")).to_have_count(0)
