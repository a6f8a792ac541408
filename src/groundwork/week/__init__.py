"""Who is where? A crew's people and machines over all its jobs, and why a day cannot be held."""

from groundwork.week.reasons import (
    HeldBy,
    why_late,
)
from groundwork.week.solve import (
    Placed,
    WeekPlan,
    solved,
)
from groundwork.week.values import (
    MOST_SLOTS,
    Follows,
    WeekJob,
    WeekQuestion,
    WeekTask,
    placed_slots,
)

__all__ = [
    "MOST_SLOTS",
    "Follows",
    "HeldBy",
    "Placed",
    "WeekJob",
    "WeekPlan",
    "WeekQuestion",
    "WeekTask",
    "placed_slots",
    "solved",
    "why_late",
]
