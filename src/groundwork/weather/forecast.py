"""A forecast: hour by hour what the weather will be, as somebody said at an hour. Open to any source: a service, a
file of JSON or CSV, or a few figures a day typed in."""

import csv
import io
import json
import math
from bisect import bisect_left
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta, tzinfo
from typing import Any

from groundwork.measures import Said

HOUR = timedelta(hours=1)
MOST_HOURS = 24 * 31
LARGEST_FORECAST = 1_000_000
"""Bytes of a file."""
WARMEST_AT, COLDEST_AT = 15, 5
"""The hours of a day at which it is usually warmest and coldest (common practice, no published source)."""
SHOWER = 1.0
"""mm that a wet hour brings where nobody says how much (common practice, no published source)."""


@dataclass(frozen=True)
class HourAhead:
    """One hour by the clock on site, from `at` on: °C, humidity a share, wind m/s at ten metres, rain mm, the chance
    of any a share, whether it thunders."""

    at: datetime
    celsius: float
    humidity: float = 0.7
    wind: float = 3.0
    rain: float = 0.0
    chance: float = 0.0
    thunder: bool = False


@dataclass(frozen=True)
class Forecast:
    """Hours in their order, as `source` said them at `issued`, by the clock on site."""

    issued: datetime
    hours: tuple[HourAhead, ...]
    source: str = ""

    @property
    def begins(self) -> datetime:
        return self.hours[0].at

    @property
    def ends(self) -> datetime:
        return self.hours[-1].at + HOUR

    def age(self, now: datetime) -> timedelta:
        """How long ago it was said."""
        return max(now - self.issued, timedelta())

    def between(self, first: datetime, last: datetime) -> tuple[HourAhead, ...]:
        """The hours that begin from `first` on and before `last`."""
        begins = [hour.at for hour in self.hours]
        return self.hours[bisect_left(begins, first) : bisect_left(begins, last)]

    def at(self, moment: datetime) -> HourAhead | None:
        """The hour a moment is in; None where nobody said."""
        found = self.between(moment - HOUR + timedelta(microseconds=1), moment + timedelta(microseconds=1))
        return found[-1] if found else None


_COLUMNS = {
    "celsius": ("temperature_c", -60.0, 60.0), "humidity": ("humidity_percent", 1.0, 100.0),
    "wind": ("wind_m_s", 0.0, 100.0), "rain": ("rain_mm", 0.0, 300.0),
    "chance": ("rain_chance_percent", 0.0, 100.0),
}  # fmt: skip
_SHARES = frozenset({"humidity", "chance"})
_YES, _NO = frozenset({"1", "true", "yes"}), frozenset({"", "0", "false", "no"})


def read_forecast(text: str, zone: tzinfo, now: datetime, source: str = "") -> Forecast:
    """A forecast from a file of JSON or CSV, its times by the clock of `zone`; `now` is when it was issued where it
    does not say. Raises `ValueError` saying where something cannot be."""
    if len(text) > LARGEST_FORECAST:
        raise Said("this is too large for a forecast")
    text = text.lstrip("\ufeff").strip()
    if not text:
        raise Said("there is nothing in it")
    if text.startswith("{"):
        issued, source, rows = _from_json(text, source)
    else:
        issued, rows = None, list(csv.DictReader(io.StringIO(text)))
    if not rows:
        raise Said("there is no hour in it")
    if len(rows) > MOST_HOURS:
        raise Said("at most {most} hours", most=MOST_HOURS)
    hours = [_hour(row, number, zone) for number, row in enumerate(rows, start=1)]
    said_at = _time(issued, zone, Said("“issued” is no time")) if issued else now
    if said_at > now + HOUR:
        raise Said("it says that it was issued later than now")
    return _whole(hours, said_at, source)


def _from_json(text: str, source: str) -> tuple[Any, str, list[Any]]:
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise Said("this is no JSON") from error
    rows = data.get("hours")
    if not isinstance(rows, list):
        raise Said("“hours” is missing")
    said = data.get("source", "")
    return data.get("issued"), said[:80] if isinstance(said, str) and said else source, rows


def _hour(row: Any, number: int, zone: tzinfo) -> HourAhead:
    if not isinstance(row, Mapping):
        raise Said("hour {n} is no row", n=number)
    at = _time(row.get("time"), zone, Said("hour {n}: “time” is no time", n=number))
    given: dict[str, Any] = {}
    for name, (column, least, most) in _COLUMNS.items():
        said = row.get(column)
        if said is None or said == "":
            if name == "celsius":
                raise Said("hour {n}: “{column}” is missing", n=number, column=column)
            continue
        value = _number(said)
        if value is None or not least <= value <= most:
            raise Said("hour {n}: “{column}” goes from {least} to {most}", n=number, column=column,
                       least=f"{least:g}", most=f"{most:g}")  # fmt: skip
        given[name] = value / 100 if name in _SHARES else value
    thunder = str(row.get("thunder") or "").strip().lower()
    if thunder not in _YES | _NO:
        raise Said("hour {n}: “thunder” is yes or no", n=number)
    if "rain" not in given:
        given["rain"] = 0.0 if given.get("chance", 0.0) < 0.5 else SHOWER
    if "chance" not in given:
        given["chance"] = 1.0 if given["rain"] > 0 else 0.0
    return HourAhead(at, **given, thunder=thunder in _YES)


