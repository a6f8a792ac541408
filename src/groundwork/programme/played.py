"""A job played through in many runs at once: its tasks one after the other by one crew, each in the hours its weather
lets it, what sets in between as warm as it is; what held each run."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from groundwork.programme.calendar import Floats, WorkHours

Bools = npt.NDArray[np.bool_]

Way = tuple[str, float]
"""How hours are to be had: the work as the weather sees it, and how long it has to stay dry after."""
CREW, SETTING, MOVED = 0, 1, 2


@dataclass(frozen=True)
class Sets:
    """What has to set before a task: °C·h over a datum from the end of the task `after` on; or `left` of them, where
    it was placed already."""

    after: str
    matures: float
    datum: float
    left: float | None = None


@dataclass(frozen=True)
class PlayTask:
    """A task as it is played: hours the crew takes for it, in hours of what `way`; what has to set first; not before
    a day."""

    key: str
    hours: float
    way: Way
    sets: tuple[Sets, ...] = ()
    not_before: date | None = None


class LostHours(NamedTuple):
    """Hours of work lost in each run at each task, shape (tasks, runs): to weather while it was done, waiting for
    what sets, waiting for its day, by a slower pace."""

    weather: Floats
    setting: Floats
    moved: Floats
    pace: Floats


@dataclass(frozen=True)
class Played:
    """The runs. `starts` and `ends` are hours of the clock since the first, shape (tasks, runs); `chain` says which
    task the end of a run hung on; `fits` which runs end within the hours looked at: what does not is infinitely
    late."""

    keys: tuple[str, ...]
    starts: Floats
    ends: Floats
    lost: LostHours
    chain: Bools
    fits: Bools
    sets_after: Mapping[str, str] = field(default_factory=dict)

    @property
    def end(self) -> Floats:
        """When each run ends."""
        last: Floats = self.ends.max(axis=0)
        return last


class Warming(NamedTuple):
    """°C·h earned by each hour of the clock since the first, over a datum, as warm as each of some classes has it:
    shape (classes, hours + 1); and the class of each run."""

    earned: Mapping[float, Floats]
    of_run: npt.NDArray[np.int64]


def played(
    tasks: Sequence[PlayTask], hours: WorkHours, open_: Mapping[Way, Bools], factors: Floats, warming: Warming
) -> Played:
    """Tasks in their order. `open_` says in which hour of the clock of each run work of a way goes on, shape (runs,
    hours of the clock); `factors` by how much longer each task takes in each run, shape (tasks, runs)."""
    runs = factors.shape[1]
    cumulated = {way: _worked(hours, open_[way]) for way in dict.fromkeys(task.way for task in tasks)}
    shape = len(tasks), runs
    starts, ends = np.zeros(shape), np.zeros(shape)
    lost = LostHours(*(np.zeros(shape) for _kind in LostHours._fields))
    why = np.full(shape, CREW, dtype=np.int8)
    behind = np.full(shape, -1, dtype=np.int64)
    index = {task.key: n for n, task in enumerate(tasks)}
    free, fits, sets_after = np.zeros(runs), np.ones(runs, dtype=bool), dict[str, str]()
    for n, task in enumerate(tasks):
        ready = free
        for each in task.sets:
            since = ends[index[each.after]] if each.after in index else np.zeros(runs)
            at = _set_at(each, since, warming)
            place = hours.place(np.minimum(at, 1e9))
            later = place > ready + 1e-9
            why[n][later], behind[n][later] = SETTING, index.get(each.after, -1)
            ready = np.where(later, place, ready)
            sets_after[task.key] = each.after
        if task.not_before is not None:
            day = hours.place(np.full(runs, _since_first(hours, task.not_before)))
            later = day > ready + 1e-9
            why[n][later], behind[n][later] = MOVED, -1
            ready = np.where(later, day, ready)
        waited = _between(hours, free, ready)
        lost.setting[n] = np.where(why[n] == SETTING, waited, 0.0)
        lost.moved[n] = np.where(why[n] == MOVED, waited, 0.0)
        takes = task.hours * factors[n]
        begun, ended, fit = _done(cumulated[task.way], hours, ready, takes)
        lost.weather[n] = np.maximum(_between(hours, ready, ended) - takes, 0.0)
        lost.pace[n] = np.maximum(takes - task.hours, 0.0)
        fits = fits & fit
        starts[n] = np.where(begun < len(hours) - 1e-9, hours.start(begun), np.inf)
        ends[n] = np.where(fits, hours.hour(ended), np.inf)
        free = ended
    return Played(tuple(index), starts, ends, lost, _chain(why, behind), fits, sets_after)


def _since_first(hours: WorkHours, day: date) -> float:
    return ((day - hours.first.date()).days * 24 - hours.first.hour) * 1.0


class _Worked(NamedTuple):
    """Hours of work that are to be had in each hour, shape (runs, hours), and in all before it, (runs, hours + 1);
    `sought` is what was had after each hour, run after run in one rising row."""

    each: Floats
    before: Floats
    sought: Floats


def _worked(hours: WorkHours, open_: Bools) -> _Worked:
    clock = np.minimum(hours.clock, open_.shape[1] - 1)
    each = open_[:, clock] * hours.long
    before = np.zeros((len(each), each.shape[1] + 1))
    np.cumsum(each, axis=1, out=before[:, 1:])
    return _Worked(each, before, (before[:, 1:] + _apart(each)[:, None]).ravel())


def _apart(each: Floats) -> Floats:
    """What keeps each run's hours over those of the run before it: no run has so many."""
    runs, columns = each.shape
    apart: Floats = np.arange(runs) * (columns + 1.0)
    return apart


