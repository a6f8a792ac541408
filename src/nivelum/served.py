"""How the application is served: uvicorn, with a limit on how long somebody may take over the head of a request."""

import asyncio
import gc
import multiprocessing
import sys
from typing import Any

import uvicorn
from django.conf import settings
from django.template.loader import get_template
from django.urls import get_resolver
from django.utils.module_loading import import_string
from uvicorn import _subprocess
from uvicorn.protocols.http.h11_impl import H11Protocol

from groundwork.assess import assess
from groundwork.cli import EXAMPLE
from groundwork.files import loads
from nivelum.door import App
from nivelum.settings import SITE
from nivelum.workshop.bench import warm

MOST_CONNECTIONS = 1000
TURN = 0.001
"""s: how long one thread computes before another that has its answer from the database may go on."""
SLOW = b"HTTP/1.1 408 Request Timeout\r\nConnection: close\r\nContent-Length: 0\r\n\r\n"


class TimelyProtocol(H11Protocol):
    """HTTP as uvicorn speaks it, to those who come to the point."""

    _waits: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._wait()

    def data_received(self, data: bytes) -> None:
        if self._waits is None and self._is_idle:
            self._wait()
        super().data_received(data)
        if not self._is_idle:
            self._wait_no_more()

    def connection_lost(self, exc: Exception | None) -> None:
        self._wait_no_more()
        super().connection_lost(exc)

    @property
    def _is_idle(self) -> bool:
        """Whether no request is under way."""
        return self.cycle is None or self.cycle.response_complete

    def _wait(self) -> None:
        self._waits = self.loop.call_later(settings.HEAD_WITHIN, self._give_up)

    def _wait_no_more(self) -> None:
        if self._waits is not None:
            self._waits.cancel()
            self._waits = None

    def _give_up(self) -> None:
        self._waits = None
        if self._is_idle and not self.transport.is_closing():
            self.transport.write(SLOW)
            self.transport.close()


def settled() -> App:
    """The application, ready before anyone asks: for a process that serves by itself."""
    application = loaded()
    settle()
    return application


def loaded() -> App:
    """The application with every page's code: makes Django ready."""
    application: App = import_string("nivelum.asgi.application")
    get_resolver().url_patterns  # noqa: B018 (loads them)
    return application


def forked() -> None:
    """Loads the application once for all processes that serve: each is a fork of this one, there at once when it is
    started and when one that died is started again. What a first visitor would wait for is done beforehand: templates
    read, a job assessed. Nothing may be open yet that two of them would share."""
    loaded()
    for file in (SITE / "templates").rglob("*.html"):
        get_template(str(file.relative_to(SITE / "templates")))
    _ = assess(loads(EXAMPLE.read_text(encoding="utf-8"))).stages.line
    gc.collect()
    gc.freeze()
    _subprocess.spawn = multiprocessing.get_context("fork")  # type: ignore[assignment] # they load everything anew


def settle() -> None:
    """Makes ready before anyone asks: every page's code is there, none of it is looked through for garbage again (a
    round through all of it kept everybody waiting for a fifth of a second), and the workshop has begun."""
    sys.setswitchinterval(TURN)
    get_resolver().url_patterns  # noqa: B018 (loads them)
    gc.collect()
    gc.freeze()
    warm()


def config(
    log_level: str = "warning", timeout_graceful_shutdown: int = 2, app: str = "nivelum.asgi:application", **more: Any
) -> uvicorn.Config:
    """The application's, whose threads take short turns; who asks is whoever is connected, whatever headers say."""
    sys.setswitchinterval(TURN)
    return uvicorn.Config(
        app,
        http=TimelyProtocol,
        lifespan="off",
        limit_concurrency=MOST_CONNECTIONS,
        h11_max_incomplete_event_size=32_000,
        proxy_headers=False,
        server_header=False,
        log_level=log_level,
        timeout_graceful_shutdown=timeout_graceful_shutdown,
        **more,
    )
