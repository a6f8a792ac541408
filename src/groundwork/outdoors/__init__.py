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
    "minded",
    "outlook",
    "rains",
    "whole_hour",
    "worked_hours",
]
