"""A bed in mortar: batches with how long each may be worked, and flags lifted to look at their backs."""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from groundwork.bedwork import BatchEnded, BatchMixed, FlagLifted
from groundwork.curing import Mix, mix, mortar_life
from groundwork.measures import Finding, Severity, Source, Words

CONTACT = 0.95
"""How much of a flag's back lies in mortar outdoors, at least (tile standards, quoted from memory)."""
ONE_IN = 20
"""One flag in so many is lifted to look (common practice, no published source)."""
STONE = 2300.0
"""kg/m³ of concrete and stone flags (common practice)."""
TWO_PEOPLE = 25.0
"""kg from which on two lift it (manual handling guidance, quoted from memory)."""


@dataclass(frozen=True)
class Batch:
    """A batch as mixed, until when it may be worked, and what became of it."""

    mixed: BatchMixed
    ended: BatchEnded | None = None

    @property
    def until(self) -> datetime:
        return self.mixed.at + timedelta(minutes=math.floor(mortar_life(self.mixed.celsius)))

    def is_past(self, now: datetime) -> bool:
        """Whether it is to be thrown away."""
        return self.ended is None and now > self.until

    @property
    def takes(self) -> Mix:
        """What went into it."""
        return mix(self.mixed.volume, self.mixed.parts)


def batches(mixed: Mapping[str, BatchMixed], ended: Iterable[BatchEnded]) -> tuple[Batch, ...]:
    """Every batch in the order they were told."""
    ends = {e.batch: e for e in ended}
    return tuple(Batch(each, ends.get(key)) for key, each in mixed.items())


def lifted(flags: Iterable[FlagLifted]) -> dict[str, float]:
    """By flag, how much of its back had hold, the newest time it was lifted."""
    return {e.where: e.contact for e in flags}


def percent_held(contact: float) -> int:
    """Whole percent that surely had hold: what is under the limit is never shown as on it."""
    return math.floor(contact * 100 + 1e-9)


def flag_mass(length: float, width: float, thickness: float, density: float = STONE) -> float:
    """kg.

    >>> round(flag_mass(0.6, 0.6, 0.05), 1)
    41.4
    """
    return length * width * thickness * density


def to_lift(area: float, length: float, width: float) -> tuple[int, int]:
    """How many flags cover an area, and how many of them to lift."""
    number = math.ceil(area / (length * width) - 1e-9)
    return number, math.ceil(number / ONE_IN)


def mortar_findings(told: Sequence[Batch], flags: Mapping[str, float], today: date | None) -> Iterator[Finding]:
    """K07 and K10: batches nobody accounted for, flags that lie hollow."""
    left = [each for each in told if each.ended is None and today is not None and each.until.date() < today]
    if left:
        yield Finding(
            "K07", Severity.WARNING, Words("batches nobody accounted for: {n}", counts={"n": len(left)},
                                           one="a batch nobody accounted for"),
            Words("used up in its life, or thrown away"), "Mortar wetted up again holds nothing.",
            "Say what became of it.", Source.PRACTICE, number=len(left),
        )  # fmt: skip
    hollow = [where for where, contact in flags.items() if contact < CONTACT - 1e-9]
    if hollow:
        yield Finding(
            "K10", Severity.STOP, Words("hollow under {flags}", names={"flags": ", ".join(hollow)}),
            Words("at least {n} % of its back", counts={"n": round(CONTACT * 100)}),
            "Water stands in a hollow, and frost lifts the flag off it.",
            "Lift it, bed it anew in full, and look at its neighbours.", Source.MEMORY, number=len(hollow),
        )  # fmt: skip
