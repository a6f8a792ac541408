"""Behind the building, where there is no signal: the job goes on, and everything arrives once when it is back. The
wire between browser and server is really cut."""

import shutil
import uuid
from collections.abc import Callable, Iterator
from itertools import pairwise
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import BrowserContext, Page, Playwright, expect

from groundwork.record import first_fault
from tests.browser.conftest import CHROMIUM, PATIENCE, sign_in
from tests.conftest import PAD, World
from tests.wire import Wire

pytestmark = pytest.mark.browser
CLOSE_PAD = PAD.replace('"station_spacing_m": 2', '"station_spacing_m": 0.9')


@pytest.fixture
def wire(site: str) -> Iterator[Wire]:
    wire = Wire(int(site.rsplit(":", 1)[1]))
    yield wire
    wire.close()


class Device:
    """A phone or a laptop with a browser that can be closed and opened again, and keeps what it keeps."""

    def __init__(self, playwright: Playwright, wire: Wire, folder: Path, errors: list[str]) -> None:
        self._playwright, self._folder, self._errors = playwright, folder, errors
        self.wire = wire
        self.context: BrowserContext | None = None

    def open(self, **options) -> Page:
        usual = {"viewport": {"width": 1280, "height": 800}, "base_url": self.wire.address}
        self.context = self._playwright.chromium.launch_persistent_context(
            str(self._folder), executable_path=shutil.which("chromium"), args=CHROMIUM, **usual | options
        )
        self.context.set_default_timeout(PATIENCE)
        page = self.context.pages[0]
        page.on("pageerror", lambda error: self._errors.append(str(error)))
        page.on("dialog", lambda dialog: dialog.accept())
        return page

    def close(self) -> None:
        if self.context:
            self.context.close()
            self.context = None


@pytest.fixture
def device(playwright: Playwright, wire: Wire, tmp_path: Path) -> Iterator[Callable[[], Device]]:
    errors: list[str] = []
    made: list[Device] = []

    def another() -> Device:
        made.append(Device(playwright, wire, tmp_path / f"device {len(made)}", errors))
        return made[-1]

    yield another
    for each in made:
        each.close()
    assert errors == []


def take_along(page: Page, world: World) -> None:
    """The job opened and taken along on purpose, as one does before going behind the building."""
    page.goto(f"/jobs/{world.job.id}/ground/")
    page.locator("header summary").click()
    page.locator("[data-take]").click()
    expect(page.locator("[data-take]")).to_contain_text("Taken with you")
    page.locator("header summary").click()


def has_sheet(page: Page) -> None:
    """What travels with the job has come."""
    page.wait_for_function(
        """() => new Promise((done) => { const asked = indexedDB.open("nivelum"); asked.onsuccess = () => {
          const all = asked.result.transaction("sheets").objectStore("sheets").count();
          all.onsuccess = () => { asked.result.close(); done(all.result > 0); };
        }; })"""
    )


def read(page: Page, low_mm: int = 0) -> str:
    """Reads what the rod should read where the pad stands, so much more; the pad goes on."""
    station = page.locator("#pad input[name=station]").first.input_value()
    target = int(page.locator("#target").inner_text())
    page.locator("#entry").fill(str(target + low_mm))
    page.keyboard.press("Enter")
    expect(page.locator("#pad .verdict [data-fill=told]")).to_contain_text(f"{station}: ")
    return station


def set_up(page: Page, backsight: str = "1300") -> None:
    page.locator("#pad [name=backsight]").fill(backsight)
    page.keyboard.press("Enter")
    expect(page.locator("#target")).to_be_visible()


def entries(world: World, after: int) -> list:
    from nivelum.jobs.models import Entry

    return list(Entry.objects.filter(job=world.job, number__gt=after).order_by("number"))


def chain_holds(world: World) -> bool:
    from nivelum.exchange.services import record_data

    return first_fault(record_data(world.job)["entries"]) is None


def waits(page: Page, n: int) -> None:
    expect(page.locator("#signal")).to_contain_text(f"{n} wait")


@pytest.fixture
def with_machine(field_world) -> World:
    from groundwork.machines import Machine, MachineKind
    from groundwork.worked import MachineBrought

    world = field_world(job_file=CLOSE_PAD)
    world.record(
        MachineBrought(str(uuid.uuid4()), Machine("plate", MachineKind.PLATE, 500, 0.5, 0.5, 0.35, vibration=5.0))
    )
    return world


