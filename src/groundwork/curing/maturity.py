"""Maturity of concrete and mortar: hours times degrees over a datum (Nurse and Saul, quoted from memory), by how warm
it really was as far as anybody recorded it."""

import math
from bisect import bisect_left, bisect_right
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

from groundwork.weather import of_a_day

DATUM = -10.0
"""°C at and under which nothing sets; 0 for what vehicles stand on (ASTM C1074, quoted from memory)."""
WALKED = BESIDE = 720.0
"""°C·h after which a slab is walked on, and units are laid beside a haunch: a day at 20 °C (common practice, no
published source)."""
PLATED = {False: 1440.0, True: 2160.0}
"""°C·h after which a plate may come near one, on foot and under vehicles (common practice, no published source)."""
DRIVEN = 3360.0
"""°C·h over a datum of 0 after which cars stand on a slab: seven days at 20 °C (common practice, no published
source)."""
HARD = 1080.0
"""°C·h after which a slab has 5 MPa and frost no longer breaks its face (EN 13670 for the 5 MPa, quoted from memory;
the hours are common practice)."""
BASIS = 20.0
"""°C at which days of setting are given."""
LIFE, LIFE_AT, HALVES = 90.0, 20.0, 10.0
"""A mortar is workable for 90 minutes at 20 °C and for half of that 10 °C warmer (common practice)."""
LONGEST_LIFE = 180.0
NEVER = timedelta(days=200)
"""What has not set by then is not going to."""
NEAR, BETWEEN = timedelta(hours=3), timedelta(hours=24)
"""A thermometer speaks for so long before and after it was read, and between two readings no further apart."""
Read = tuple[datetime, float]


def days_of_setting(days: float) -> float:
    """°C·h of so many days at 20 °C.

    >>> days_of_setting(1), days_of_setting(3)
    (720.0, 2160.0)
    """
    return days * 24 * (BASIS - DATUM)


@dataclass(frozen=True)
class Warmth:
    """How warm it was, °C, by the best that is known of a moment: a thermometer in the concrete, the least and most
    of that day, a thermometer in the air, what `else_` says, as a forecast does; what it was when it was made."""

    made_at: float
    concrete: tuple[Read, ...] = ()
    air: tuple[Read, ...] = ()
    days: dict[date, tuple[float, float]] = field(default_factory=dict)
    else_: Callable[[datetime], float | None] | None = None

    def at(self, moment: datetime) -> float:
        """°C at a moment."""
        if (read := _between(self.concrete, moment)) is not None:
            return read
        if day := self.days.get(moment.date()):
            return of_a_day(*day, moment.hour + moment.minute / 60)
        if (read := _between(self.air, moment)) is not None:
            return read
        told = self.else_(moment) if self.else_ else None
        return self.made_at if told is None else told


def _between(reads: tuple[Read, ...], moment: datetime) -> float | None:
    """In between two readings, oldest first, or near one; None where neither is so."""
    n, m = (find(reads, moment, key=lambda read: read[0]) for find in (bisect_right, bisect_left))
    before, after = reads[n - 1] if n else None, reads[m] if m < len(reads) else None
    if before and after and after[0] - before[0] <= BETWEEN:
        apart = (after[0] - before[0]) / timedelta(hours=1)
        share = (moment - before[0]) / timedelta(hours=1) / apart if apart else 0.0
        return before[1] + (after[1] - before[1]) * share
    near = [read for read in (before, after) if read and abs(read[0] - moment) <= NEAR]
    return min(near, key=lambda read: abs(read[0] - moment))[1] if near else None


def time_to(maturity: float, celsius: float, datum: float = DATUM) -> float:
    """Hours until `maturity`, °C·h, is reached when it is as warm all along; never at or under 0 °C.

    >>> [round(time_to(3360, each, 0.0) / 24, 1) for each in (20, 10)]
    [7.0, 14.0]
    """
    return math.inf if celsius <= 0 else maturity / (celsius - datum)


def earned(since: datetime, until: datetime, warmth: Warmth, datum: float = DATUM) -> float:
    """°C·h from one moment to another; hours at or under 0 °C earn nothing."""
    total, at = 0.0, since
    while at < until:
        hours = min((until - at) / timedelta(hours=1), 1.0)
        total += hours * _in_an_hour(warmth.at(at + timedelta(hours=hours / 2)), datum)
        at += timedelta(hours=1)
    return total


def matured_at(since: datetime, maturity: float, warmth: Warmth, datum: float = DATUM) -> datetime | None:
    """When that is, to the minute and never sooner, as warm as it was and as it is said to be; None where it does not
    come within `NEVER`."""
    at, left = since, maturity
    while at - since < NEVER:
        earns = _in_an_hour(warmth.at(at + timedelta(minutes=30)), datum)
        if earns >= left - 1e-9 and earns > 0:
            return at + timedelta(minutes=math.ceil(left / earns * 60 - 1e-6))
        left -= earns
        at += timedelta(hours=1)
    return None


def _in_an_hour(celsius: float, datum: float) -> float:
    return 0.0 if celsius <= 0 else max(celsius - datum, 0.0)


def ready_at(since: datetime, maturity: float, celsius: float) -> datetime | None:
    """When that is where it is as warm all along; None where it never comes."""
    return matured_at(since, maturity, Warmth(celsius))


def mortar_life(celsius: float) -> float:
    """How long a mortar may be worked once it is mixed, minutes; in the cold no longer than three hours.

    >>> mortar_life(20), mortar_life(30)
    (90.0, 45.0)
    """
    return float(min(LIFE * 2 ** ((LIFE_AT - celsius) / HALVES), LONGEST_LIFE))
