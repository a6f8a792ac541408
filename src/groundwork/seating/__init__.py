"""Is it seated? Plates and passes, what came down, units to mend and lips between them."""

from groundwork.seating.seated import (
    Seated,
)
from groundwork.seating.seating import (
    KEPT_OFF,
    Seating,
)
from groundwork.seating.units import (
    LIPS,
    ToMend,
)

__all__ = ["KEPT_OFF", "LIPS", "Seated", "Seating", "ToMend"]
