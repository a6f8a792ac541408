"""What can we do next, until when, and when is it done? Tasks, their waits, their weather, played through."""

from groundwork.programme.calendar import (
    WorkingTime,
)
from groundwork.programme.programme import (
    Holding,
    PlannedTask,
    Programme,
    WorkTerms,
    programme,
)
from groundwork.programme.tasks import (
    PlanTask,
    tasks_left,
)
from groundwork.programme.today import (
    StageNow,
    bed_today,
    stages_now,
    to_cover,
)
from groundwork.programme.waits import (
    Setting,
    settings,
)

__all__ = [
    "Holding",
    "PlanTask",
    "PlannedTask",
    "Programme",
    "Setting",
    "StageNow",
    "WorkTerms",
    "WorkingTime",
    "bed_today",
    "programme",
    "settings",
    "stages_now",
    "tasks_left",
    "to_cover",
]
