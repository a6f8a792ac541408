"""Sign-offs as a crew makes them: held, looked at, photographed, signed by two on one tablet, seen by the others."""

import contextlib
import re
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import Browser, Error, Page, Route, expect

from tests.browser.conftest import PATIENCE, see_all
from tests.conftest import World

PIN = "2580"


@pytest.fixture
def proof(field_world) -> World:
    """A job whose base is made and shot, and wants its last look."""
    from nivelum.crews.pins import set_pin

    world = field_world()
    for role in ("lead", "crew", "engineer"):
        set_pin(world.people[role], PIN)
    for stage in ("excavation", "subgrade", "base-lifts"):
        world.make(stage)
        world.sign(stage)
    world.make("base-proof")
    return world


@pytest.fixture
def photo(tmp_path) -> Path:
    file = tmp_path / "base.jpg"
    Image.effect_noise((1800, 1200), 60).convert("RGB").save(file, quality=70)
    return file


def sign_with_pin(page: Page, heading: str, name: str, pin: str) -> None:
    form = page.locator("form.signing", has_text=heading)
    form.locator("select[name=signer]").select_option(label=name)
    form.locator("[name=pin]").fill(pin)
    form.locator("button").click()


def test_a_base_is_proved_by_two_on_one_tablet_and_seen_by_a_third(proof: World, person, photo: Path) -> None:
    tablet, viewer = person(proof, "crew", has_touch=True), person(proof, "viewer")
    for page in (tablet, viewer):
        page.goto(f"/jobs/{proof.job.id}/sign-offs/?stage=base-proof")
    expect(tablet.locator("#stage")).to_contain_text("not looked at yet: 3")
    assert tablet.locator("form.signing:visible").count() == 0 and viewer.locator("#stage button").count() == 0

    # A no holds it, says why, and is put right.
    ask = tablet.locator(".ask").nth(1)
    ask.locator("summary", has_text="No, or not needed here").click()
    ask.locator("textarea").fill("loose by the drain")
    ask.locator("button[value=no]").click()
    expect(tablet.locator("#stage")).to_contain_text("no. loose by the drain")
    expect(viewer.locator("#stage")).to_contain_text("no. loose by the drain")
    see_all(tablet)

    # The photo: what is no photo is said to be none, and the caption stays.
    shot = tablet.locator(".ask", has_text="A photo of the base")
    shot.locator("summary", has_text=re.compile("^Photo$")).click()
    shot.locator("[name=caption]").fill("from the door")
    shot.locator("[name=photo]").set_input_files({"name": "x.jpg", "mimeType": "image/jpeg", "buffer": b"no photo"})
    shot.locator("button", has_text="Keep it").click()
    expect(tablet.locator("#stage")).to_contain_text("That is no photo")
    expect(shot.locator("[name=caption]")).to_have_value("from the door")
    shot.locator("[name=photo]").set_input_files(photo)
    shot.locator("button", has_text="Keep it").click()
    expect(tablet.locator("#stage")).to_contain_text("May be signed")
    expect(viewer.locator(".photos img")).to_have_attribute("alt", "from the door")

    # The lead, by PIN on the crew's tablet; then the crew's own second look.
    sign_with_pin(tablet, "The lead signs", "Lead Person, lead", "1470")
    expect(tablet.locator("#stage")).to_contain_text("Name and PIN do not fit")
    sign_with_pin(tablet, "The lead signs", "Lead Person, lead", PIN)
    expect(tablet.locator("form.signing")).to_have_count(1)
    expect(viewer.locator("#stage")).to_contain_text("Lead Person")
    second = tablet.locator("form.signing", has_text="A second pair of eyes")
    assert "Lead Person" not in second.inner_text()
    second.locator("button").click()
    expect(tablet.locator("#stage")).to_contain_text("Signed. Go on.")
    expect(viewer.locator("#stage")).to_contain_text("Signed. Go on.", timeout=6000)
    expect(viewer.locator("#company")).to_contain_text("Crew Person: Signed: Base proof")
    expect(viewer.locator("#company .sr-only")).to_contain_text("Crew Person, Viewer Person")


