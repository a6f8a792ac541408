"""Who is where? A crew's people and machines over all its jobs, and why a day cannot be held."""

from groundwork.week.reasons import (
    why_late,
)
from groundwork.week.solve import (
    Placed,
    solved,
)
from groundwork.week.values import (
    MOST_SLOTS,
    Follows,
    WeekJob,
    WeekQuestion,
    WeekTask,
)

__all__ = [
    "MOST_SLOTS",
    "Follows",
    "Placed",
    "WeekJob",
    "WeekQuestion",
    "WeekTask",
    "solved",
    "why_late",
]
