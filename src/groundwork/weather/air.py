"""What air does to work: when it gives off water, how fast it takes it up, whether it stays dry."""

import math
from collections.abc import Sequence
from datetime import date

MAGNUS = 17.62, 243.12
"""Of water, dimensionless and °C (Magnus; WMO Guide to Instruments and Methods of Observation, No. 8)."""
GOES_ON = 0.7
"""The chance that a wet hour follows a wet hour (common practice, no published source)."""
WANTED = 0.7
"""The chance of staying dry that is wanted for a bonded filling (common practice, no published source)."""
SOLAR = 0.0820
"""The solar constant, MJ/m² a minute (FAO Irrigation and Drainage Paper 56, eq. 21; quoted from memory)."""
EVAPORATES = 0.408
"""mm of water that a MJ/m² evaporates (FAO-56, eq. 20; quoted from memory)."""
HALF_A_METRE = 0.5
"""Wind at half a metre over the slab, as a share of that at ten metres (common practice)."""


def dew_point(celsius: float, humidity: float) -> float:
    """°C at which air so warm, °C, and so damp, a share, gives off water.

    >>> round(dew_point(20, 0.60), 1)
    12.0
    """
    a, b = MAGNUS
    gamma = math.log(humidity) + a * celsius / (b + celsius)
    return b * gamma / (a - gamma)


def stays_dry(chance: float, hours: float) -> float:
    """The chance that it stays dry for so many hours of which each has that chance of rain: a wet hour follows a wet
    one oftener than a dry one, so hours are not independent.

    >>> round(stays_dry(0.05, 24), 2)
    0.67
    """
    if hours <= 0:
        return 1.0
    return (1 - chance) * math.pow(1 - chance * (1 - GOES_ON), hours - 1)


def turns_wet(before: float, chance: float) -> tuple[float, float]:
    """The chances that an hour is wet after a dry hour and after a wet one, where the hour before has one chance of
    rain and this one another: rain goes on as `GOES_ON` has it, and each hour keeps the chance it was given."""
    goes_on = GOES_ON + (1 - GOES_ON) * chance
    if before >= 1:
        return 0.0, chance
    begins = (chance - before * goes_on) / (1 - before)
    if before > 0 and begins < 0:
        return 0.0, min(chance / before, 1.0)
    if begins > 1:
        return 1.0, (chance - (1 - before)) / before
    return max(begins, 0.0), min(goes_on, 1.0)


def stays_dry_through(chances: Sequence[float]) -> float:
    """The chance that every hour of a row stays dry; where all have the same chance, as `stays_dry` has it.

    >>> round(stays_dry_through([0.05] * 24), 2)
    0.67
    """
    dry, before = 1.0, None
    for chance in chances:
        dry *= 1 - (chance if before is None else turns_wet(before, chance)[0])
        before = chance
    return dry


def evaporation(concrete: float, air: float, humidity: float, wind: float) -> float:
    """Water that leaves fresh concrete, kg/m² an hour: both °C, the air's humidity a share, wind m/s at ten metres
    (P. J. Uno, ACI Materials Journal 95, 1998; quoted from memory). Nothing where it would come out below.

    >>> round(evaporation(30, 30, 0.5, 16 / 3.6 / 0.5), 2)
    0.8
    """
    beside = 3.6 * wind * HALF_A_METRE
    leaves: float = max(concrete + 18, 0.0) ** 2.5 - humidity * max(air + 18, 0.0) ** 2.5
    return max(5 * leaves * (beside + 4) * 1e-6, 0.0)


def sun_overhead(latitude: float, on: date) -> float:
    """Radiation above the air, MJ/m² a day, at a latitude in degrees, south below nought (FAO-56, eq. 21 to 25;
    quoted from memory).

    >>> round(sun_overhead(-20, date(2026, 9, 3)), 1)
    32.2
    """
    day = on.timetuple().tm_yday
    phi = math.radians(max(min(latitude, 89.9), -89.9))
    nearer = 1 + 0.033 * math.cos(2 * math.pi * day / 365)
    tilt = 0.409 * math.sin(2 * math.pi * day / 365 - 1.39)
    sets = math.acos(max(min(-math.tan(phi) * math.tan(tilt), 1.0), -1.0))
    within = sets * math.sin(phi) * math.sin(tilt) + math.cos(phi) * math.cos(tilt) * math.sin(sets)
    return max(24 * 60 / math.pi * SOLAR * nearer * within, 0.0)


def evapotranspiration(least: float, most: float, sun: float) -> float:
    """Water that ground gives off in a day, mm: the day's least and most °C, radiation above the air as mm of water a
    day (Hargreaves; FAO-56, eq. 52).

    >>> round(evapotranspiration(14.8, 26.6, 40.6 * 0.408), 1)
    5.0
    """
    return max(0.0023 * ((least + most) / 2 + 17.8) * math.sqrt(max(most - least, 0.0)) * sun, 0.0)


def dries_in(over: float, thickness: float, density: float, a_day: float) -> float:
    """Days until a layer is no wetter than it may be: the moisture it has over that, a share of its dry mass;
    thickness, metres; dry density, kg/m³; mm of water that go in a day. An estimate. Infinite where none goes.

    >>> round(dries_in(0.02, 0.075, 2100, 5.05), 2)
    0.62
    """
    if over <= 0:
        return 0.0
    return over * thickness * density / a_day if a_day > 0 else math.inf