def test_a_later_reading_overtakes_a_sign_off_and_what_is_accepted_in_writing_is_signed_with_it(
    proof: World, person
) -> None:
    from groundwork.schools import Slot

    proof.sign("base-proof")
    proof.sign("base-proof", "crew", Slot.SECOND)
    tablet, viewer = person(proof, "crew"), person(proof, "viewer")
    for page in (tablet, viewer):
        page.goto(f"/jobs/{proof.job.id}/sign-offs/?stage=base-proof")
        expect(page.locator("#stage")).to_contain_text("Signed. Go on.")

    # A later reading overtakes it: the sign-off stays and a new one is asked for.
    proof.set_up()
    proof.shoot("A1", high_mm=30, surface="base")
    expect(viewer.locator("#course a.cracked")).to_contain_text("changed since")
    expect(tablet.locator("#stage")).to_contain_text("Changed since it was signed")
    expect(tablet.locator("#stage")).to_contain_text("1 too high, up to 30 mm")

    # It is accepted in writing, and signed again with what was accepted.
    stops = tablet.locator("#stage form[action$='/accept/']")
    for left in range(stops.count(), 0, -1):
        tablet.locator("summary", has_text="Accept it, with a reason").first.click()
        stop = stops.first
        stop.locator("[name=reason]").fill("a boulder, the bed takes it up")
        stop.locator("select[name=signer]").select_option(label="Lead Person, lead")
        stop.locator("[name=pin]").fill(PIN)
        stop.locator("button").click()
        expect(stops).to_have_count(left - 1)
    expect(tablet.locator("#stage")).to_contain_text("Accepted stop")
    sign_with_pin(tablet, "The lead signs", "Lead Person, lead", PIN)
    tablet.locator("form.signing", has_text="A second pair of eyes").locator("button").click()
    expect(tablet.locator("#stage")).to_contain_text("Signed, with what was accepted")
    expect(viewer.locator("#course .accepted")).to_contain_text("Proof")


def test_a_client_opens_a_link_and_the_record_as_pdf_until_it_is_withdrawn(
    proof: World, person, site: str, browser: Browser, tmp_path: Path
) -> None:
    lead = person(proof, "lead")
    lead.goto(f"/jobs/{proof.job.id}/record/")
    expect(lead.locator(".record")).to_contain_text("Base lifts")
    lead.click("text=Links for client and inspector")
    lead.fill("[name=label]", "The chandler")
    lead.uncheck("[name=parts][value=diary]")
    lead.click("text=Make the link")
    link = lead.locator("[readonly]").input_value()
    client = browser.new_context(viewport={"width": 390, "height": 844}).new_page()
    client.goto(link)
    expect(client.locator(".record")).to_contain_text("Excavation")
    assert "Diary" not in client.locator(".record").inner_text()
    expect(client.locator(".signed-drawing img").first).to_be_visible()
    assert client.evaluate("document.querySelector('.signed-drawing img').decode().then(() => true)")
    with client.expect_download(timeout=PATIENCE) as saved:  # made meanwhile, and saved by itself
        client.get_by_role("link", name="PDF").click()
    file = tmp_path / "record.pdf"
    saved.value.save_as(file)
    read = subprocess.run(["pdftotext", "-layout", str(file), "-"], capture_output=True, text=True, check=True).stdout
    assert "Lead Person" in read and "What was accepted" in read and "Diary" not in read
    lead.click("button:has-text('Withdraw')")
    expect(lead.locator("main")).to_contain_text("withdrawn")
    client.reload()
    expect(client.locator("h1")).to_contain_text("This link has ended")
    client.context.close()


def test_an_engineer_signs_and_accepts_through_a_link_in_a_browser_of_their_own(
    field_world, site: str, browser: Browser
) -> None:
    from nivelum.crews.pins import set_pin
    from nivelum.records.page import Part
    from nivelum.sharing.models import For
    from tests.nivelum.test_sharing import HEAVY, link

    world = field_world(job_file=HEAVY, brief_signed=False)
    set_pin(world.people["engineer"], PIN)
    world.look("brief")
    token = link(world, (Part.STAGES,), For.ENGINEER, engineer=world.people["engineer"])
    page = browser.new_context(base_url=site, viewport={"width": 390, "height": 844}).new_page()
    page.goto(f"/shared/{token}/")
    left = page.locator("form[action$='/accept/']")
    for n in range(left.count(), 0, -1):  # with the token a browser sends, and the origin it says
        left.first.locator("[name=reason]").fill("checked by calculation")
        left.first.locator("[name=pin]").fill(PIN)
        left.first.locator("button").click()
        expect(left).to_have_count(n - 1)
    world.sign("brief")
    page.reload()
    form = page.locator("form[action$='/sign/']")
    form.locator("[name=pin]").fill(PIN)
    form.locator("button").click()
    expect(page.locator("main")).to_contain_text("Nothing just now.")
    assert world.assessment().stages.of("brief").gate.is_signed
    page.context.close()


