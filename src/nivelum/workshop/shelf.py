"""What slow work has made, kept a while for whoever asks again: files under var/, by what they were made of."""

import os
import re
import time
import uuid
from collections.abc import Callable
from concurrent.futures import Future, wait
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from typing import TypeVar

from django.conf import settings
from django.db import connection
from django.utils.crypto import salted_hmac

from nivelum.workshop.bench import SLOW, Bench, outcome

KEPT = 40
"""Files on the shelf; the ones asked for longest ago go first."""
NAME = re.compile("[0-9a-f]{64}")
FORGOTTEN = 600.0
"""s: how long what went wrong is remembered for whoever asks."""
AT_ONCE = 1.0
"""s: what is made within this is handed over at once."""


@dataclass(frozen=True)
class InTheMaking:
    """Work that is not done yet: its name, to ask for it again by, which nobody can guess; how long it has taken, s,
    and how many others were in line before it."""

    name: str
    seconds: int
    before: int


Found = bytes | InTheMaking
Content = TypeVar("Content")


class Shelf:
    """Things made by a bench, by name."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self._lock, self._preparing = Lock(), Lock()
        self._making: dict[str, tuple[Future[bytes], float]] = {}

    def get(self, whose: str, of: str, content: Callable[[], Content], work: Callable[[Content], bytes]) -> Found:
        """What `work` makes of `content`, named by who may see it, `whose`, and by all else it hangs on, `of`;
        `content` is asked for only where it has to be made. Raises `Busy`, `TooMuch`, or what the work raised,
        once."""
        name = _name(whose)[:16] + _name(whose + of)[:48]
        if found := self._found(name):
            return found
        file = _folder() / name
        _let_go()  # one page at a time is put together, so that many asked for at once leave the others room
        with self._preparing:
            known = self.bench.begin(work, content()), time.monotonic()
        with self._lock:
            self._making[name] = known
        known[0].add_done_callback(lambda future: self._finished(file, future))
        return self._found(name, known) or InTheMaking(name, 0, 0)

    def again(self, whose: str, begun: str) -> Found | None:
        """What was begun under a name for whoever may see what is `whose`, though what it hangs on may have moved on
        since; None where it is not there any more."""
        if not NAME.fullmatch(begun) or begun[:16] != _name(whose)[:16]:
            return None
        return self._found(begun)

    def _found(self, name: str, known: "tuple[Future[bytes], float] | None" = None) -> Found | None:
        """What lies on the shelf or is in the making under a name."""
        file = _folder() / name
        with suppress(OSError):
            os.utime(file)
            return file.read_bytes()
        with self._lock:
            known = known or self._making.get(name)
        if known is None:
            return None
        future, began = known
        _let_go()
        wait([future], AT_ONCE)
        if not future.done():
            with self._lock:
                before = sum(1 for other, since in self._making.values() if since < began and not other.done())
            return InTheMaking(name, int(time.monotonic() - began), before)
        with self._lock:
            self._making.pop(name, None)
        made = outcome(future)
        if not file.exists():  # whoever waits is told before `_finished` is
            _keep(file, made)
        return made

    def _finished(self, file: Path, future: "Future[bytes]") -> None:
        """What is made is on the shelf before anybody asks again, in whatever process they ask; what went wrong is
        told to who asks next, if they do soon."""
        if not future.cancelled() and future.exception() is None:
            _keep(file, future.result())
            with self._lock:
                self._making.pop(file.name, None)
        with self._lock:
            long_ago = time.monotonic() - FORGOTTEN
            self._making = {n: (f, t) for n, (f, t) in self._making.items() if not f.done() or t > long_ago}


def _let_go() -> None:
    """Gives the connection to the database back before waiting."""
    if not connection.in_atomic_block:
        connection.close()


def _name(of: str) -> str:
    """A name nobody can guess who knows what it is of."""
    return salted_hmac("nivelum.workshop.shelf", of, algorithm="sha256").hexdigest()


def _folder() -> Path:
    folder = Path(settings.VAR) / "made"
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    return folder


def _keep(file: Path, made: bytes) -> None:
    """Puts a file on the shelf whole, and takes the oldest off; where there is no room, it is made again."""
    half = file.with_name(f".{uuid.uuid4().hex}")
    with suppress(OSError):
        try:
            half.write_bytes(made)
            half.replace(file)
        finally:
            half.unlink(missing_ok=True)
        there = sorted(file.parent.glob("[0-9a-f]*"), key=lambda each: each.stat().st_mtime, reverse=True)
        for old in there[KEPT:]:
            old.unlink(missing_ok=True)


PRINTED = Shelf(SLOW)
