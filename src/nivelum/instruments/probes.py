"""Devices that test a lift by themselves: a density gauge and a light falling weight, over the line protocol."""

import socket
import time
from dataclasses import dataclass

from django.conf import settings

from nivelum.instruments.driver import PATIENCE, DeviceError, Talk, Trouble
from nivelum.instruments.lines import DENSITY, MOISTURE, SETTLEMENT, Garbled, read

DROPS = 3
LEAST_DENSITY, GREATEST_DENSITY = 500.0, 4000.0
"""kg/m³: outside these no stone or soil lies."""


@dataclass(frozen=True)
class ProbePlace:
    """Where a device stands, east and north. Only the stand-in needs the rest: which site, the laboratory's maximum,
    kg/m³, and how much of the compaction it needs the lift has had; less than nothing for ground never compacted."""

    world: str
    at: tuple[float, float]
    maximum: float = 2100.0
    done: float = 1.0


class LineProbe:
    """A device that speaks the line protocol on a socket."""

    def __init__(self, host: str, port: int, patience: float = PATIENCE) -> None:
        self.host, self.port, self.patience = host, port, patience

    def before(self, _spot: ProbePlace) -> list[str]:
        """Lines to send first."""
        return []

    def density(self, spot: ProbePlace) -> tuple[float, float]:
        """Wet density, kg/m³, and moisture, a share of the dry mass. Raises `DeviceError`."""
        tenths, hundredths = self._asked(spot, [("DENSITY", DENSITY), ("MOISTURE", MOISTURE)])
        wet, moisture = tenths / 10, hundredths / 10_000
        if not (LEAST_DENSITY <= wet <= GREATEST_DENSITY and 0 <= moisture < 1):
            raise DeviceError(Trouble.IMPOSSIBLE)
        return wet, moisture

    def drops(self, spot: ProbePlace) -> tuple[float, ...]:
        """What the plate settled by in three drops, metres. Raises `DeviceError`."""
        settled = tuple(micro / 1e6 for micro in self._asked(spot, [("DROP", SETTLEMENT)] * DROPS))
        if not all(0 < each < 0.03 for each in settled):
            raise DeviceError(Trouble.IMPOSSIBLE)
        return settled

    def _asked(self, spot: ProbePlace, wanted: list[tuple[str, str]]) -> list[int]:
        """The whole answers to each command, in turn; a number that comes twice is a stuck device."""
        until = time.monotonic() + self.patience
        try:
            with socket.create_connection((self.host, self.port), timeout=self.patience) as line:
                talk = Talk(line, until)
                for command in self.before(spot):
                    talk.say(command)
                numbers: set[int] = set()
                return [self._answer(talk, command, kind, numbers) for command, kind in wanted]
        except OSError as error:
            raise DeviceError(Trouble.SILENT) from error

    def _answer(self, talk: Talk, command: str, wanted: str, numbers: set[int]) -> int:
        garbled = 0
        while talk.left() > 0:
            talk.say(command)
            try:
                kind, number, what = read(talk.hear())
            except TimeoutError:
                continue
            except Garbled:
                garbled += 1
                continue
            if kind != wanted:
                continue
            if number in numbers:
                raise DeviceError(Trouble.STUCK)
            numbers.add(number)
            return int(what)
        raise DeviceError(Trouble.GARBLED if garbled else Trouble.SILENT)


class StandInProbe(LineProbe):
    """The device that ships with Nivelum: it has to be told where it stands and what lies there."""

    def before(self, spot: ProbePlace) -> list[str]:
        east, north = spot.at
        return [f"!WORLD {spot.world}", f"!PROBE {east:.3f} {north:.3f} {spot.maximum:.1f} {spot.done:.3f}"]


KINDS = {"stand-in": StandInProbe, "line": LineProbe}


def probe_named(name: str) -> LineProbe:
    """The device an installation knows under a name. Raises `DeviceError` where it knows none."""
    try:
        kind, host, port = settings.PROBES[name]
        return KINDS[kind](host, int(port))
    except (KeyError, ValueError) as error:
        raise DeviceError(Trouble.SILENT) from error
