"""Will the weather allow it? Limits of work, each hour of a forecast, and the many weathers that may come."""

from groundwork.outdoors.ahead import (
    Outlook,
    UsualWeather,
    goes_on,
    outlook,
    rains,
    whole_hour,
)
from groundwork.outdoors.hours import (
    Minded,
    Says,
    WorkHour,
    goes_until,
    minded,
    worked_hours,
)
from groundwork.outdoors.limits import (
    Held,
    Outdoors,
    WeatherLimit,
    WrongSide,
    limits_of,
    may_be,
    scale_of,
)

__all__ = [
    "Held",
    "Minded",
    "Outdoors",
    "Outlook",
    "Says",
    "UsualWeather",
    "WeatherLimit",
    "WorkHour",
    "WrongSide",
    "goes_on",
    "goes_until",
    "limits_of",
    "may_be",
    "minded",
    "outlook",
    "rains",
    "scale_of",
    "whole_hour",
    "worked_hours",
]
