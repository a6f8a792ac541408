"""What counts of what was recorded?"""

from groundwork.logbook.logbook import (
    Change,
    Logbook,
)

__all__ = [
    "Change",
    "Logbook",
]