@pytest.fixture
def second_process(site: str) -> str:
    """Another application process on the same database."""
    import os
    import socket

    from django.db import connection

    where = connection.settings_dict
    address = f"postgres://{where['USER']}:{where['PASSWORD']}@{where['HOST']}:{where['PORT']}/{where['NAME']}"
    with socket.socket() as door:
        door.bind(("127.0.0.1", 0))
        port = door.getsockname()[1]
    served = ["nivelum.manage", "serve", "--port", str(port), "--log-level", "error"]
    hashers = {"DATABASE_URL": address}
    running = subprocess.Popen([sys.executable, "-m", *served], env=os.environ | hashers)
    try:
        ends = time.monotonic() + PATIENCE / 1000
        while time.monotonic() < ends:
            with socket.socket() as knock:
                if knock.connect_ex(("127.0.0.1", port)) == 0:
                    break
            time.sleep(0.1)
        yield f"http://127.0.0.1:{port}"
    finally:
        running.terminate()
        running.wait(PATIENCE / 1000)


def test_an_entry_through_one_process_appears_live_through_another(
    field_world, person, second_process: str, browser: Browser
) -> None:
    world = field_world()
    here = person(world, "crew")
    there = browser.new_context(base_url=second_process).new_page()
    there.context.add_cookies([cookie | {"url": second_process} for cookie in _session(world)])
    there.goto(f"/jobs/{world.job.id}/sign-offs/?stage=excavation")
    here.goto(f"/jobs/{world.job.id}/sign-offs/?stage=excavation")
    expect(there.locator("#stage")).to_contain_text("Ready to check")
    expect(there.locator("#company .sr-only")).to_contain_text("Crew Person, Lead Person")
    here.locator("button[value=yes]").first.click()
    expect(there.locator("#stage")).to_contain_text("Crew Person", timeout=6000)
    there.locator("button[value=yes]").first.click()
    expect(here.locator("#stage")).to_contain_text("Lead Person", timeout=6000)
    there.context.close()


def test_who_came_stays_on_the_line_when_an_older_answer_arrives_after(field_world, person) -> None:
    world = field_world()
    slow = person(world, "crew")
    held: list[Route] = []
    slow.route("**/company/", lambda route: held.append(route))
    slow.goto(f"/jobs/{world.job.id}/sign-offs/?stage=excavation")
    while not held:
        slow.wait_for_timeout(20)
    answer = held[0].fetch()  # looked up before anybody else was here, and still on its way when they come
    assert "Crew Person, Lead" not in answer.text()
    person(world, "lead").goto(f"/jobs/{world.job.id}/sign-offs/?stage=excavation")
    line = slow.locator("#company .sr-only")
    expect(line).to_contain_text("Crew Person, Lead Person")
    with contextlib.suppress(Error):  # it may have been let go by then
        held[0].fulfill(response=answer)
    slow.wait_for_timeout(300)
    expect(line).to_contain_text("Crew Person, Lead Person")


def _session(world: World) -> list[dict]:
    """The lead's session as a cookie: the other process hashes passwords as they are hashed outside of tests."""
    client = world.client("lead")
    return [{"name": "sessionid", "value": client.cookies["sessionid"].value}]


def test_a_lost_connection_says_so_and_heals_itself(field_world, person) -> None:
    world = field_world()
    page = person(world, "crew")
    page.goto(f"/jobs/{world.job.id}/sign-offs/?stage=excavation")
    expect(page.locator("#company .sr-only")).to_contain_text("Crew Person")
    page.context.set_offline(True)
    page.evaluate("dispatchEvent(new Event('offline'))")
    world.look("excavation", "lead")
    expect(page.locator("#signal")).to_contain_text("No signal.")
    page.context.set_offline(False)
    expect(page.locator("#stage")).to_contain_text("Lead Person")
    expect(page.locator("#signal")).to_be_hidden()
    expect(page.locator("#told")).to_be_empty()
