"""Behind the building, where there is no signal: the job goes on, and everything arrives once when it is back. The
wire between browser and server is really cut."""

import json
import re
import shutil
import time
import uuid
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import BrowserContext, Dialog, Error, Page, Playwright, expect

from groundwork.record import first_fault
from tests.browser.conftest import BROWSER, CHROMIUM, PATIENCE, sign_in
from tests.browser.test_screens import AXE, SIZES, STATIONS
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
        self.asked: list[str] = []
        self.context: BrowserContext | None = None

    def open(self, **options) -> Page:
        usual = {"viewport": {"width": 1280, "height": 800}, "base_url": self.wire.address}
        self.context = self._playwright.chromium.launch_persistent_context(
            str(self._folder), executable_path=shutil.which(BROWSER), args=CHROMIUM, **usual | options
        )
        self.context.set_default_timeout(PATIENCE)
        page = self.context.pages[0]
        page.on("pageerror", lambda error: self._errors.append(str(error)))
        page.on("dialog", self._asked)
        return page

    def _asked(self, dialog: Dialog) -> None:
        self.asked.append(dialog.message)
        dialog.accept()

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
    count = """() => new Promise((done) => { const asked = indexedDB.open("nivelum"); asked.onsuccess = () => {
      const all = asked.result.transaction("sheets").objectStore("sheets").count();
      all.onsuccess = () => { asked.result.close(); done(all.result); };
    }; })"""
    ends = time.monotonic() + PATIENCE / 1000
    while not page.evaluate(count):
        assert time.monotonic() < ends, "the sheet does not come"
        page.wait_for_timeout(100)


def read(page: Page, low_mm: int = 0) -> str:
    """Reads what the rod should read where the pad stands, so much more; the pad goes on."""
    page.wait_for_function("""() => {
      const asked = new URLSearchParams(location.search).get("station");
      return !asked || document.querySelector("#pad input[name=station]").value === asked;
    }""")  # a page kept for another station goes to the one asked for
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
    from groundwork.layerwork import MachineBrought
    from groundwork.tools import Machine, MachineKind

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
    in_sight = [name for name, _x, _y, is_inside in page.evaluate(STATIONS) if is_inside]
    assert page.locator("#here").input_value() in in_sight  # the plan follows without a signal too
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
    assert str(world.assessment().stages.of("excavation").gate) == "signed"
    page.goto(f"/jobs/{world.job.id}/sign-offs/?stage=excavation")
    expect(page.locator("#gate-says")).to_have_text("Signed. Go on.")
    expect(page.locator("#signal")).to_be_hidden()


# --- what has come between ---


@pytest.fixture
def away(field_world, device, wire: Wire) -> Callable[..., tuple[World, Page]]:
    """Somebody on a page of a job, the level set up, whose signal then goes."""

    def go(role: str = "lead", path: str = "ground/?surface=formation&station=A1", shot: bool = False, **options):
        world: World = field_world()
        if shot:
            world.shoot_all()
        else:
            world.set_up()
        page = device().open(**options)
        sign_in(page, world, role)
        page.goto(f"/jobs/{world.job.id}/{path}")
        has_sheet(page)
        wire.cut()
        return world, page

    return go


def keep_reading(page: Page) -> None:
    """A reading made where the signal has just gone."""
    target = int(page.locator("#target").inner_text())
    page.locator("#entry").fill(str(target))
    page.keyboard.press("Enter")
    waits(page, 1)


def thin(page: Page) -> None:
    """A signal that lets pages through and nothing that is sent, until the next page."""
    page.evaluate(
        """() => { const whole = window.fetch; window.fetch = (to, how) => how?.method === "POST"
        ? Promise.reject(new TypeError("too thin")) : whole(to, how); }"""
    )


def mend(page: Page, wire: Wire) -> None:
    """The signal is back, and the device notices at once."""
    wire.mend()
    page.evaluate("dispatchEvent(new Event('online'))")


def deal_with(page: Page, wire: Wire) -> None:
    """The signal is back, something was refused, and one goes to see."""
    mend(page, wire)
    page.locator("#signal a.refused").click()
    expect(page.locator("#waiting .refused")).to_have_count(1)


