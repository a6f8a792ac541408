"""Levels that read by themselves, each behind a small driver.

A driver answers `read` with one steady reading or says what is wrong, within its patience, whatever the device does.
"""

import socket
import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import Protocol

from django.conf import settings

from groundwork.measures import LONGEST_ROD
from nivelum.instruments.lines import LONGEST_LINE, READING, Garbled, read

WANTED = 3
"""Whole readings taken for one answer, its median."""
STEADY = 0.004
"""How far they may lie apart, metres."""
PATIENCE = 2.0
"""Seconds for everything."""


class Trouble(StrEnum):
    """What can be wrong with a device."""

    SILENT = "silent"
    GARBLED = "garbled"
    UNSTEADY = "unsteady"
    STUCK = "stuck"
    IMPOSSIBLE = "impossible"
    NO_ROD = "no rod"


class DeviceError(Exception):
    """No reading was to be had."""

    def __init__(self, trouble: Trouble) -> None:
        super().__init__(str(trouble))
        self.trouble = trouble


@dataclass(frozen=True)
class Rod:
    """Where the rod stands: over a place of the ground with its design level, or on a point with its name. Only the
    stand-in needs telling; a real level sees it."""

    world: str
    level: float
    at: tuple[float, float] | None = None
    point: str = ""
    moved: bool = False


class Level(Protocol):
    """What every level that reads by itself can do."""

    def read(self, rod: Rod) -> float:
        """What the rod reads, metres. Raises `DeviceError`."""


class LineLevel:
    """A level that speaks the line protocol on a socket."""

    def __init__(self, host: str, port: int, patience: float = PATIENCE) -> None:
        self.host, self.port, self.patience = host, port, patience

    def before(self, _rod: Rod) -> list[str]:
        """Lines to send first."""
        return []

    def read(self, rod: Rod) -> float:
        until = time.monotonic() + self.patience
        try:
            with socket.create_connection((self.host, self.port), timeout=self.patience) as line:
                return self._steady(Talk(line, until), rod)
        except OSError as error:
            raise DeviceError(Trouble.SILENT) from error

    def _steady(self, talk: "Talk", rod: Rod) -> float:
        for command in self.before(rod):
            talk.say(command)
        readings: list[float] = []
        numbers: set[int] = set()
        garbled = 0
        while len(readings) < WANTED:
            if talk.left() <= 0:
                raise DeviceError(Trouble.GARBLED if garbled else Trouble.SILENT)
            talk.say("READ")
            try:
                kind, number, what = read(talk.hear())
            except TimeoutError:
                continue
            except Garbled:
                garbled += 1
                continue
            if kind != READING:
                raise DeviceError(Trouble.NO_ROD)
            if number in numbers:
                raise DeviceError(Trouble.STUCK)
            numbers.add(number)
            readings.append(int(what) / 10_000)
        if not all(0 <= reading <= LONGEST_ROD for reading in readings):
            raise DeviceError(Trouble.IMPOSSIBLE)
        if max(readings) - min(readings) > STEADY:
            raise DeviceError(Trouble.UNSTEADY)
        return statistics.median(readings)


class StandIn(LineLevel):
    """The level that ships with Nivelum: it has to be told where its rod stands."""

    def before(self, rod: Rod) -> list[str]:
        lines = [f"!WORLD {rod.world}"]
        if rod.at:
            lines.append(f"!ROD {rod.at[0]:.3f} {rod.at[1]:.3f} {rod.level:.4f}")
        else:
            lines.append(f"!POINT {rod.point} {rod.level:.4f}")
        return [*lines, "!MOVE"] if rod.moved else lines


class Talk:
    """Lines to and fro until time is up."""

    def __init__(self, line: socket.socket, until: float) -> None:
        self._line, self._until, self._heard = line, until, b""

    def left(self) -> float:
        return self._until - time.monotonic()

    def say(self, text: str) -> None:
        self._line.settimeout(max(self.left(), 0.01))
        self._line.sendall(text.encode("ascii", "replace") + b"\n")

    def hear(self) -> str:
        """The next line; waits a fifth of a second for it. Raises `TimeoutError`, `Garbled` for one without end."""
        by = time.monotonic() + min(0.2, max(self.left(), 0.01))
        while b"\n" not in self._heard:
            if len(self._heard) > LONGEST_LINE:
                self._heard = b""
                raise Garbled("a line without end")
            self._line.settimeout(max(by - time.monotonic(), 0.001))
            more = self._line.recv(256)
            if not more:
                raise ConnectionError("the level hung up")
            self._heard += more
        text, self._heard = self._heard.split(b"\n", 1)
        return text.decode("ascii", "replace")


DRIVERS: dict[str, Callable[[str, int], Level]] = {"stand-in": StandIn, "line": LineLevel}


def level_named(name: str) -> Level:
    """The level an installation knows under a name. Raises `DeviceError` where it knows none."""
    try:
        kind, host, port = settings.LEVELS[name]
        return DRIVERS[kind](host, int(port))
    except (KeyError, ValueError) as error:
        raise DeviceError(Trouble.SILENT) from error
