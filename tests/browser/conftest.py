"""The application as it is served, on a real socket, and Debian's Chromium looking at it."""

import os
import shutil
import socket
import threading
import time
from collections.abc import Callable, Iterator

import pytest
import uvicorn
from playwright.sync_api import Page, Playwright, expect

from tests.conftest import PASSWORD, World, make_world

# Playwright keeps an event loop running in the tests' own thread; the database calls in fixtures are fine there.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"

BROWSER = "chromium-headless-shell"
"""Debian's Chromium without windows: its whole one draws an address line too, which nobody sees."""
CHROMIUM = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]
PATIENCE = 45_000
"""Milliseconds: a shared machine stands still for seconds now and then."""
expect.set_options(timeout=PATIENCE)


@pytest.fixture(scope="session")
def site(django_db_setup, django_db_blocker) -> Iterator[str]:
    """The address of a running server that uses the tests' database."""
    from nivelum.served import config

    door = socket.socket()
    door.bind(("127.0.0.1", 0))
    server = uvicorn.Server(config(log_level="error", timeout_graceful_shutdown=1))
    with django_db_blocker.unblock():
        thread = threading.Thread(target=server.run, kwargs={"sockets": [door]}, daemon=True)
        thread.start()
        while not server.started:
            time.sleep(0.05)
        yield f"http://127.0.0.1:{door.getsockname()[1]}"
        server.should_exit = True
        thread.join(10)


@pytest.fixture(scope="session")
def browser(playwright: Playwright) -> Iterator:
    chromium = shutil.which(BROWSER)
    assert chromium, f"Debian's {BROWSER} is needed"
    browser = playwright.chromium.launch(executable_path=chromium, args=CHROMIUM)
    yield browser
    browser.close()


def sign_in(page: Page, world: World, role: str) -> None:
    page.goto("/")
    page.fill("[name=login]", world.people[role].username)
    page.fill("[name=password]", PASSWORD)
    page.keyboard.press("Enter")
    page.wait_for_selector("#jobs")


def go_to(page: Page, room: str) -> None:
    """Opens another room of the job."""
    page.get_by_role("button", name="Rooms").click()
    page.locator("#rooms").get_by_role("link", name=room, exact=True).click()


def see_all(page: Page) -> None:
    """Says yes to whatever a stage asks."""
    asked = page.locator("#stage button[value=yes]")
    expect(page.locator("#stage")).to_be_visible()
    for left in range(asked.count(), 0, -1):
        asked.first.click()
        expect(asked).to_have_count(left - 1)


@pytest.fixture
def field_world(site: str) -> Callable[..., World]:
    """Makes a crew and a job for one browser test; the database stays as it is afterwards."""
    return make_world


@pytest.fixture
def person(site: str, browser) -> Iterator[Callable[..., Page]]:
    """Opens a browser of one's own for someone of a world, signed in. Errors in a page's script fail the test."""
    contexts, errors = [], []

    def arrive(world: World, role: str, **options) -> Page:
        usual = {"viewport": {"width": 1280, "height": 800}, "base_url": site, "service_workers": "block"}
        context = browser.new_context(**usual | options)
        contexts.append(context)
        page = context.new_page()
        page.set_default_timeout(PATIENCE)
        page.on("pageerror", lambda error: errors.append(str(error)))
        page.on("console", lambda m: errors.append(m.text) if "Content Security Policy" in m.text else None)
        session = world.client(role).cookies["sessionid"].value  # signing in by its form is people's to test
        context.add_cookies([{"name": "sessionid", "value": session, "url": site}])
        page.goto("/")
        page.wait_for_selector("#jobs")
        return page

    yield arrive
    for context in contexts:
        context.close()
    assert errors == []