def _number(said: Any) -> float | None:
    if isinstance(said, bool):
        return None
    try:
        value = float(said)
    except (TypeError, ValueError, OverflowError):
        return None
    return value if math.isfinite(value) else None


def _time(said: Any, zone: tzinfo, wrong: Said) -> datetime:
    """By the clock of the site, however it was written."""
    try:
        at = datetime.fromisoformat(said)
        at = at if at.tzinfo is None else at.astimezone(zone).replace(tzinfo=None)
    except (TypeError, ValueError, OverflowError) as error:
        raise wrong from error
    if not 2000 <= at.year <= 2099:
        raise wrong
    return at


def _whole(hours: Sequence[HourAhead], issued: datetime, source: str) -> Forecast:
    """Hours of one clock in a row. An hour that a clock set back has twice is had once; what a service leaves out
    stays as it was the hour before, for three hours at the most."""
    rows = {hour.at.replace(minute=0, second=0, microsecond=0): hour for hour in sorted(hours, key=lambda h: h.at)}
    found: list[HourAhead] = []
    for at, hour in rows.items():
        while found and HOUR < at - found[-1].at <= 3 * HOUR:
            found.append(_as_before(found[-1]))
        if found and at - found[-1].at > HOUR:
            raise Said("nothing is said between {first} and {last}", first=f"{found[-1].at:%d.%m. %H:%M}",
                       last=f"{at:%d.%m. %H:%M}")  # fmt: skip
        found.append(hour if hour.at == at else _at(hour, at))
    return Forecast(issued, tuple(found), source)


def _as_before(hour: HourAhead) -> HourAhead:
    return _at(hour, hour.at + HOUR)


def _at(hour: HourAhead, at: datetime) -> HourAhead:
    return HourAhead(at, hour.celsius, hour.humidity, hour.wind, hour.rain, hour.chance, hour.thunder)


@dataclass(frozen=True)
class DayAhead:
    """A day as one reads it in a paper: the least and the most °C, rain mm in all, the chance of any, and from when
    to when it is to fall, hours of the day."""

    on: date
    least: float
    most: float
    rain: float = 0.0
    chance: float = 0.0
    rains_from: int = 0
    rains_to: int = 24
    wind: float = 3.0


def of_days(days: Iterable[DayAhead], issued: datetime, source: str) -> Forecast:
    """A forecast from a few figures a day: coldest at five, warmest at three, rain and its chance the same in each of
    the hours it is to fall. Raises `ValueError` where a day is missing or stands twice."""
    found: list[HourAhead] = []
    for day in sorted(days, key=lambda each: each.on):
        wet = range(day.rains_from, max(day.rains_to, day.rains_from + 1))
        for n in range(24):
            rains = n in wet and (day.rain > 0 or day.chance > 0)
            found.append(
                HourAhead(
                    datetime.combine(day.on, time(n)), round(of_a_day(day.least, day.most, n), 2), wind=day.wind,
                    rain=day.rain / len(wet) if rains else 0.0, chance=day.chance if rains else 0.0,
                )
            )  # fmt: skip
    if not found:
        raise Said("there is no hour in it")
    if len({hour.at for hour in found}) < len(found):
        raise Said("a day stands there twice")
    return _whole(found, issued, source)


def of_a_day(least: float, most: float, hour: float) -> float:
    """How warm it is at an hour of a day, °C: as a cosine up from the coldest hour to the warmest and down again
    (common practice, no published source).

    >>> [of_a_day(4, 14, hour) for hour in (5, 10, 15)]
    [4.0, 9.0, 14.0]
    """
    hour %= 24
    up = WARMEST_AT - COLDEST_AT
    rises = COLDEST_AT <= hour <= WARMEST_AT
    share = (hour - COLDEST_AT) / up if rises else 1 - (hour - WARMEST_AT) % 24 / (24 - up)
    return least + (most - least) * (1 - math.cos(math.pi * share)) / 2


def forecast_data(forecast: Forecast) -> dict[str, Any]:
    """As JSON values that `read_forecast` reads again."""
    return {
        "issued": forecast.issued.isoformat(timespec="minutes"), "source": forecast.source,
        "hours": [
            {"time": h.at.isoformat(timespec="minutes"), "temperature_c": h.celsius,
             "humidity_percent": round(h.humidity * 100, 1), "wind_m_s": h.wind, "rain_mm": round(h.rain, 3),
             "rain_chance_percent": round(h.chance * 100, 1), "thunder": h.thunder}
            for h in forecast.hours
        ],
    }  # fmt: skip
