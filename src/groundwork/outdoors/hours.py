"""Will the weather allow it? Hour by hour: go, go with something beside, wait; why, and until when."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from groundwork.measures import Words
from groundwork.outdoors.limits import Held, Outdoors, WeatherLimit
from groundwork.weather import HOUR, Forecast, HourAhead, dew_point, evaporation, stays_dry_through

FRESH = 15.0
"""°C: fresh concrete is taken to be as warm as the air, and no colder than this (common practice)."""
AFTER_THUNDER = timedelta(minutes=30)
"""Nobody goes back on the site for so long after the last thunder (weather services' advice)."""


HOT, COLD, BURNS = 27.0, 3.0, (5, 8)
"""°C from which one minds the heat and up to which the cold; the months from and to which the sun burns, north of the
equator (common practice; local rules first)."""


class Minded(StrEnum):
    """What weather does to people."""

    LIGHTNING = "lightning"
    HEAT = "heat"
    COLD = "cold"
    SUN = "sun"


def minded(hours: Sequence[HourAhead], month: int, latitude: float) -> tuple[Minded, ...]:
    """What is to be minded in some hours of a month at a latitude, degrees, south below nought."""
    north = month if latitude >= 0 else (month + 5) % 12 + 1
    so = {
        Minded.LIGHTNING: any(hour.thunder for hour in hours), Minded.HEAT: any(h.celsius >= HOT for h in hours),
        Minded.COLD: any(h.celsius <= COLD for h in hours), Minded.SUN: BURNS[0] <= north <= BURNS[1],
    }  # fmt: skip
    return tuple(what for what, is_so in so.items() if is_so)


class Says(StrEnum):
    """What an hour says to work."""

    GO = "go"
    WITH = "go with"
    WAIT = "wait"


@dataclass(frozen=True)
class PastLimit:
    """A limit that is past, and by what."""

    limit: WeatherLimit
    value: float
    words: Words


@dataclass(frozen=True)
class WorkHour:
    """An hour as it is to a work. `beside` is what is done beside it; `until` is when that ends, as far as the
    forecast goes; None where it does not end in it."""

    hour: HourAhead
    says: Says
    reasons: tuple[PastLimit, ...] = ()
    until: datetime | None = None

    @property
    def beside(self) -> tuple[str, ...]:
        """What to do beside it, each once."""
        return tuple(dict.fromkeys(r.limit.beside for r in self.reasons if r.limit.beside))


def worked_hours(
    work: Outdoors,
    forecast: Forecast,
    first: datetime,
    last: datetime,
    limits: Mapping[str, WeatherLimit],
    dry_for: float = 0.0,
) -> tuple[WorkHour, ...]:
    """The hours from `first` to `last` that a forecast knows, as they are to a work that has to stay dry for so many
    hours once it is done."""
    mine = [limit for limit in limits.values() if limit.applies(work)]
    rows = list(forecast.hours)
    found = [
        _judged(mine, rows, n, dry_for) for n, hour in enumerate(rows) if first - HOUR < hour.at < last
    ]  # fmt: skip
    return tuple(_with_ends(found))


def _judged(limits: Sequence[WeatherLimit], rows: Sequence[HourAhead], n: int, dry_for: float) -> WorkHour:
    hour, reasons = rows[n], list[PastLimit]()
    known: dict[Held, float | None] = {}
    for limit in limits:
        if limit.of not in known:
            known[limit.of] = held(limit.of, rows, n, dry_for)
        value = known[limit.of]
        if value is not None and _is_past(limit, value, rows, n):
            reasons.append(PastLimit(limit, value, _words(limit, value)))
    waits = [r for r in reasons if r.limit.waits]
    if waits:
        return WorkHour(hour, Says.WAIT, tuple(waits))
    return WorkHour(hour, Says.WITH if reasons else Says.GO, _hardest(reasons))


def _hardest(reasons: Sequence[PastLimit]) -> tuple[PastLimit, ...]:
    """Of several limits on the same thing the one furthest out: what a shower asks for takes in what a drizzle
    does."""
    last: dict[Held, PastLimit] = {}
    for reason in reasons:
        known = last.get(reason.limit.of)
        further = known is None or (
            reason.limit.at > known.limit.at if reason.value > reason.limit.at else reason.limit.at < known.limit.at
        )  # fmt: skip
        if further:
            last[reason.limit.of] = reason
    return tuple(last.values())


def _is_past(limit: WeatherLimit, value: float, rows: Sequence[HourAhead], n: int) -> bool:
    if limit.of is Held.WARMING and abs(value - limit.at) <= 1e-9:  # at the limit it goes by which way it goes
        return n + 1 < len(rows) and rows[n + 1].celsius < value
    return limit.is_past(value)


def held(of: Held, rows: Sequence[HourAhead], n: int, dry_for: float = 0.0) -> float | None:
    """What of an hour is held to a limit; None where the forecast does not go as far as it would have to."""
    hour = rows[n]
    match of:
        case Held.RAIN:
            return hour.rain
        case Held.CELSIUS | Held.WARMING:
            return hour.celsius
        case Held.COMING_24:
            return min(each.celsius for each in rows[n : n + 24])
        case Held.COMING_48:
            return min(each.celsius for each in rows[n : n + 48])
        case Held.EVAPORATION:
            return evaporation(max(hour.celsius, FRESH), hour.celsius, hour.humidity, hour.wind)
        case Held.OVER_DEW:
            return hour.celsius - dew_point(hour.celsius, hour.humidity)
        case Held.DRY:
            chances = [each.chance for each in rows[n : n + max(round(dry_for), 1)]]
            return stays_dry_through(chances) if dry_for > 0 and len(chances) >= dry_for - 0.5 else None
        case Held.WIND:
            return hour.wind
        case Held.THUNDER:
            return 1.0 if hour.thunder or (n and rows[n - 1].thunder) else 0.0


def _words(limit: WeatherLimit, value: float) -> Words:
    match limit.of:
        case Held.RAIN:
            return Words(limit.says, rain={"rain": value / 3_600_000})
        case Held.CELSIUS | Held.WARMING | Held.COMING_24 | Held.COMING_48:
            return Words(limit.says, celsius={"celsius": round(value, 1)})
        case Held.WIND:
            return Words(limit.says, wind={"wind": value})
        case Held.DRY:
            return Words(limit.says, counts={"dry": round(value * 100)})
        case Held.EVAPORATION:
            return Words(limit.says, drying={"evaporation": value})
        case Held.OVER_DEW:
            return Words(limit.says, names={"over_dew": f"{value:.1f}"})
        case Held.THUNDER:
            return Words(limit.says)


def _with_ends(hours: Sequence[WorkHour]) -> Iterator[WorkHour]:
    """Each with when it ends to be so; after thunder half an hour into the first hour without."""
    for n, each in enumerate(hours):
        later = next((other for other in hours[n + 1 :] if other.says is not each.says), None)
        until = later.hour.at if later else None
        if until and each.says is Says.WAIT and any(r.limit.of is Held.THUNDER for r in each.reasons):
            before = next(h for h in reversed(hours) if h.hour.at < until)
            if not before.hour.thunder and [r.limit.of for r in before.reasons] == [Held.THUNDER]:
                until = before.hour.at + AFTER_THUNDER
        yield WorkHour(each.hour, each.says, each.reasons, until)


def goes_until(hours: Sequence[WorkHour], now: datetime) -> datetime | None:
    """When a work that goes on now, with or without something beside it, has to stop; `now` where it may not begin;
    None where nothing of what is known stops it."""
    for each in hours:
        if each.hour.at + HOUR > now and each.says is Says.WAIT:
            return max(each.hour.at, now)
    return None
