"""The workshop's benches: a few processes each, their work bounded in time and memory, and a short line before them.

Quick work (a photo, a file that comes in) is waited for; slow work (a PDF) is made while the page says so. Each has
processes of its own, so that a line of PDFs keeps nobody's photo waiting. What is asked of a bench knows nothing of
the database, and whoever waits gives their connection back first.
"""

import atexit
import multiprocessing
import os
import resource
from collections.abc import Callable
from concurrent.futures import Future
from threading import Lock
from typing import Any, TypeVar

import django
from django.db import connection
from pebble import ProcessExpired, ProcessPool

Made = TypeVar("Made")
MEMORY = 1_500_000_000
"""Bytes one process may have of its own."""


class TooMuch(Exception):
    """The work took more time or memory than it may."""


class Busy(Exception):
    """There is too long a line before the bench: ask again later."""


class Bench:
    """So many `processes`, each job at most `seconds` long, at most `line` waiting."""

    def __init__(self, processes: int, seconds: float, line: int) -> None:
        self.processes, self.seconds, self.line = processes, seconds, line
        self._lock = Lock()
        self._pool: ProcessPool | None = None
        self._under_way = 0

    def begin(self, work: Callable[..., Made], *given: Any) -> "Future[Made]":
        """Puts work in line. Raises `Busy`."""
        with self._lock:
            if self._under_way >= self.processes + self.line:
                raise Busy
            self._under_way += 1
            if self._pool is None:
                self._pool = ProcessPool(
                    self.processes, max_tasks=200, initializer=_bounded, context=multiprocessing.get_context("spawn")
                )
                atexit.register(self.close)
            future: Future[Made] = self._pool.schedule(work, args=list(given), timeout=self.seconds)
        future.add_done_callback(self._one_less)
        return future

    def warm(self) -> None:
        """Starts its processes, so that nobody who works waits while they do."""
        for _each in range(self.processes):
            self.begin(_nothing)

    def done(self, work: Callable[..., Made], *given: Any) -> Made:
        """What comes of work, waited for with no connection to the database in hand. Raises `Busy`, `TooMuch`, or
        what the work raises."""
        future = self.begin(work, *given)
        if not connection.in_atomic_block:
            connection.close()
        return outcome(future)

    def _one_less(self, _future: "Future[Any]") -> None:
        with self._lock:
            self._under_way -= 1

    def close(self) -> None:
        """Ends its processes; the next work starts them anew."""
        with self._lock:
            pool, self._pool = self._pool, None
        if pool:
            pool.stop()  # type: ignore[no-untyped-call]
            pool.join()


def outcome(future: "Future[Made]") -> Made:
    """What came of work. Raises `TooMuch` where it ran out of time or memory, or its process died of it."""
    try:
        return future.result()
    except (TimeoutError, MemoryError, ProcessExpired) as error:
        raise TooMuch from error


def _nothing() -> None:
    pass


def _bounded() -> None:
    """In a new process: as little of the machine as it may have, and the settings for words."""
    resource.setrlimit(resource.RLIMIT_DATA, (MEMORY, MEMORY))
    os.nice(15)  # whoever waits for a page comes first
    django.setup()


QUICK = Bench(processes=2, seconds=20, line=12)
SLOW = Bench(processes=1, seconds=120, line=24)


def warm() -> None:
    """Starts the processes of every bench."""
    QUICK.warm()
    SLOW.warm()