def shoot_two_surfaces(page: Page, world: World) -> list[str]:
    """The level set up, every station of the formation and thirty of the first lift; the stations in their order."""
    page.goto(f"/jobs/{world.job.id}/ground/?surface=formation")
    expect(page.locator("#signal")).to_contain_text("No signal. As last seen")
    set_up(page)
    stations = page.locator("#plan [data-station]").count()
    assert stations >= 30
    shot = [read(page, n % 7 - 3) for n in range(stations)]
    assert len(set(shot)) == stations
    waits(page, stations + 1)
    page.goto(f"/jobs/{world.job.id}/ground/?surface=base.1")
    return shot + [read(page, n % 5 - 2) for n in range(30)]


def correct(page: Page, typed: str) -> None:
    """Corrects the reading just made."""
    page.locator(".corrects summary").click()
    page.locator(".corrects [name=reading]").fill(typed)
    page.locator(".corrects button").click()
    expect(page.locator("#pad .verdict [data-fill=typed]")).to_contain_text(f"read {typed}")


def on_the_lift_and_the_stage(page: Page, world: World, photo: Path) -> int:
    """Two passes, a photo, what is asked, and the signature; how many questions there were."""
    page.goto(f"/jobs/{world.job.id}/lifts/?lift=base.1")
    for n in (1, 2):
        page.locator("form[action$='/lifts/pass/'] button").first.click()
        expect(page.locator(".waits-here li")).to_have_count(n)
    page.goto(f"/jobs/{world.job.id}/sign-offs/?stage=excavation")
    page.locator("summary", has_text="A photo of something else").click()
    form = page.locator("form[action$='/sign-offs/photos/']").last
    form.locator("[name=photo]").set_input_files(photo)
    form.locator("[name=caption]").fill("the north corner")
    form.locator("button").click()
    expect(page.locator(".waits-here", has_text="the north corner")).to_have_count(1)
    asked = page.locator("#stage button[value=yes]")
    for n in range(asked.count()):
        asked.nth(n).click()
        expect(page.locator(".ask .waits-here")).to_have_count(n + 1)
    page.locator("form.signing:visible button.press").click()
    expect(page.locator("#gate-says")).to_have_text("Signed here, provisional")
    expect(page.locator("#course .provisional")).to_contain_text("signed here, provisional")
    return asked.count()


def test_a_morning_behind_the_building(with_machine: World, device, wire: Wire, tmp_path: Path) -> None:
    world, phone = with_machine, device()
    before = entries(world, 0)[-1].number
    photo = tmp_path / "corner.jpg"
    Image.effect_noise((900, 600), 60).convert("RGB").save(photo, quality=70)
    page = phone.open()
    sign_in(page, world, "lead")
    take_along(page, world)
    has_sheet(page)
    wire.cut()
    shot = shoot_two_surfaces(page, world)
    correct(page, "1402")
    shot.append(read(page))
    correct(page, "1403")
    asked = on_the_lift_and_the_stage(page, world, photo)

    # The browser is closed, and opened again where there still is no signal.
    kinds = ["set_up", *["reading"] * (len(shot) - 1), "correction", "reading", "correction", "pass", "pass",
             "pictured", *["observed"] * asked, "sign_off"]  # fmt: skip
    phone.close()
    page = phone.open()
    page.goto("/waiting/")
    expect(page.locator("#waiting > li")).to_have_count(len(kinds))
    page.goto(f"/jobs/{world.job.id}/ground/?surface=formation")
    expect(page.locator("#plan .station.waits")).to_have_count(len(shot) - 31)
    expect(page.locator("#course .provisional")).to_be_visible()
    assert entries(world, before) == []

    wire.mend()
    page.goto("/waiting/")
    expect(page.locator("#nothing-waits")).to_be_visible(timeout=60_000)
    arrived = entries(world, before)
    assert [entry.kind for entry in arrived] == kinds
    assert [entry.body["station"] for entry in arrived if entry.kind == "reading"] == shot
    assert all(one.device_at <= other.device_at < other.at for one, other in pairwise(arrived))
    assert {entry.by_id for entry in arrived} == {world.people["lead"].pk}
    assert chain_holds(world)
    assert str(world.assessment().stage("excavation").gate) == "signed"
    page.goto(f"/jobs/{world.job.id}/sign-offs/?stage=excavation")
    expect(page.locator("#gate-says")).to_have_text("Signed. Go on.")
    expect(page.locator("#signal")).to_be_hidden()