def _done(worked: _Worked, hours: WorkHours, ready: Floats, takes: Floats) -> tuple[Floats, Floats, Bools]:
    """Places where work of so many hours begins and ends, and whether it ends at all."""
    runs, columns = worked.each.shape
    at = np.arange(runs)
    n = np.minimum(np.floor(ready + 1e-9).astype(np.int64), columns - 1)
    share = np.clip(ready - n, 0.0, 1.0)
    had = worked.before[at, n] + share * worked.each[at, n]
    begun = _where(worked, had + 1e-4)
    ended = _where(worked, had + np.maximum(takes, 0.0))
    begun = np.where((takes > 0) & np.isfinite(begun), np.maximum(begun, ready), ready)
    fit = np.isfinite(ended)
    ended = np.where(fit, ended, columns)
    return begun, np.maximum(ended, ready), fit


def _where(worked: _Worked, target: Floats) -> Floats:
    """The place at which so many hours were worked; infinite where that many are not to be had."""
    runs, columns = worked.each.shape
    at = np.arange(runs)
    found = np.searchsorted(worked.sought, target - 1e-6 + _apart(worked.each), side="left") - at * columns
    n = np.minimum(found, columns - 1)
    each = worked.each[at, n]
    share = np.clip((target - worked.before[at, n]) / np.where(each > 0, each, 1.0), 0.0, 1.0)
    return np.where(found >= columns, np.inf, n + share)


def _between(hours: WorkHours, first: Floats, last: Floats) -> Floats:
    """Working hours between two places."""
    total = np.concatenate([[0.0], np.cumsum(hours.long)])

    def worked(place: Floats) -> Floats:
        n = np.minimum(np.floor(place + 1e-9).astype(np.int64), len(hours) - 1)
        return total[n] + np.clip(place - n, 0.0, 1.0) * hours.long[n]

    return np.maximum(worked(last) - worked(first), 0.0)


def _set_at(each: Sets, since: Floats, warming: Warming) -> Floats:
    """Hours of the clock at which it has set in each run; infinite where it does not within the hours looked at."""
    table = warming.earned[each.datum]
    needed = each.matures if each.left is None else each.left
    if needed <= 0:
        return since * 0.0 if each.left is not None else since
    found = np.full(len(since), np.inf)
    clock = np.arange(table.shape[1], dtype=float)
    for number, row in enumerate(table):
        mine = warming.of_run == number
        if mine.any():
            target = np.interp(since[mine], clock, row) + needed
            at = np.searchsorted(row, target - 1e-9)
            inside = at < len(row)
            last = np.minimum(at, len(row) - 1)
            gain = row[last] - row[np.maximum(last - 1, 0)]
            share = np.where(gain > 0, (target - row[np.maximum(last - 1, 0)]) / np.where(gain > 0, gain, 1), 0)
            found[mine] = np.where(inside, np.maximum(last - 1, 0) + share, np.inf)
    return found


def _chain(why: npt.NDArray[np.int8], behind: npt.NDArray[np.int64]) -> Bools:
    """The tasks that the end hung on in each run: from the last back, to the task before it or to what had to set."""
    tasks, runs = why.shape
    chain = np.zeros((tasks, runs), dtype=bool)
    if not tasks:
        return chain
    chain[-1] = True
    at = np.arange(runs)
    for n in range(tasks - 1, 0, -1):
        on = chain[n]
        chain[n - 1] |= on & (why[n] == CREW)
        set_ = on & (why[n] == SETTING) & (behind[n] >= 0)
        chain[behind[n][set_], at[set_]] = True
    return chain
