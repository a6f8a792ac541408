"""A device whose signal comes and goes, counted: the server killed in mid-request while it sends, answers lost on
their way back, the same batch sent by two tabs at once, and a batch sent in no order. Prints the counts; fails unless
every entry is in the record once and the chain is unbroken. Started by `bin/adrift`, which gives it a cluster of its
own."""

import concurrent.futures
import json
import logging
import os
import random
import shutil
import sys
import tempfile
import threading
import time
import uuid
from collections.abc import Callable
from itertools import pairwise

import django
from playwright.sync_api import BrowserContext, Page, Playwright, expect, sync_playwright

from tests.browser.conftest import BROWSER, CHROMIUM
from tests.serving import Process
from tests.wire import Wire

KILLS = 20

KEPT = """() => new Promise((done) => { const asked = indexedDB.open("nivelum"); asked.onsuccess = () => {
  const all = asked.result.transaction("outbox").objectStore("outbox").getAll();
  all.onsuccess = () => { asked.result.close(); done(all.result.map((entry) => [entry.id, entry.state, entry.action,
    entry.fields])); };
}; })"""
"""What stands in the outbox of a page."""
NO_LOCKS = "navigator.locks.request = (name, options, act) => act({ name })"
"""As in a browser that lets two tabs send at once."""


def browser(playwright: Playwright, address: str) -> BrowserContext:
    context = playwright.chromium.launch_persistent_context(
        tempfile.mkdtemp(dir=os.environ["NIVELUM_VAR"]), executable_path=shutil.which(BROWSER), args=CHROMIUM,
        base_url=address, viewport={"width": 390, "height": 844},
    )  # fmt: skip
    context.set_default_timeout(60_000)
    return context


def arrive(context: BrowserContext, world, role: str) -> Page:
    """Somebody signs in, and takes the job along."""
    page = context.pages[0]
    page.goto("/")
    page.fill("[name=login]", world.people[role].username)
    page.fill("[name=password]", "limestone")
    page.keyboard.press("Enter")
    page.wait_for_selector("#jobs")
    page.goto(f"/jobs/{world.job.id}/ground/")
    page.locator("header summary").click()
    page.locator("[data-take]").click()
    expect(page.locator("[data-take]")).to_contain_text("Taken with you", timeout=60_000)
    page.wait_for_timeout(2500)
    return page


def read(page: Page, world, surfaces: list[str], most: int) -> None:
    """Reads stations of some surfaces where there is no signal."""
    left = most
    for surface in surfaces:
        page.goto(f"/jobs/{world.job.id}/ground/?surface={surface}")
        page.wait_for_selector("#pad[data-away]")
        for _station in range(min(left, page.locator("#plan [data-station]").count())):
            station = page.locator("#pad input[name=station]").first.input_value()
            page.locator("#entry").fill(str(int(page.locator("#target").inner_text()) + random.randint(-3, 3)))
            page.keyboard.press("Enter")
            expect(page.locator("#pad .verdict [data-fill=told]")).to_contain_text(f"{station}: ")
            left -= 1
        if not left:
            break
    page.goto("/waiting/")
    page.wait_for_selector("#waiting > li")


def wake(page: Page) -> None:
    """The device notices that there is a signal."""
    page.evaluate("dispatchEvent(new Event('online'))")


def sent_all(page: Page) -> bool:
    return not page.evaluate(KEPT)


def drained(page: Page, seconds: float = 90) -> None:
    ends = time.monotonic() + seconds
    while not sent_all(page):
        if time.monotonic() > ends:
            raise RuntimeError(f"not all was sent: {page.evaluate(KEPT)[:3]}")
        wake(page)
        page.wait_for_timeout(300)


class Count:
    """What came of a trial: what was made, and what of it is in the record how often."""

    def __init__(self, world, name: str, made: list[str]) -> None:
        from groundwork.record import first_fault
        from nivelum.exchange.services import record_data

        record = record_data(world.job)
        self.there = [entry["id"] for entry in record["entries"]]
        order = [name for name in self.there if name in set(made)]
        self.wrong = [each for each in made if self.there.count(each) != 1]
        fault = first_fault(record["entries"], record["head"])
        self.in_order = order == made
        own = [e for e in record["entries"] if e["id"] in set(made) and e["device_at"]]
        self.times = all(one["device_at"] <= other["device_at"] for one, other in pairwise(own))
        print(f"{name}: made {len(made)}, there once {len(made) - len(self.wrong)}, not once {len(self.wrong)}, "
              f"in order {self.in_order}, chain {'unbroken' if fault is None else fault}", flush=True)  # fmt: skip
        self.right = not self.wrong and fault is None


