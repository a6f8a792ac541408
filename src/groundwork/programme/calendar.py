"""When a crew works: from what hour, how long, on which days; hours of work among the hours of the clock."""

from dataclasses import dataclass, field
from datetime import date, datetime, time, timedelta

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
FIRST_HOUR = 7.0


@dataclass(frozen=True)
class WorkingTime:
    """From which hour of a day on so many `hours` are worked, on which weekdays not, Monday 0, and on which days
    not."""

    begins: float = FIRST_HOUR
    hours: float = 8.0
    off: frozenset[int] = frozenset({5, 6})
    days_off: frozenset[date] = field(default_factory=frozenset)

    def __post_init__(self) -> None:
        if (
            not 0 < self.hours <= 24
            or not 0 <= self.begins < 24
            or self.begins + self.hours > 24
            or len(self.off) > 6
        ):
            raise ValueError("somebody has to work on some day, and be home by midnight")

    def works(self, day: date) -> bool:
        return day.weekday() not in self.off and day not in self.days_off

    def opens(self, day: date) -> datetime:
        """When work begins on a day."""
        return datetime.combine(day, time()) + timedelta(hours=self.begins)

    def closes(self, day: date) -> datetime:
        return self.opens(day) + timedelta(hours=self.hours)


@dataclass(frozen=True)
class WorkHours:
    """The working hours from `first` on: each `begins` so many hours of the clock after that and is so `long`, an
    hour or what is left of a day. A place among them is a number: 2.5 is in the middle of the third."""

    first: datetime
    begins: Floats
    long: Floats

    def __len__(self) -> int:
        return len(self.begins)

    @property
    def clock(self) -> npt.NDArray[np.int64]:
        """The hour of the clock each begins in, counted from `first`."""
        return np.floor(self.begins + 1e-9).astype(np.int64)

    def place(self, hours: Floats) -> Floats:
        """The place among them of hours of the clock since `first`: outside of work where it goes on next."""
        n = np.searchsorted(self.begins, hours + 1e-9, side="right") - 1
        inside = np.clip((hours - self.begins[np.maximum(n, 0)]) / self.long[np.maximum(n, 0)], 0.0, 1.0)
        return np.where(n < 0, 0.0, n + inside)

    def hour(self, place: Floats) -> Floats:
        """Hours of the clock since `first` at which work has come to a place: at the end of an hour, not at the
        beginning of the next."""
        n = np.clip(np.ceil(place - 1e-9).astype(np.int64) - 1, 0, len(self) - 1)
        return self.begins[n] + np.clip(place - n, 0.0, 1.0) * self.long[n]

    def start(self, place: Floats) -> Floats:
        """Hours of the clock since `first` at which work goes on from a place: at the beginning of an hour, not at
        the end of the one before."""
        n = np.clip(np.floor(place + 1e-9).astype(np.int64), 0, len(self) - 1)
        return self.begins[n] + np.clip(place - n, 0.0, 1.0) * self.long[n]

    def at(self, hours: float) -> datetime:
        return self.first + timedelta(minutes=round(hours * 60))


def work_hours(now: datetime, working: WorkingTime, days: int) -> WorkHours:
    """The working hours of so many days of the calendar from `now` on, counted from the hour of the clock that `now`
    is in."""
    first = now.replace(minute=0, second=0, microsecond=0)
    begins, long = list[float](), list[float]()
    for n in range(days):
        day = first.date() + timedelta(days=n)
        if not working.works(day):
            continue
        at, closes = max(working.opens(day), now), working.closes(day)
        while closes - at > timedelta(seconds=1):
            whole = (at + timedelta(hours=1)).replace(minute=0, second=0, microsecond=0)
            until = min(whole, closes)
            begins.append((at - first) / timedelta(hours=1))
            long.append((until - at) / timedelta(hours=1))
            at = until
    return WorkHours(first, np.array(begins), np.array(long))
