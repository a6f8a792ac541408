"""What is the weather? Forecasts, and what air and water do: dew, evaporation, dry spells, drying."""

from groundwork.weather.air import (
    WANTED,
    dew_point,
    dries_in,
    evaporation,
    evapotranspiration,
    stays_dry,
    stays_dry_through,
    sun_overhead,
    turns_wet,
)
from groundwork.weather.forecast import (
    HOUR,
    LARGEST_FORECAST,
    SHOWER,
    DayAhead,
    Forecast,
    HourAhead,
    forecast_data,
    of_a_day,
    of_days,
    read_forecast,
)

__all__ = [
    "HOUR",
    "LARGEST_FORECAST",
    "SHOWER",
    "WANTED",
    "DayAhead",
    "Forecast",
    "HourAhead",
    "dew_point",
    "dries_in",
    "evaporation",
    "evapotranspiration",
    "forecast_data",
    "of_a_day",
    "of_days",
    "read_forecast",
    "stays_dry",
    "stays_dry_through",
    "sun_overhead",
    "turns_wet",
]
