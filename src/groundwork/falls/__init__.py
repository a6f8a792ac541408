"""How may the planes fall between the heights that are fixed? Or which of them cannot all be met."""

from groundwork.falls.planner import (
    FallRange,
    NoFalls,
    PlannedFalls,
    plan_falls,
    settled,
)

__all__ = [
    "FallRange",
    "NoFalls",
    "PlannedFalls",
    "plan_falls",
    "settled",
]
