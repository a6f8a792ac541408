"""How long does it take, and with what? Hours by stage, the crew's own pace, tools and what is hired."""

from groundwork.labour.data import (
    labour_data,
)
from groundwork.labour.kit import (
    Hire,
    KitItem,
    StageDays,
    hired,
    planned_days,
)
from groundwork.labour.labour import (
    Labour,
    OnHire,
    Task,
)
from groundwork.labour.pace import (
    pace,
)
from groundwork.labour.rates import (
    rates,
)
from groundwork.labour.seen import (
    Stamp,
    hours_seen,
    stage_of,
)

__all__ = [
    "Hire",
    "KitItem",
    "Labour",
    "OnHire",
    "StageDays",
    "Stamp",
    "Task",
    "hired",
    "hours_seen",
    "labour_data",
    "pace",
    "planned_days",
    "rates",
    "stage_of",
]
