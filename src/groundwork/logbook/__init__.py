"""What counts of what was recorded?"""

from groundwork.logbook.logbook import (
    Logbook,
)
from groundwork.logbook.warm import (
    warmth,
)

__all__ = [
    "Logbook",
    "warmth",
]
