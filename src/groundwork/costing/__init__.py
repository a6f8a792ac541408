"""What of a job does somebody pay for? Materials as they are sold, hours, hire: all of it, spent, to come."""

from groundwork.costing.items import (
    CREW,
    DAY,
    DRIVER,
    HOUR,
    Spent,
    hires,
    hours,
    lines_to_come,
    materials,
    spent_lines,
)

__all__ = [
    "CREW",
    "DAY",
    "DRIVER",
    "HOUR",
    "Spent",
    "hires",
    "hours",
    "lines_to_come",
    "materials",
    "spent_lines",
]
