"""A slow phone: a processor four times slower, a mobile line of 1.6 Mbit/s with 150 ms there and back. How long from
opening Ground until what one types is answered, with nothing kept yet and with everything kept; how far the page
shifts meanwhile. Started by `bin/bench phone`; fails where one is over what is held."""

import os
import shutil
import statistics
import sys
import tempfile
import time

import django
from playwright.sync_api import BrowserContext, Page, Playwright, sync_playwright

from tests.browser.conftest import BROWSER, CHROMIUM
from tests.serving import Process

SLOWER = 4
LINE = {"offline": False, "latency": 150, "downloadThroughput": 1.6e6 / 8, "uploadThroughput": 0.75e6 / 8}
ROUNDS = 5
NEW, AGAIN, SHIFT = 2.6, 1.5, 0.05
"""s with nothing kept, s with everything kept, cumulative layout shift: what is held."""
SHIFTS = """() => new Promise((done) => {
  let sum = 0;
  new PerformanceObserver((list) => { for (const e of list.getEntries()) if (!e.hadRecentInput) sum += e.value; })
    .observe({ type: "layout-shift", buffered: true });
  setTimeout(() => done(sum), 300);
})"""


def slowed(page: Page) -> None:
    session = page.context.new_cdp_session(page)
    session.send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
    session.send("Network.enable")
    session.send("Network.emulateNetworkConditions", LINE)


def opened(page: Page, address: str) -> tuple[float, float]:
    """Seconds until what is typed is answered, from the press that opens the page; and how far the page shifted."""
    begun = time.monotonic()
    page.goto(address, wait_until="commit")
    page.wait_for_selector("#target")
    target = int(page.locator("#target").inner_text())
    page.wait_for_function(
        """(typed) => { const entry = document.getElementById("entry"), says = document.getElementById("foretold");
        if (!entry || !says) return false;
        if (entry.value !== typed) entry.value = typed;
        entry.dispatchEvent(new Event("input", { bubbles: true }));
        return says.textContent.includes("dig"); }""",
        arg=str(target - 34),
    )
    return time.monotonic() - begun, page.evaluate(SHIFTS)


def device(playwright: Playwright, server: Process, session: str) -> BrowserContext:
    folder = tempfile.mkdtemp(dir=os.environ["NIVELUM_VAR"])
    address = f"http://127.0.0.1:{server.port}"
    context = playwright.chromium.launch_persistent_context(
        folder, executable_path=shutil.which(BROWSER), args=CHROMIUM, base_url=address, has_touch=True,
        viewport={"width": 390, "height": 844}, is_mobile=True, device_scale_factor=2,
    )  # fmt: skip
    context.set_default_timeout(60_000)
    context.add_cookies([{"name": "sessionid", "value": session, "url": address}])
    return context


def main() -> int:
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    django.setup()
    from django.core.management import call_command

    from tests.conftest import make_world

    call_command("migrate", verbosity=0)
    server = Process()
    world = make_world()
    world.set_up()
    where = f"/jobs/{world.job.id}/ground/?station=A1"
    times: dict[str, list[float]] = {"new": [], "again": []}
    shifts = []
    with sync_playwright() as playwright:
        for _round in range(ROUNDS):
            context = device(playwright, server, world.client("crew").cookies["sessionid"].value)
            for how, taken in times.items():
                page = context.new_page()
                slowed(page)
                took, shifted = opened(page, where)
                taken.append(took)
                shifts.append(shifted)
                if how == "new":  # what is kept a while after a job was opened
                    page.wait_for_timeout(12_000)
                page.close()
            context.close()
    server.kill()
    new, again, shift = statistics.median(times["new"]), statistics.median(times["again"]), max(shifts)
    print(f"a verdict on a slow phone: {new:.2f} s new (to hold: {NEW}), {again:.2f} s again (to hold: {AGAIN});")
    print(f"the page shifts by {shift:.3f} at most (to hold: {SHIFT})")
    return 0 if new <= NEW and again <= AGAIN and shift <= SHIFT else 1


if __name__ == "__main__":
    sys.exit(main())
