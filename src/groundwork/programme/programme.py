"""When is it done? A job's tasks played through over the weather as it may come and the pace as it may be."""

import statistics
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from enum import StrEnum
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from groundwork.daywork import TaskMoved
from groundwork.outdoors import Outdoors, Outlook, UsualWeather, WeatherLimit, goes_on, outlook, rains, whole_hour
from groundwork.programme.calendar import Floats, WorkHours, WorkingTime, work_hours
from groundwork.programme.played import Played, PlayTask, Warming, played
from groundwork.programme.tasks import PlanTask
from groundwork.weather import Forecast

RUNS = 2000
PACE_SPREAD = 0.20
"""How far a stage's pace is from what it is reckoned at, as the standard deviation of its logarithm (common practice,
no published source)."""
LIKELY, LATE = 0.5, 0.8
WARMER = {True: 1.5, False: 3.0}
"""°C by which it is warmer or colder than a forecast says, and than it usually is, standard deviation (common
practice)."""
CLASSES = 9
FEWEST_DAYS, MOST_DAYS = 21, 240
"""Days of the calendar that are looked at."""
SHORT, LONG = 1.5, 3.0
"""So many times the days it takes in fine weather are looked at first, and where a run ends later."""
AT_THE_END = 72.0
"""Hours before the last one looked at in which what would come after it counts."""
NOTICED = 0.25
"""Hours of work lost that nobody speaks of."""


class Holding(StrEnum):
    """What holds a task."""

    WEATHER = "weather"
    SETTING = "setting"
    MOVED = "moved"
    PACE = "pace"


class Hold(NamedTuple):
    """What held the end most, at a task, in so great a share of the runs; `after` is what had to set."""

    task: str
    what: Holding
    share: float
    after: str = ""


@dataclass(frozen=True)
class PlannedTask:
    """A task with when it is likely to begin and end, and when it ends if it comes late, None where that is beyond
    the days looked at; hours of work it loses on the mean to the weather and to what has to set first, and after what
    that is."""

    task: PlanTask
    begins: datetime | None
    ends: datetime | None
    late: datetime | None
    lost_to_weather: float
    lost_to_setting: float
    sets_after: str
    hangs: float
    """The share of the runs whose end hung on it."""
    moved: date | None = None


@dataclass(frozen=True)
class Programme:
    """A job to its end: `likely` in half of the runs it is done by then, `late` in four of five; None where it is not
    within the days looked at. `holds` what held it most, oftenest first. `known` is how far the forecast goes."""

    now: datetime
    tasks: tuple[PlannedTask, ...]
    likely: datetime | None
    late: datetime | None
    holds: tuple[Hold, ...]
    known: datetime | None
    takes: Floats
    """Seconds from now to the end of each run."""

    def of(self, key: str) -> PlannedTask | None:
        return next((each for each in self.tasks if each.task.key == key), None)

    def chance_by(self, day: date) -> float:
        """The share of the runs that are done by the end of a day."""
        return float(np.mean(self.takes <= (datetime.combine(day, datetime.max.time()) - self.now).total_seconds()))


class WorkTerms(NamedTuple):
    """How a crew works: how many, when, by which limits of weather, in what weather where nobody forecast any;
    `spread` as `PACE_SPREAD`."""

    people: int
    working: WorkingTime
    limits: Mapping[str, WeatherLimit]
    usual: UsualWeather = UsualWeather()
    spread: float = PACE_SPREAD


def programme(
    tasks: Sequence[PlanTask], moved: Mapping[str, TaskMoved], terms: WorkTerms, forecast: Forecast | None,
    now: datetime, seed: int = 1, runs: int = RUNS,
) -> Programme:  # fmt: skip
    """The programme of what is left to do. The same seed gives the same runs."""
    playing = [task.playing(terms.people, moved) for task in tasks]
    found = _play(tasks, playing, terms, forecast, now, seed, runs, SHORT)
    if found is None or not _ends_in_time(found):
        found = _play(tasks, playing, terms, forecast, now, seed, runs, LONG)
    if found is None:  # nobody works on any day that is looked at
        return Programme(now, (), None, None, (), None, np.full(1, np.inf))
    return _programme(tasks, playing, found, now)


class _Runs(NamedTuple):
    """What was played, in which hours and under what sky."""

    done: Played
    hours: WorkHours
    ahead: Outlook