def test_the_keys_are_listed_where_there_is_no_signal(field_world, device, wire: Wire) -> None:
    world, page = field_world(), device().open()
    sign_in(page, world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/")
    while not page.evaluate("caches.match('/help/keys/', {ignoreVary: true}).then(Boolean)"):
        page.wait_for_timeout(200)
    wire.cut()
    page.locator("#main").focus()
    page.keyboard.press("?")
    expect(page.locator("#keys")).to_contain_text("closes what hangs open")
    page.keyboard.press("Escape")
    expect(page.locator("#keys")).to_be_hidden()


def test_a_set_up_struck_meanwhile_is_said_and_the_reading_sent_for_the_one_that_stands(away, wire: Wire) -> None:
    from groundwork.entries import Strike

    world, page = away("crew")
    keep_reading(page)
    struck = world.assessment().levels.set_up.id
    world.record(Strike(str(uuid.uuid4()), struck), "lead")
    anew = world.set_up("1310")
    deal_with(page, wire)
    refused = page.locator("#waiting .refused")
    expect(refused).to_contain_text("Reading at A1, Formation")
    expect(refused).to_contain_text("That set-up no longer counts")
    expect(refused.locator("a", has_text="Shoot A1 again")).to_be_visible()
    assert world.assessment().surveys.ground["A1"].judgement.shots == 0
    refused.locator("button", has_text="It was read from the set-up that stands now").click()
    expect(page.locator("#nothing-waits")).to_be_visible()
    assert [r.set_up for r in world.assessment().readings.at("A1")] == [str(anew.id)]


def test_a_design_changed_meanwhile_is_said_and_its_maker_decides(away, wire: Wire) -> None:
    from tests.nivelum.test_outbox import redesign

    world, page = away()
    keep_reading(page)
    redesign(world, thickness=0.2)
    deal_with(page, wire)
    refused = page.locator("#waiting .refused")
    expect(refused).to_contain_text("The design was changed meanwhile (version 2, this was made by version 1).")
    expect(refused).to_contain_text("At A1 the design lies 50 mm lower now than when this was read.")
    refused.locator("button", has_text="It stands: judge it by the design as it is now").click()
    expect(page.locator("#nothing-waits")).to_be_visible()
    assert world.assessment().surveys.ground["A1"].judgement.action.text(world.crew.unit) == "dig 50 mm"


def test_what_waits_said_anew_under_a_thumb_keeps_its_press(away, wire: Wire) -> None:
    _world, page = away("crew")
    keep_reading(page)
    link = page.locator("#signal a", has_text="1 waits")
    at = link.bounding_box()
    assert at
    page.mouse.move(at["x"] + at["width"] / 2, at["y"] + at["height"] / 2)
    page.mouse.down()
    mend(page, wire)
    page.wait_for_timeout(500)
    page.mouse.up()
    expect(page).to_have_url(re.compile("/waiting/$"))


def test_a_stage_signed_by_someone_else_meanwhile_is_said_and_not_signed_twice(away, wire: Wire) -> None:
    world, page = away("lead", "sign-offs/?stage=excavation", shot=True)
    page.locator("form.signing:visible button.press").click()
    expect(page.locator("#gate-says")).to_have_text("Signed here, provisional")
    expect(page.locator("#signal")).to_contain_text("1 waits to be sent")
    world.sign("excavation", "engineer")
    deal_with(page, wire)
    refused = page.locator("#waiting .refused")
    expect(refused).to_contain_text("Engineer Person has signed this stage already.")
    page.goto(f"/jobs/{world.job.id}/sign-offs/?stage=excavation")
    expect(page.locator("#course .provisional")).to_contain_text("your signature was refused")
    page.goto("/waiting/")
    refused.locator("button", has_text="Leave it out").click()
    expect(page.locator("#nothing-waits")).to_be_visible()
    assert [s.by for s in world.assessment().stages.of("excavation").signed.values()] == ["Engineer Person"]


def test_what_others_recorded_meanwhile_makes_a_signer_look_again(away, wire: Wire) -> None:
    from tests.nivelum.test_outbox import again

    world, page = away("lead", "sign-offs/?stage=excavation", shot=True)
    page.locator("form.signing:visible button.press").click()
    expect(page.locator("#signal")).to_contain_text("1 waits to be sent")
    again(world, "crew", 0.005)
    deal_with(page, wire)
    refused = page.locator("#waiting .refused")
    expect(refused).to_contain_text("Something was recorded since you opened this page.")
    refused.locator("a", has_text="Look at the stage as it stands, then sign it").click()
    expect(page.locator("#gate-says")).to_have_text("May be signed")
    expect(page.locator(".waits-here .refused")).to_be_visible()


def test_a_role_withdrawn_meanwhile_is_said_and_nothing_is_lost(away, wire: Wire) -> None:
    world, page = away("crew")
    keep_reading(page)
    membership = world.crew.memberships.get(person=world.people["crew"])
    membership.role = "viewer"
    membership.save()
    deal_with(page, wire)
    refused = page.locator("#waiting .refused")
    expect(refused).to_contain_text("Your role at this job does not let you record this any more.")
    with page.expect_download(timeout=PATIENCE) as saving:
        refused.locator("button", has_text="Save as a file").click()
    saved = json.loads(Path(saving.value.path()).read_text(encoding="utf-8"))
    assert saved["entries"][0]["what"] == "Reading at A1, Formation"
    assert ["station", "A1"] in saved["entries"][0]["fields"]
    membership.role = "crew"
    membership.save()
    refused.locator("button", has_text="Send it again, once the lead has let you").click()
    expect(page.locator("#nothing-waits")).to_be_visible()
    assert world.assessment().surveys.ground["A1"].judgement.shots == 1


def test_a_verdict_that_is_not_what_one_was_told_is_said(away, wire: Wire) -> None:
    world, page = away("crew")
    target = int(page.locator("#target").inner_text())
    page.locator("#entry").fill(str(target))
    expect(page.locator("#foretold")).to_have_text("good")
    page.keyboard.press("Enter")
    waits(page, 1)
    world.shoot("A1", -60)  # somebody else: over-dug before, so what filled it?
    mend(page, wire)
    page.locator("#signal a.refused").click()
    differs = page.locator("#waiting .differs")
    expect(differs).to_contain_text("Here it said “good”; by everything recorded since, it is “came up 60 mm")
    differs.locator("button", has_text="Seen").click()
    expect(page.locator("#nothing-waits")).to_be_visible()


def test_what_hangs_on_something_refused_waits_for_it(away, wire: Wire) -> None:
    from groundwork.entries import Disturbance

    world, page = away("crew")
    page.locator("nav a", has_text="Level moved: set up again").click()
    page.locator("#pad [name=mark][value=sill]").check()
    set_up(page, "1250")
    read(page)
    waits(page, 2)
    world.record(Disturbance(str(uuid.uuid4()), "sill"), "lead")
    deal_with(page, wire)
    expect(page.locator("#waiting .refused")).to_contain_text("The level of sill is not known, or it was knocked")
    expect(page.locator("#waiting > .waiting")).to_contain_text("Waits until this is dealt with: Level set up")
    for left in (1, 0):
        page.locator("#waiting > li").first.locator("button", has_text="Leave it out").click()
        expect(page.locator("#waiting > li")).to_have_count(left)
        if left:
            page.locator("#send-now").click()
            expect(page.locator("#waiting .refused")).to_contain_text("That set-up no longer counts")
    assert world.assessment().surveys.ground["A1"].judgement.shots == 0


# --- the device itself ---


def test_nobody_elses_session_opens_or_sends_what_waits(away, wire: Wire) -> None:
    world, page = away("crew")
    thin(page)  # first, so that nothing is on its way when the signal comes back
    keep_reading(page)
    before = entries(world, 0)[-1].number
    page.locator("header summary").click()
    page.locator("[data-signs-out] button").click()
    expect(page.locator("#told")).to_contain_text("That needs a signal")
    wire.mend()
    page.locator("[data-signs-out] button").click()
    page.wait_for_selector("[name=login]")
    sign_in(page, world, "lead")
    page.goto("/waiting/")
    expect(page.locator("#device-says")).to_contain_text("1 entry of Crew Person waits here too")
    expect(page.locator("#waiting > li")).to_have_count(0)
    page.goto(f"/jobs/{world.job.id}/ground/")
    page.wait_for_timeout(6000)
    assert len(entries(world, before)) == 0
    page.locator("header summary").click()
    page.locator("[data-signs-out] button").click()
    page.wait_for_selector("[name=login]")
    sign_in(page, world, "crew")
    page.goto("/waiting/")
    expect(page.locator("#nothing-waits")).to_be_visible()
    assert [entry.by_name for entry in entries(world, before)] == ["Crew Person"]


def test_signing_out_with_something_waiting_warns_and_keeps_it(field_world, device, wire: Wire) -> None:
    world, phone = field_world(), device()
    world.set_up()
    page = phone.open()
    sign_in(page, world, "crew")
    page.goto(f"/jobs/{world.job.id}/ground/?station=A1")
    thin(page)  # first, so that nothing is on its way when the signal comes back
    wire.cut()
    keep_reading(page)
    wire.mend()
    page.locator("header summary").click()
    page.locator("[data-signs-out] button").click()
    page.wait_for_selector("[name=login]")
    assert phone.asked == [
        "1 entry waits to be sent. It stays on this device, closed to others, and is sent when you sign in here "
        "again. Sign out?"
    ]
    sign_in(page, world, "crew")
    page.goto("/waiting/")
    expect(page.locator("#nothing-waits")).to_be_visible()
    assert world.assessment().surveys.ground["A1"].judgement.shots == 1


def test_pages_of_one_person_are_not_shown_to_the_next(with_machine: World, device, wire: Wire) -> None:
    world, page = with_machine, device().open()
    sign_in(page, world, "lead")
    take_along(page, world)
    page.locator("header summary").click()
    page.locator("[data-signs-out] button").click()
    page.wait_for_selector("[name=login]")
    wire.cut()
    for address in (f"/jobs/{world.job.id}/ground/", "/waiting/", "/"):
        with pytest.raises(Error):
            page.goto(address)


def test_a_full_device_says_so_and_keeps_what_is_typed(away, wire: Wire) -> None:
    _world, page = away("crew")
    full = "throw new DOMException('full', 'QuotaExceededError')"
    page.evaluate(f"() => {{ IDBObjectStore.prototype.put = () => {{ {full} }} }}")
    target = page.locator("#target").inner_text()
    page.locator("#entry").fill(target)
    page.keyboard.press("Enter")
    expect(page.locator("#told")).not_to_be_empty()
    assert page.locator("#entry").input_value() == target
    wire.mend()
    page.keyboard.press("Enter")
    expect(page.locator("#pad .verdict")).to_contain_text("A1: good")


def test_a_browser_that_keeps_nothing_says_so(field_world, person) -> None:
    world = field_world()
    page = person(world, "crew")  # its workers are blocked, as in some private windows
    page.goto("/waiting/")
    expect(page.locator("#device-says")).to_contain_text("keeps no pages, as in some private windows")
    page.add_init_script("IDBFactory.prototype.open = () => { throw new DOMException('no', 'SecurityError') }")
    page.reload()
    expect(page.locator("#device-says")).to_contain_text("keeps nothing here, as in some private windows")


def test_a_clock_that_is_a_day_wrong_is_said_and_the_servers_time_stands(field_world, person) -> None:
    world: World = field_world()
    world.set_up()
    page = person(world, "crew")
    page.clock.set_system_time(datetime.now(UTC) + timedelta(days=1))
    page.goto(f"/jobs/{world.job.id}/ground/?station=A1")
    expect(page.locator("#signal")).to_contain_text("This device’s clock is 24 hours ahead")
    page.locator("#entry").fill(page.locator("#target").inner_text())
    page.keyboard.press("Enter")
    expect(page.locator("#pad .verdict")).to_contain_text("A1: good")
    newest = entries(world, 0)[-1]
    assert abs(newest.device_at - newest.at - timedelta(days=1)) < timedelta(minutes=5)
    assert abs(newest.at - datetime.now(UTC)) < timedelta(minutes=5)


@pytest.mark.parametrize("size", ["desk", "phone"])
def test_axe_finds_no_serious_fault_without_a_signal(with_machine: World, device, wire: Wire, size: str) -> None:
    """What waits, what was refused and what is only provisional, and the pad that judges by itself."""
    from groundwork.entries import Strike

    world, (width, height) = with_machine, SIZES[size]
    struck = world.set_up()
    page = device().open(viewport={"width": width, "height": height})
    sign_in(page, world, "lead")
    take_along(page, world)
    has_sheet(page)
    wire.cut()
    page.goto(f"/jobs/{world.job.id}/ground/?surface=formation&station=A1")
    for low in (0, -40, 60):
        read(page, low)
    axe(page, width)
    page.locator("#pad .hand summary").click()
    page.locator("#pad button", has_text="Set up anew").click()
    axe(page, width)
    page.goto(f"/jobs/{world.job.id}/sign-offs/?stage=excavation")
    page.locator("form.signing:visible button.press").click()
    expect(page.locator("#gate-says")).to_have_text("Signed here, provisional")
    axe(page, width)
    for place in ("lifts/?lift=base.1", "set-out/"):
        page.goto(f"/jobs/{world.job.id}/{place}")
        axe(page, width)
    page.goto("/")
    expect(page.locator(".waits-job")).to_contain_text("4 wait")
    axe(page, width)
    world.record(Strike(str(uuid.uuid4()), str(struck.id)), "lead")
    wire.mend()
    page.goto("/waiting/")
    expect(page.locator("#waiting .refused")).to_have_count(3)
    axe(page, width)


def axe(page: Page, width: int) -> None:
    page.evaluate(AXE)
    found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
    serious = [(v["id"], [n["html"][:120] for n in v["nodes"]][:3]) for v in found["violations"]
               if v["impact"] in ("serious", "critical")]  # fmt: skip
    assert serious == [], page.url
    assert page.evaluate("document.documentElement.scrollWidth") <= width, page.url


def kept(page: Page) -> dict[str, int]:
    """How many files and pages the worker keeps."""
    return page.evaluate("""async () => Object.fromEntries(await Promise.all((await caches.keys())
        .map(async (name) => [name, (await (await caches.open(name)).keys()).length])))""")


def settled(page: Page, wire: Wire, **at_least: int) -> int:
    """What has come over the wire once so much is kept and nothing comes any more."""
    came, ends = -1, time.monotonic() + 2 * PATIENCE / 1000
    while came != wire.came or any(kept(page).get(name, 0) < n for name, n in at_least.items()):
        assert time.monotonic() < ends, f"{kept(page)} is kept"
        came = wire.came
        page.wait_for_timeout(3500)
    return came


def test_a_first_load_is_light_with_the_worker_too(with_machine: World, device, wire: Wire) -> None:
    """Over the wire: the page with its scripts and font, the worker with the files it keeps, what travels with the
    job. Then the page once more; and the rooms that are kept a while after a job was opened, by themselves."""
    world = with_machine
    world.set_up()
    page = device().open()
    session = world.client("crew").cookies["sessionid"].value
    page.context.add_cookies([{"name": "sessionid", "value": session, "url": wire.address}])
    page.route("**/rooms.json", lambda route: route.abort())
    page.goto(f"/jobs/{world.job.id}/ground/")
    first = settled(page, wire, files=9)
    assert 100_000 < first <= 200_000
    page.reload()
    again = settled(page, wire)
    assert again - first <= 30_000
    page.unroute("**/rooms.json")
    page.reload()
    assert 30_000 < settled(page, wire) - again <= 120_000


def test_a_phone_may_install_it(site: str, with_machine: World, device) -> None:
    """What Chromium itself asks of an application before it offers to install it."""
    page = device().open()
    sign_in(page, with_machine, "crew")
    asked = page.context.new_cdp_session(page)
    assert asked.send("Page.getAppManifest")["errors"] == []
    assert asked.send("Page.getInstallabilityErrors")["installabilityErrors"] == []
