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
    BedToday,
    StageNow,
    ToCover,
    bed_today,
    stages_now,
    to_cover,
)
from groundwork.programme.waits import (
    Setting,
    settings,
)

__all__ = [
    "BedToday",
    "Holding",
    "PlanTask",
    "PlannedTask",
    "Programme",
    "Setting",
    "StageNow",
    "ToCover",
    "WorkTerms",
    "WorkingTime",
    "bed_today",
    "programme",
    "settings",
    "stages_now",
    "tasks_left",
    "to_cover",
]
