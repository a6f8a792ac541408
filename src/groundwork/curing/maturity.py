"""Maturity of concrete and mortar: hours times degrees over a datum (Nurse and Saul, quoted from memory)."""

import math
from datetime import datetime, timedelta

DATUM = -10.0
"""°C at and under which nothing sets; 0 for what vehicles stand on (ASTM C1074, quoted from memory)."""
BESIDE = 720.0
"""°C·h after which units are laid beside a haunch: a day at 20 °C (common practice, no published source)."""
PLATED = {False: 1440.0, True: 2160.0}
"""°C·h after which a plate may come near one, on foot and under vehicles (common practice, no published source)."""
LIFE, LIFE_AT, HALVES = 90.0, 20.0, 10.0
"""A mortar is workable for 90 minutes at 20 °C and for half of that 10 °C warmer (common practice)."""
LONGEST_LIFE = 180.0


def time_to(maturity: float, celsius: float, datum: float = DATUM) -> float:
    """Hours until `maturity`, °C·h, is reached when it is as warm all along; never at or under 0 °C.

    >>> [round(time_to(3360, each, 0.0) / 24, 1) for each in (20, 10)]
    [7.0, 14.0]
    """
    return math.inf if celsius <= 0 else maturity / (celsius - datum)


def ready_at(since: datetime, maturity: float, celsius: float) -> datetime | None:
    """When that is, to the minute and never sooner; None where it never comes."""
    hours = time_to(maturity, celsius)
    return since + timedelta(minutes=math.ceil(hours * 60 - 1e-6)) if math.isfinite(hours) else None


def mortar_life(celsius: float) -> float:
    """How long a mortar may be worked once it is mixed, minutes; in the cold no longer than three hours.

    >>> mortar_life(20), mortar_life(30)
    (90.0, 45.0)
    """
    return float(min(LIFE * 2 ** ((LIFE_AT - celsius) / HALVES), LONGEST_LIFE))
