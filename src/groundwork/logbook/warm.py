"""How warm it was, as it was recorded."""

from groundwork.curing import Warmth
from groundwork.daywork import DayWas, Thermometer, ThermometerRead
from groundwork.logbook.logbook import Logbook


def warmth(logbook: Logbook, made_at: float) -> Warmth:
    """How warm it was by thermometers and days as recorded; what nobody recorded as warm as when it was made, °C."""
    reads = sorted(logbook.of_kind(ThermometerRead).values(), key=lambda read: read.at)
    by = {of: tuple((read.at, read.celsius) for read in reads if read.of is of) for of in Thermometer}
    days = {day.on: (day.least, day.most) for day in logbook.of_kind(DayWas).values()}
    return Warmth(made_at, by[Thermometer.CONCRETE], by[Thermometer.AIR], days)
