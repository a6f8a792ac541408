"""Handing over: from when it may be walked and driven on, how it is cared for, and what is looked at again when.

Common practice, no published source; the makers' data and the engineer come first."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from groundwork.brief import Traffic
from groundwork.lifts import May
from groundwork.schools import School, rechecks


@dataclass(frozen=True)
class Handover:
    """`walk` and `drive` are the first days, `drive` None where nobody ever drives on it; `again` what is looked at
    again, soonest first."""

    walk: date
    drive: date | None
    care: tuple[str, ...]
    again: tuple[May, ...]


def handover(school: School, traffic: Traffic, filled_on: date, cures: Sequence[May] = ()) -> Handover:
    """What is handed over, counted from the day the joints were filled; `cures` is what a pour under it may carry
    when."""
    ready = {may.what: may.day for may in cures if may.day is not None}
    walk = max(filled_on + timedelta(days=school.walk_days), ready.get("walked on", filled_on))
    drive = None
    if school.drive_days is not None and traffic is not Traffic.FOOT:
        drive = max(filled_on + timedelta(days=school.drive_days), ready.get("cars", filled_on), walk)
    again = tuple(May(each.what, filled_on + timedelta(days=each.days)) for each in rechecks())
    return Handover(walk, drive, school.care, again)
