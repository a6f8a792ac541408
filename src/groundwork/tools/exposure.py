"""Vibration at the hands in a day: A(8), with the action and limit values of directive 2002/44/EC."""

import math
from collections.abc import Iterable

ACTION, LIMIT = 2.5, 5.0
"""Daily exposure action and limit values, m/s² (directive 2002/44/EC, article 3)."""
WORKDAY = 8 * 3600.0


def daily_exposure(work: Iterable[tuple[float, float]]) -> float:
    """A(8) of `work`, each a vibration in m/s² held for so many seconds: √(Σ a²T / 8 h), m/s².

    >>> round(daily_exposure([(5.0, 4 * 3600)]), 4)
    3.5355
    """
    return math.sqrt(sum(vibration**2 * seconds for vibration, seconds in work) / WORKDAY)


def time_until(vibration: float, level: float = ACTION) -> float:
    """Seconds until a day with one machine comes to `level`; infinite where nothing shakes.

    >>> time_until(5.0)
    7200.0
    """
    return math.inf if vibration <= 0 else WORKDAY * (level / vibration) ** 2
