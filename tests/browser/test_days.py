"""Days as people meet them: rain comes at two and the bed is cut short, a cold week moves the day one may drive, a
promise that cannot be held, the last forecast with its age where there is no signal."""

import json
import uuid
from collections.abc import Iterator
from datetime import UTC, datetime
from unittest import mock

import pytest
from django.utils import timezone
from playwright.sync_api import Page, expect

from groundwork.bedwork import BayScreeded, RailsPlanned
from groundwork.layerwork import Poured
from groundwork.measures import Measured
from nivelum.weather.models import WeatherTerms
from tests.browser.conftest import go_to, sign_in
from tests.browser.test_no_signal import device, take_along, wire
from tests.conftest import World
from tests.nivelum.test_days import SLAB, rows

__all__ = ["device", "wire"]
pytestmark = pytest.mark.browser
PHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True}
NOON = datetime(2026, 12, 8, 12, 30, tzinfo=UTC)
"""A Tuesday, half past twelve: work goes on until three."""


@pytest.fixture(autouse=True)
def on_a_tuesday() -> Iterator[None]:
    with mock.patch.object(timezone, "now", lambda: NOON):
        yield


def paste(page: Page, issued: str, **at: dict) -> None:
    """A forecast pasted in."""
    page.get_by_role("link", name="Forecasts").click()
    page.get_by_label("or what it says").fill(
        json.dumps({"issued": issued, "source": "the radio", "hours": rows(**at)})
    )
    page.get_by_role("button", name="Keep it").click()
    expect(page.get_by_role("status").first).to_contain_text("Kept")


def test_rain_comes_at_two_and_the_bed_is_cut_short(field_world, person) -> None:
    """Two lay 4 m² an hour each: until three 2.5 h, 20 m²; until the rain at two 1.5 h, 12 m²."""
    world: World = field_world()
    rails = RailsPlanned(str(uuid.uuid4()), Measured("2", 2.0), "along", Measured("25", 0.025), Measured("3", 3.0))
    world.record(rails)
    world.record(BayScreeded(str(uuid.uuid4()), rails.id, "B1", datetime(2026, 12, 8, 11, 0)))
    page = person(world, "crew", **PHONE)
    page.goto(f"/jobs/{world.job.id}/days/")
    expect(page.locator("#days-told")).to_contain_text("No forecast")
    paste(page, "2026-12-08T06:00")
    page.locator("main details").evaluate_all("all => all.forEach((one) => (one.open = true))")  # whole days of hours
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_role("link", name="Today").click()
    expect(page.locator("#days-told")).to_contain_text("Screed 20.0 m² and no more: as much as is covered by 15:00")
    wet = {f"h{n}": {"rain_mm": 3.0, "rain_chance_percent": 90} for n in range(14, 24)}
    paste(page, "2026-12-08T12:00", **wet)
    page.get_by_role("link", name="Today").click()
    told = page.locator("#days-told")
    expect(told).to_contain_text("Screed 12.0 m² and no more: as much as is covered by 14:00, before the rain")
    expect(told.locator(".verdict", has_text="Bedding")).to_contain_text("until 14:00, then wait")
    expect(told).to_contain_text("The bed turns to soup")
    expect(told).to_contain_text("Sheet: bed that is screeded: B1")


def test_a_cold_week_moves_the_day_one_may_drive(field_world, person) -> None:
    """3 360 °C·h over freezing from noon on Sunday: 14 days at 10 °C; a week at 2 °C puts 5.6 days to that."""
    world: World = field_world(job_file=SLAB, brief_signed=False)
    WeatherTerms.objects.create(crew=world.crew, least=10, most=10)
    noon = datetime(2026, 12, 6, 12)
    world.record(Poured(str(uuid.uuid4()), noon.date(), 4.0, 10.0, Measured("2", 0.002), "", noon))
    page = person(world, "lead")
    page.goto(f"/jobs/{world.job.id}/days/setting/")
    drive = page.locator("#sets-told div:has(> p:has-text('drive on it'))").last
    expect(drive).to_contain_text("from Sun 20 Dec, 12:00 on")
    for day in range(2):  # what Sunday’s afternoon and Monday were
        page.get_by_label("day", exact=True).fill(f"2026-12-0{6 + day}")
        page.get_by_label("least").fill("2")
        page.get_by_label("most").fill("2")
        page.get_by_role("button", name="That was the day").click()
        expect(page.locator("#sets-told")).to_contain_text(f"{6 + day} Dec: 2 °C to 2 °C")
    # Twelve hours of Sunday and a day of Monday, each hour 8 degrees short: 288 °C·h, 28.8 h at 10 °C.
    expect(drive).to_contain_text("from Mon 21 Dec, 17:00 on")
    page.get_by_role("link", name="Forecasts").click()
    for n in range(3):
        for label, typed in (("least", "2"), ("most", "2")):
            page.locator(f"[name=d{n}-{label}]").fill(typed)
    page.get_by_role("button", name="Keep what is typed").click()
    page.get_by_role("link", name="What sets").click()
    # Tuesday to Thursday at 2 °C: 216 °C·h by then, 314.4 h at 10 °C from Friday on, to 02:24, told to the quarter.
    expect(drive).to_contain_text("from Thu 24 Dec, 02:30 on")


def test_a_promise_that_cannot_be_held_and_a_task_that_is_moved(field_world, person) -> None:
    world: World = field_world()
    page = person(world, "lead", **PHONE)
    page.goto(f"/jobs/{world.job.id}/ground/")
    go_to(page, "Days")
    page.get_by_role("link", name="Programme").click()
    told = page.locator("#programme-told")
    expect(told.locator("svg.courses .stake.likely")).to_have_count(1)
    page.get_by_label("promised by; empty: nothing").fill("2026-12-08")
    page.get_by_role("button", name="It is promised").click()
    expect(told.locator(".verdict")).to_contain_text("Promised by Tue 8 Dec: 0 times in a hundred it is held")
    expect(told.locator(".verdict.v-dig")).to_have_count(1)
    page.locator("select[name=task]").select_option("laying")
    page.get_by_label("not before; empty: whenever").fill("2026-12-14")
    page.get_by_role("button", name="What would follow?").click()
    expect(page.locator("#tried")).to_contain_text("Joints")
    page.get_by_role("button", name="Move the task").click()
    expect(told).to_contain_text("not before Mon 14 Dec")


def test_without_a_signal_the_last_forecast_is_there_with_its_age(field_world, device, wire) -> None:
    world: World = field_world()
    world.set_up()
    world.shoot("A1", 0.0)
    page = device().open()
    sign_in(page, world, "lead")
    text = json.dumps({"issued": "2026-12-08T06:00", "source": "the radio", "hours": rows()})
    world.client("lead").post(f"/jobs/{world.job.id}/days/forecasts/brought/", {"text": text})
    take_along(page, world)
    wire.cut()
    page.goto(f"/jobs/{world.job.id}/days/")
    expect(page.locator("#days-told")).to_contain_text("the radio, 06:00")
    expect(page.locator("#days-told")).to_contain_text("6 hours old")
    expect(page.locator("#signal")).to_contain_text("No signal")
    page.goto(f"/jobs/{world.job.id}/days/programme/")
    page.get_by_label("promised by; empty: nothing").fill("2026-12-18")
    page.get_by_role("button", name="It is promised").click()
    expect(page.locator("#signal")).to_contain_text("1 wait")
    wire.mend()
    page.evaluate("dispatchEvent(new Event('online'))")
    expect(page.locator("#programme-told .verdict")).to_contain_text("Promised by Fri 18 Dec")
