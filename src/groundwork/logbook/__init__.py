"""What counts of what was recorded?"""

from groundwork.logbook.logbook import (
    Logbook,
)

__all__ = [
    "Logbook",
]
