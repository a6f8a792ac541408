"""What can we do next, and until when? The stages open now, hour by hour; how much bed before the rain; what to sheet
tonight."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from groundwork.assess import Assessment
from groundwork.base import Family
from groundwork.bedwork import BayScreeded
from groundwork.curing import HARD, WALKED, earned
from groundwork.measures import Words
from groundwork.outdoors import Says, WeatherLimit, WorkHour, goes_until, worked_hours
from groundwork.programme.calendar import WorkingTime
from groundwork.programme.tasks import BED, LAID, work_of
from groundwork.stages import Gate
from groundwork.weather import Forecast, HourAhead, stays_dry_through

LIKELY_WET = 0.2
"""From this chance of any rain in a night on one sheets (common practice)."""
NIGHT_FROST, MORTAR_FROST = 0.0, 2.0
GREEN = timedelta(hours=48)
"""Mortar is kept from frost for so long (common practice)."""
NOT_OUTSIDE = frozenset({"brief", "handover"})


@dataclass(frozen=True)
class StageNow:
    """A stage that may be worked at, in the hours of a day: until when it goes on; None where nothing known stops
    it."""

    stage: str
    hours: tuple[WorkHour, ...]
    until: datetime | None

    @property
    def now(self) -> WorkHour | None:
        return next(iter(self.hours), None)


@dataclass(frozen=True)
class BedToday:
    """How much bed may be open: `square_metres` that so many lay over by `until`, which is when the rain comes, or
    `is_rain` not, work stops."""

    square_metres: float
    until: datetime
    is_rain: bool


@dataclass(frozen=True)
class ToCover:
    """What wants a sheet or more for the night, and why."""

    what: Words
    why: Words
    insulates: bool = False


def open_stages(there: Assessment) -> tuple[str, ...]:
    """The stages one may work at out of doors: the one in hand, those beside it, and a bed's paving with it; while
    only the brief is, the one that comes first after it."""
    line, steps = there.stages.line, there.stages.steps
    signed = {answer.stage.key for answer in line if answer.gate.is_signed}
    in_hand = there.stages.in_hand_key
    begun = {answer.stage.key for answer in line if answer.gate in (Gate.HELD, Gate.READY)}
    opened = {key for key, step in steps.items() if key == in_hand or set(step.stands_on) <= signed} | begun
    if BED in opened:
        opened.add(LAID)
    to_come = [key for key in steps if key not in signed and key not in NOT_OUTSIDE]
    return tuple(key for key in to_come if key in opened) or tuple(to_come[:1])


def stages_now(
    there: Assessment, forecast: Forecast, limits: Mapping[str, WeatherLimit], first: datetime, last: datetime
) -> tuple[StageNow, ...]:
    """Each stage one may work at, hour by hour from `first` to `last`, as far as the forecast goes."""
    found = []
    for stage in open_stages(there):
        work, dry_for = work_of(there, stage)
        hours = worked_hours(work, forecast, first, last, limits, dry_for)
        found.append(StageNow(stage, hours, goes_until(hours, first)))
    return tuple(found)


def bed_today(
    there: Assessment, stages: tuple[StageNow, ...], people: int, now: datetime, working: WorkingTime
) -> BedToday | None:
    """How far to screed: as much as so many lay over before the bed or its units have to wait, or work stops; None
    where no bed is in hand, or work is over."""
    mine = [each for each in stages if each.stage in (BED, LAID)]
    if not there.bedding.is_there or not any(each.stage == BED for each in mine):
        return None
    opens, closes = working.opens(now.date()), working.closes(now.date())
    begins = max(now, opens)
    if not working.works(now.date()) or begins >= closes:
        return None
    wet = [each.hour.at for stage in mine for each in stage.hours if each.says is not Says.GO and each.hour.rain > 0]
    stops = [each.until for each in mine if each.until is not None]
    until = max(min([*stops, *wet, closes]), begins)
    rate = there.laying.rate or there.bedding.laying_rate
    hours = (until - begins) / timedelta(hours=1)
    return BedToday(min(rate * people * hours, float(there.site.area.area)), until, until < closes)


def to_cover(there: Assessment, forecast: Forecast, now: datetime, working: WorkingTime) -> tuple[ToCover, ...]:
    """What to sheet for the night: from the end of work, or from now where that is past, until work begins again on
    the next day of the calendar."""
    first = max(now, working.closes(now.date()))
    tomorrow = now.date() + timedelta(days=1)
    night = forecast.between(first.replace(minute=0, second=0, microsecond=0), working.opens(tomorrow))
    return tuple(_covered(there, night, now)) if night else ()


def _covered(there: Assessment, night: tuple[HourAhead, ...], now: datetime) -> Iterator[ToCover]:
    coldest = min(hour.celsius for hour in night)
    wet = 1 - stays_dry_through([hour.chance for hour in night])
    rain = Words("rain in the night: {percent} %", counts={"percent": round(wet * 100)})
    cold = Words("{t} in the night", celsius={"t": round(coldest, 1)})
    rains, signed = wet >= LIKELY_WET, {a.stage.key for a in there.stages.line if a.gate.is_signed}
    curing = there.works.curing
    if curing:
        hard = earned(curing.since, now, curing.warm)
        if hard < HARD and coldest < 4:
            yield ToCover(Words("the slab: it has not got its first strength"), cold, insulates=True)
        elif hard < WALKED and rains:
            yield ToCover(Words("the slab"), rain)
    haunches = [wait for side in there.edges.runs if (wait := there.edges.haunch(side))]
    if any(now - wait.made.at < GREEN for wait in haunches) and coldest < MORTAR_FROST:
        yield ToCover(Words("haunches made in the last two days"), cold, insulates=True)
    if any(now - batch.mixed.at < GREEN for batch in there.bedding.batches) and coldest < MORTAR_FROST:
        yield ToCover(Words("what lies in mortar of the last two days"), cold, insulates=True)
    open_bays = [name for name, bay in there.bedding.bays.items() if bay.is_open]
    screeded = there.logbook.of_kind(BayScreeded)
    if open_bays and LAID in there.stages.steps and LAID not in signed and screeded:
        names = {"text": ", ".join(open_bays)}
        if coldest <= NIGHT_FROST:
            yield ToCover(Words("bed that is screeded: {text}", names=names), cold, insulates=True)
        elif rains:
            yield ToCover(Words("bed that is screeded: {text}", names=names), rain)
    dense = any(layer.family is Family.DENSE for layer in there.job.specification.under_bedding)
    if there.stages.in_hand_key == "base-lifts" and dense and rains:
        yield ToCover(Words("the heap of stone with fines, and loose stone that is not compacted"), rain)
    if there.bedding.is_there and {BED, LAID} & set(there.stages.steps) - signed and "base-proof" in signed and rains:
        yield ToCover(Words("the heap for the bed"), rain)
    filled, fill = there.jointing.filled_at, there.jointing.fill
    if filled and fill.dry and rains and (now - filled) / timedelta(hours=1) < fill.dry:
        yield ToCover(Words("joints that have not set"), rain)
