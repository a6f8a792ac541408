"""Is it compacted? Lifts as planned and as made, their tests, the ground under them, pours and deliveries."""

from groundwork.lifts.data import (
    ground_data,
    lift_data,
    pour_data,
    works_data,
)
from groundwork.lifts.history import (
    Coverage,
)
from groundwork.lifts.lift import (
    Lift,
    LiftState,
)
from groundwork.lifts.pours import (
    May,
    PourPlan,
)
from groundwork.lifts.subgrade import (
    Subgrade,
)
from groundwork.lifts.works import (
    Works,
)

__all__ = [
    "Coverage",
    "Lift",
    "LiftState",
    "May",
    "PourPlan",
    "Subgrade",
    "Works",
    "ground_data",
    "lift_data",
    "pour_data",
    "works_data",
]
