"""Dry enough to fill? The dew point, and the chance that it stays dry."""

import math

MAGNUS = 17.62, 243.12
"""Of water, dimensionless and °C (Magnus; WMO Guide to Instruments and Methods of Observation, No. 8)."""
GOES_ON = 0.7
"""The chance that a wet hour follows a wet hour (common practice, no published source)."""
WANTED = 0.7
"""The chance of staying dry that is wanted for a bonded filling (common practice, no published source)."""


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