def _play(
    tasks: Sequence[PlanTask], playing: Sequence[PlayTask], terms: WorkTerms, forecast: Forecast | None,
    now: datetime, seed: int, runs: int, times: float,
) -> _Runs | None:  # fmt: skip
    """The runs over `times` the days it takes in fine weather: what is drawn for an hour does not hang on how many
    hours there are. None where nobody works."""
    chance = np.random.default_rng(seed)
    stages = {stage: n for n, stage in enumerate(dict.fromkeys(task.stage for task in tasks))}
    paces = np.exp(chance.normal(0.0, terms.spread, (max(len(stages), 1), runs)))
    classes = chance.integers(0, CLASSES, runs)
    hours = work_hours(now, terms.working, _days(playing, terms.working, now, times))
    if not len(hours):
        return None
    ahead = outlook(whole_hour(now), int(hours.begins[-1]) + 2, forecast, terms.usual)
    rain = rains(ahead, runs, chance)
    open_ = {
        way: goes_on(Outdoors(way[0]), ahead, rain, terms.limits, way[1])
        for way in dict.fromkeys(task.way for task in playing)
    }
    factors = paces[[stages[task.stage] for task in tasks]] if tasks else np.ones((0, runs))
    return _Runs(played(playing, hours, open_, factors, _warming(ahead, playing, classes)), hours, ahead)


def _ends_in_time(of: _Runs) -> bool:
    """Whether every run ends so long before the last hour looked at that more hours would change none of them."""
    done = of.done
    return not len(done.ends) or bool(done.fits.all() and done.end.max() < of.hours.begins[-1] - AT_THE_END)


def _days(tasks: Sequence[PlayTask], working: WorkingTime, now: datetime, times: float) -> int:
    """How many days of the calendar are looked at: so many times what it takes in fine weather, and what sets."""
    of_work = sum(task.hours for task in tasks) / working.hours * 7 / (7 - len(working.off))
    sets = sum(each.matures for task in tasks for each in task.sets) / (24 * 8)
    moved = max(((task.not_before - now.date()).days for task in tasks if task.not_before), default=0)
    off = sum(day >= now.date() for day in working.days_off)
    return min(round(max(FEWEST_DAYS, times * (of_work + sets) + 10) + max(moved, 0) + off), MOST_DAYS)


def _warming(ahead: Outlook, tasks: Sequence[PlayTask], of_run: npt.NDArray[np.int64]) -> Warming:
    """Degree hours hour by hour, in as many classes of warmer and colder."""
    normal = statistics.NormalDist()
    known = np.arange(len(ahead)) < ahead.known
    spread = np.where(known, WARMER[True], WARMER[False])
    earned = {}
    for datum in {each.datum for task in tasks for each in task.sets}:
        rows = []
        for n in range(CLASSES):
            celsius = ahead.celsius + normal.inv_cdf((n + 0.5) / CLASSES) * spread
            gains = np.where(celsius <= 0, 0.0, np.maximum(celsius - datum, 0.0))
            rows.append(np.concatenate([[0.0], np.cumsum(gains)]))
        earned[datum] = np.array(rows)
    return Warming(earned, of_run)


def _programme(tasks: Sequence[PlanTask], playing: Sequence[PlayTask], found: _Runs, now: datetime) -> Programme:
    done, hours, ahead = found
    known = ahead.first + timedelta(hours=ahead.known) if ahead.known else None
    if not tasks:
        return Programme(now, (), now, now, (), known, np.zeros(1))

    def at(row: Floats, share: float) -> datetime | None:
        return hours.at(each) if np.isfinite(each := float(np.quantile(row, share, method="higher"))) else None

    planned = tuple(
        PlannedTask(
            task, at(done.starts[n], LIKELY), at(done.ends[n], LIKELY), at(done.ends[n], LATE),
            float(done.lost.weather[n].mean()), float(done.lost.setting[n].mean()), done.sets_after.get(task.key, ""),
            float(done.chain[n].mean()), playing[n].not_before,
        )
        for n, task in enumerate(tasks)
    )  # fmt: skip
    likely, late = at(done.end, LIKELY), at(done.end, LATE)
    seconds = (done.end - (now - hours.first) / timedelta(hours=1)) * 3600
    return Programme(now, planned, likely, late, held_by(done), known, seconds)


def held_by(done: Played) -> tuple[Hold, ...]:
    """What held each run most, of what its end hung on: to what most of its hours were lost; oftenest first."""
    kinds = (Holding.WEATHER, Holding.SETTING, Holding.MOVED, Holding.PACE)
    lost = np.stack(done.lost) * done.chain[None, :, :]
    flat = lost.reshape(len(kinds) * len(done.keys), -1)
    most = flat.argmax(axis=0)
    counts = np.bincount(most[flat.max(axis=0) > NOTICED], minlength=len(flat))
    found = []
    for n in np.argsort(-counts, kind="stable"):
        if counts[n]:
            kind, key = kinds[n // len(done.keys)], done.keys[n % len(done.keys)]
            after = done.sets_after.get(key, "") if kind is Holding.SETTING else ""
            found.append(Hold(key, kind, float(counts[n] / flat.shape[1]), after))
    return tuple(found)
