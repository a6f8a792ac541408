"""What was the weather, what was promised, what moved? Entries of days."""

from groundwork.daywork.kinds import (
    DayWas,
    Promised,
    TaskMoved,
    Thermometer,
    ThermometerRead,
)

__all__ = [
    "DayWas",
    "Promised",
    "TaskMoved",
    "Thermometer",
    "ThermometerRead",
]
