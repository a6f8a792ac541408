"""A job's programme as it stands now, by the record, the newest forecast and how its crew works; what has changed."""

import zlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta
from functools import cached_property
from typing import Any

from groundwork.assess import Assessment
from groundwork.daywork import Promised, TaskMoved
from groundwork.programme import Programme, WorkingTime, WorkTerms, programme, tasks_left
from groundwork.weather import Forecast
from nivelum.days.models import KeptProgramme
from nivelum.jobs.lessons import hours_so_far, paces_of
from nivelum.jobs.models import Job
from nivelum.jobs.services import Snapshot, snapshot_at
from nivelum.recording.moments import minute_now
from nivelum.weather.models import KeptForecast, WeatherTerms
from nivelum.weather.services import newest, weather_of, work_terms, working_time

REASONED = 600
"""Runs by which it is told what moved the end."""
NOTICED = timedelta(hours=1)
"""An end that moves by less is the same."""


@dataclass(frozen=True)
class DaysNow:
    """What a programme hangs on beside the record: the time on site, the forecast that holds, how the crew works and
    at what pace its jobs have gone."""

    now: datetime
    kept: KeptForecast | None
    weather: WeatherTerms
    working: WorkingTime
    terms: WorkTerms
    paces: Mapping[str, float]

    @cached_property
    def forecast(self) -> Forecast | None:
        """The forecast that holds, unless it ended before now."""
        known = self.kept.forecast if self.kept else None
        return known if known is not None and known.ends > self.now else None

    @property
    def usual_celsius(self) -> float:
        return (self.weather.least + self.weather.most) / 2


def standing(job: Job) -> DaysNow:
    """As it is now; a handful of queries."""
    weather = weather_of(job.crew)
    working = working_time(job.crew, weather)
    terms = work_terms(job.crew, weather, working)
    return DaysNow(minute_now(), newest(job.crew), weather, working, terms, paces_of(job))


def moved_of(there: Assessment) -> dict[str, TaskMoved]:
    """Tasks that are not begun before a day, by the newest that was said of each."""
    found = {entry.task: entry for entry in there.logbook.of_kind(TaskMoved).values()}
    return {task: entry for task, entry in found.items() if entry.not_before is not None}


def promised_of(there: Assessment) -> Promised | None:
    """What was promised last; None where nothing is."""
    last = next(reversed(there.logbook.of_kind(Promised).values()), None)
    return last if last and last.day else None


def programme_of(shot: Snapshot, of: DaysNow) -> Programme:
    """When it is done; played once for a record, a forecast and an hour."""
    terms = (of.terms.people, of.weather.usual, sorted(of.weather.limits.items()), sorted(of.paces.items()))
    key = (shot.head, of.kept and of.kept.pk, of.working, terms, f"{of.now:%Y-%m-%d %H}")
    known: tuple[Any, Programme] | None = shot.parts.get("programme")
    if known and known[0] == key:
        return known[1]
    found = played(shot, of, of.forecast, of.now)
    shot.parts["programme"] = key, found
    return found


def played(
    shot: Snapshot, of: DaysNow, forecast: Forecast | None, now: datetime, runs: int | None = None,
    moved: Mapping[str, TaskMoved] | None = None,
) -> Programme:  # fmt: skip
    """The programme by a record, a forecast and a moment."""
    there = shot.assessment
    a_day = of.terms.people * of.working.hours
    tasks = tasks_left(there, of.paces, hours_so_far(shot), a_day, now)
    seed = zlib.crc32(str(shot.job.id).encode())
    more = {"runs": runs} if runs else {}
    return programme(tasks, moved_of(there) if moved is None else moved, of.terms, forecast, now, seed, **more)


def programme_data(found: Programme) -> dict[str, Any]:
    """As JSON values."""
    return {
        "made": found.now.isoformat(timespec="minutes"), "likely": _iso(found.likely), "late": _iso(found.late),
        "tasks": {
            each.task.key: [_iso(each.begins), _iso(each.ends), _iso(each.late)] for each in found.tasks
        },
    }  # fmt: skip


def _iso(at: datetime | None) -> str | None:
    return at.isoformat(timespec="minutes") if at else None


def keep_todays(shot: Snapshot, of: DaysNow, found: Programme) -> None:
    """Keeps it as it stood today, once. Two queries; none where this process has seen it kept."""
    if shot.parts.get("programme kept") == of.now.date():
        return
    shot.parts["programme kept"] = of.now.date()
    KeptProgramme.objects.get_or_create(
        job=shot.job, on=of.now.date(),
        defaults={"at_entry": shot.number, "forecast": of.kept, "data": programme_data(found)},
    )  # fmt: skip


def kept_before(job: Job, day: date) -> KeptProgramme | None:
    """The programme as it stood last on a day before; one query."""
    return KeptProgramme.objects.filter(job=job, on__lt=day).select_related("forecast__crew").first()


@dataclass(frozen=True)
class Moved:
    """The likely end as it was and as it is; None where it was or is not within the days looked at."""

    on: date
    before: datetime | None
    now: datetime | None

    @property
    def by(self) -> timedelta | None:
        return self.now - self.before if self.now and self.before else None

    @property
    def is_moved(self) -> bool:
        return self.now != self.before if self.by is None else abs(self.by) >= NOTICED


def since_then(kept: KeptProgramme, found: Programme) -> Moved:
    """How the likely end has moved since a programme that was kept."""
    before = kept.data.get("likely")
    return Moved(kept.on, datetime.fromisoformat(before) if before else None, found.likely)


@dataclass(frozen=True)
class Cause:
    """What moved the likely end, and by how much: the time that went by, what was recorded, the forecast."""

    what: str
    by: timedelta


def causes(shot: Snapshot, of: DaysNow, kept: KeptProgramme) -> tuple[Cause, ...]:
    """What moved the end since then, one thing after the other: what is left to do then, by the forecast of then,
    today; what was recorded since; the forecast of today. Four programmes are played, with fewer runs."""
    then = snapshot_at(shot.job, kept.at_entry)
    was = datetime.fromisoformat(kept.data["made"])
    old = kept.forecast.forecast if kept.forecast else None
    still = old if old is not None and old.ends > of.now else None
    steps: tuple[tuple[str, Callable[[], Programme]], ...] = (
        ("", lambda: played(then, of, old, was, REASONED)),
        ("time", lambda: played(then, of, still, of.now, REASONED)),
        ("record", lambda: played(shot, of, still, of.now, REASONED)),
        ("forecast", lambda: played(shot, of, of.forecast, of.now, REASONED)),
    )
    found, last = list[Cause](), None
    for what, play in steps:
        likely = play().likely
        if likely and last and abs(likely - last) >= NOTICED:
            found.append(Cause(what, likely - last))
        last = likely or last
    return tuple(found)


def as_moved(shot: Snapshot, of: DaysNow, moved: TaskMoved) -> Programme:
    """The programme as it would be were a task moved so: what follows, before anybody says it."""
    there = moved_of(shot.assessment) | {moved.task: moved}
    if moved.not_before is None:
        there.pop(moved.task)
    return replace(played(shot, of, of.forecast, of.now, REASONED, there), now=of.now)