def killed(playwright: Playwright, world, server: Process) -> bool:
    """The server killed at random moments while a device sends."""
    context = browser(playwright, f"http://127.0.0.1:{server.port}")
    page = arrive(context, world, "crew")
    server.kill()
    read(page, world, ["formation", "base.1", "base", "finished", "bedding"], 150)
    made = [entry[0] for entry in page.evaluate(KEPT)]
    broken = {"in the middle": 0, "between": 0}
    posts: list[str] = []
    page.on("request", lambda request: request.method == "POST" and posts.append("sent"))
    page.on("requestfailed", lambda request: request.method == "POST" and posts.append("failed"))
    waits = []
    for _kill in range(KILLS):
        server.start()
        page.evaluate(f"fetch('/jobs/{world.job.id}/ground/sheet.json').then((answer) => answer.text())")  # warm
        posts.clear()
        wake(page)
        ends = time.monotonic() + 10
        while "sent" not in posts and time.monotonic() < ends:
            page.wait_for_timeout(5)
        page.wait_for_timeout(random.uniform(0, 600))
        server.kill()
        page.wait_for_timeout(200)
        broken["in the middle" if "failed" in posts else "between"] += 1
        waits.append(len(page.evaluate(KEPT)))
        if sent_all(page):
            print("everything was sent before the last kill", flush=True)
            break
    server.start()
    drained(page)
    context.close()
    print(f"killed {sum(broken.values())} times, {broken['in the middle']} in the middle of a request; "
          f"still waiting after each: {waits}", flush=True)  # fmt: skip
    count = Count(world, "killed", made)
    return count.right and count.in_order and count.times and sum(broken.values()) == KILLS


def answers_lost(playwright: Playwright, world, server: Process) -> bool:
    """What is sent arrives, and the answer does not: half the time."""
    wire = Wire(server.port)
    context = browser(playwright, wire.address)
    page = arrive(context, world, "engineer")
    wire.cut()
    read(page, world, ["formation"], 30)
    made = [entry[0] for entry in page.evaluate(KEPT)]
    lost: list[int] = []
    page.on("requestfailed", lambda request: request.method == "POST" and lost.append(1))
    over = threading.Event()

    def now_and_then() -> None:
        while not over.wait(0.07):
            wire.deaf = random.random() < 0.5

    threading.Thread(target=now_and_then, daemon=True).start()
    wire.whole = True
    drained(page)
    over.set()
    wire.mend()
    context.close()
    wire.close()
    print(f"answers lost {len(lost)}", flush=True)
    count = Count(world, "answers lost", made)
    return count.right and count.in_order and count.times and len(lost) > 3


def two_tabs(playwright: Playwright, world, server: Process) -> bool:
    """The same outbox sent by two tabs at once, in a browser whose tabs do not wait for each other."""
    wire = Wire(server.port)
    context = browser(playwright, wire.address)
    context.add_init_script(NO_LOCKS)
    page = arrive(context, world, "lead")
    wire.cut()
    read(page, world, ["formation"], 30)
    other = context.new_page()
    other.goto("/waiting/")
    made = [entry[0] for entry in page.evaluate(KEPT)]
    sent: list[str] = []
    for tab in (page, other):
        tab.on("request", lambda request: request.method == "POST" and sent.append(request.url))
    wire.mend()
    for tab in (page, other):
        wake(tab)
    drained(other)
    page.wait_for_timeout(1000)
    context.close()
    wire.close()
    print(f"sends by two tabs {len(sent)} of {len(made)} entries", flush=True)
    count = Count(world, "two tabs", made)
    return count.right and len(sent) > len(made)


def reordered(world) -> bool:
    """A batch with a set-up, readings against it and strikes of some, sent by four at once in no order, each twice,
    and again as long as it is refused for what is not there yet."""
    from django.test import Client

    assessment = world.assessment()
    set_up = str(uuid.uuid4())
    base = f"/jobs/{world.job.id}/ground/"
    batch: list[tuple[str, dict[str, str]]] = [
        (f"{base}set-up/", {"entry_id": set_up, "mark": "sill", "backsight": "1300", "station": "A1"})
    ]
    for n, station in enumerate(assessment.surveys.ground):
        name, typed = str(uuid.uuid4()), f"{1500 + n}"
        fields = {"entry_id": name, "station": station, "set_up": set_up, "reading": typed, "sure": typed}
        batch.append((f"{base}readings/", fields))
        if n % 5 == 0:
            batch.append((f"{base}strikes/", {"entry_id": str(uuid.uuid4()), "strikes": name, "station": station}))
    made = [fields["entry_id"] for _path, fields in batch]
    left, refused, rounds = batch * 2, 0, 0

    def is_written(each: tuple[str, dict[str, str]]) -> bool:
        client = Client(headers={"Accept": "application/json", "Host": "127.0.0.1"})
        client.force_login(world.people["crew"], backend="django.contrib.auth.backends.ModelBackend")
        return json.loads(client.post(each[0], each[1]).content).get("written") == each[1]["entry_id"]

    with concurrent.futures.ThreadPoolExecutor(4) as pool:
        while left and rounds < 50:
            random.shuffle(left)
            written = list(pool.map(is_written, left))
            left = [each for each, there in zip(left, written, strict=True) if not there]
            refused, rounds = refused + len(left), rounds + 1
    print(f"sent in no order, each twice, {rounds} rounds, refused for now {refused}", flush=True)
    return not left and Count(world, "reordered", made).right


def main() -> int:
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    django.setup()
    logging.disable()
    from django.core.management import call_command

    from tests.browser.test_no_signal import CLOSE_PAD
    from tests.conftest import make_world

    call_command("migrate", verbosity=0)
    server = Process()

    def fresh():
        world = make_world(job_file=CLOSE_PAD)
        world.set_up()
        return world

    trials: list[Callable[..., bool]] = [killed, answers_lost, two_tabs]
    came = []
    with sync_playwright() as playwright:
        for trial in trials:
            came.append(trial(playwright, fresh(), server))
    came.append(reordered(fresh()))
    server.kill()
    print(f"{sum(came)} passed, {len(came) - sum(came)} failed")
    return 0 if all(came) else 1


if __name__ == "__main__":
    sys.exit(main())
