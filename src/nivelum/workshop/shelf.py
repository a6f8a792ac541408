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


class Shelf:
    """Things made by a bench, by name."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        self._lock = Lock()
        self._making: dict[str, tuple[Future[bytes], float]] = {}

    def get(
        self, whose: str, of: str, content: Callable[[], str], work: Callable[[str], bytes], begun: str = ""
    ) -> bytes | InTheMaking:
        """What `work` makes of `content`, named by all it hangs on, `of`; `content` is asked for only where it has to
        be made. Who was told of work that is `begun`, and may see what is theirs to see, `whose`, gets that, though
        what it hangs on may have moved on since. Raises `Busy`, `TooMuch`, or what the work raised, once."""
        name = _name(whose)[:16] + _name(whose + of)[:48]
        if NAME.fullmatch(begun) and begun[:16] == name[:16] and self._has(begun):
            name = begun
        file = _folder() / name
        with suppress(OSError):
            os.utime(file)
            return file.read_bytes()
        with self._lock:
            known = self._making.get(name)
        if known is None:
            known = self.bench.begin(work, content()), time.monotonic()
            with self._lock:
                self._making[name] = known
            known[0].add_done_callback(lambda future: self._finished(file, future))
        future, began = known
        if not connection.in_atomic_block:
            connection.close()
        wait([future], AT_ONCE)
        if not future.done():
            with self._lock:
                before = sum(1 for other, since in self._making.values() if since < began and not other.done())
            return InTheMaking(name, int(time.monotonic() - began), before)
        with self._lock:
            self._making.pop(name, None)
        return outcome(future)

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

    def _has(self, name: str) -> bool:
        return name in self._making or (_folder() / name).exists()


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
