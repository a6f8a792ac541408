"""What is asked: jobs with their tasks, people, machines, over half days."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

MOST_SLOTS = 120
"""Half days that are looked at, at the most."""


@dataclass(frozen=True)
class Follows:
    """A task that has to be done before, and hours of the clock that pass after it."""

    task: str
    hours: float = 0.0


@dataclass(frozen=True)
class WeekTask:
    """A task of a job: person-hours; at most so many people at once; machines it is done with; what is before it;
    half days on which its weather keeps it waiting; from which half day on it may begin. What somebody has said of
    it: who is at it, and when it begins."""

    key: str
    job: str
    hours: float
    most: int = 2
    machines: tuple[str, ...] = ()
    after: tuple[Follows, ...] = ()
    closed: frozenset[int] = frozenset()
    from_slot: int = 0
    people: frozenset[str] = frozenset()
    begins: int | None = None


@dataclass(frozen=True)
class WeekJob:
    """A job, and the number of half days by whose end it was promised; None where nothing was."""

    key: str
    due: int | None = None


@dataclass(frozen=True)
class WeekQuestion:
    """Everything that is asked. `at` is when each half day begins, hours of the clock from the first on; each is so
    many `hours` long. `off` are half days on which somebody is not there."""

    at: Sequence[float]
    hours: float
    people: tuple[str, ...]
    machines: Mapping[str, int]
    jobs: tuple[WeekJob, ...]
    tasks: tuple[WeekTask, ...]
    off: Mapping[str, frozenset[int]] = field(default_factory=dict)

    @property
    def slots(self) -> int:
        return len(self.at)

    def ready_after(self, end: int, hours: float) -> int:
        """The first half day that begins no sooner than so many hours of the clock after the half day before `end`
        has ended."""
        if hours <= 0 or end == 0:
            return end
        done = self.at[end - 1] + self.hours + hours
        return next((n for n in range(end, self.slots) if self.at[n] >= done - 1e-9), self.slots)


def placed_slots(task: WeekTask, begins: int, team: int, slots: int, hours: float) -> int | None:
    """How many half days a task takes from one on with so many people, those its weather closes counted; None where
    it does not end, or where it would begin on one of them."""
    if begins in task.closed:
        return None
    left = math.ceil(task.hours / team / hours - 1e-9) or 1
    for n in range(begins, slots):
        left -= n not in task.closed
        if left == 0:
            return n - begins + 1
    return None
