"""What the weather may do, hour by hour, over the days a job takes: by the forecast as far as it goes, after that as
it usually is; and when work goes on in it, in as many runs as are wanted."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime

import numpy as np
import numpy.typing as npt

from groundwork.outdoors.limits import Held, Outdoors, WeatherLimit
from groundwork.weather import HOUR, SHOWER, Forecast, dew_point, of_a_day, turns_wet

Floats = npt.NDArray[np.float64]
Bools = npt.NDArray[np.bool_]


@dataclass(frozen=True)
class UsualWeather:
    """Weather of the season where nobody has forecast it: the chance of rain in an hour, a share, the least and the
    most °C of a day."""

    chance: float = 0.06
    least: float = 6.0
    most: float = 14.0


@dataclass(frozen=True)
class Outlook:
    """Hours from `first` on: the chance of rain, a share, mm an hour where it rains, °C, kelvin over the dew point,
    wind m/s, thunder or none; `known` are those a forecast speaks of."""

    first: datetime
    chance: Floats
    brings: Floats
    celsius: Floats
    over_dew: Floats
    wind: Floats
    thunder: Bools
    known: int

    def __len__(self) -> int:
        return len(self.chance)


def outlook(first: datetime, hours: int, forecast: Forecast | None, usual: UsualWeather) -> Outlook:
    """So many hours from the full hour `first` on."""
    rows = {hour.at: hour for hour in forecast.hours} if forecast else {}
    of_day = [of_a_day(usual.least, usual.most, n) for n in range(24)]
    made = list[tuple[float, float, float, float, float, bool]]()
    known = 0
    for n in range(hours):
        at = first + n * HOUR
        hour = rows.get(at)
        if hour is None:
            made.append((usual.chance, SHOWER, of_day[at.hour], 5.0, 3.0, False))
            continue
        known = n + 1
        brought = hour.rain / hour.chance if hour.chance > 0 and hour.rain > 0 else SHOWER
        thunder = hour.thunder or bool((before := rows.get(at - HOUR)) and before.thunder)
        over_it = hour.celsius - dew_point(hour.celsius, hour.humidity)
        made.append((hour.chance, brought, hour.celsius, over_it, hour.wind, thunder))
    chance, brings, warm, over_dew, wind, thunders = (np.array(column) for column in zip(*made, strict=True))
    return Outlook(first, chance, brings, warm, over_dew, wind, thunders.astype(bool), known)


def rains(of: Outlook, runs: int, chance: np.random.Generator) -> npt.NDArray[np.float32]:
    """mm that fall in each hour of each run: each hour rains by its chance, in spells; how much is drawn about what
    it brings. Shape (runs, hours)."""
    draws = chance.random((len(of), runs), dtype=np.float32)
    found = np.zeros((len(of), runs), dtype=np.float32)
    wet = draws[0] < of.chance[0]
    limit = np.full(runs, max(of.chance[0], 1e-9), dtype=np.float32)
    for n in range(len(of)):
        if n:
            after_dry, after_wet = turns_wet(float(of.chance[n - 1]), float(of.chance[n]))
            limit = np.where(wet, np.float32(after_wet), np.float32(after_dry))
            wet = draws[n] < limit
        if of.chance[n] > 0:
            fell = np.flatnonzero(wet)
            within = np.clip(draws[n, fell] / np.maximum(limit[fell], 1e-9), 0, 1 - 1e-6)
            found[n, fell] = -np.log1p(-within) * np.float32(of.brings[n]) + np.float32(0.05)
    return np.ascontiguousarray(found.T)


def goes_on(
    work: Outdoors,
    of: Outlook,
    rain: npt.NDArray[np.float32],
    limits: Mapping[str, WeatherLimit],
    dry_for: float = 0.0,
) -> Bools:
    """Whether a work goes on in each hour of each run. What has to stay dry for so many hours waits for hours that
    do."""
    closed = _steadily_closed(work, of, limits)
    open_ = np.repeat(~closed[None, :], len(rain), axis=0)
    least = min(
        (limit.at for limit in limits.values() if limit.waits and limit.of is Held.RAIN and limit.applies(work)),
        default=None,
    )
    if least is not None:
        open_ &= rain <= max(least, 0.0)
    if dry_for > 0:
        wet = np.cumsum(np.pad(rain > 0, ((0, 0), (1, 0))), axis=1, dtype=np.int32)
        to = np.minimum(np.arange(len(of)) + max(round(dry_for), 1), len(of))
        open_ &= wet[:, to] == wet[:, : len(of)]
    return open_


def _steadily_closed(work: Outdoors, of: Outlook, limits: Mapping[str, WeatherLimit]) -> Bools:
    """What is the same in every run: cold, heat, wind, dew, thunder."""
    values = {
        Held.CELSIUS: of.celsius, Held.WARMING: of.celsius, Held.OVER_DEW: of.over_dew, Held.WIND: of.wind,
        Held.THUNDER: of.thunder.astype(float),
    }  # fmt: skip
    closed = np.zeros(len(of), dtype=bool)
    for limit in limits.values():
        if limit.waits and limit.applies(work) and limit.of in values:
            closed |= np.fromiter(map(limit.is_past, values[limit.of]), dtype=bool, count=len(of))
    return closed


def whole_hour(now: datetime) -> datetime:
    """The full hour a moment is in."""
    return now.replace(minute=0, second=0, microsecond=0)
