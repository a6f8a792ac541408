"""What goes into it, when has it set, how long does it live? Mixes, maturity, mortar."""

from groundwork.curing.maturity import (
    BESIDE,
    PLATED,
    mortar_life,
    ready_at,
)
from groundwork.curing.mixes import (
    ALL_IN,
    Mix,
    mix,
)

__all__ = ["ALL_IN", "BESIDE", "PLATED", "Mix", "mix", "mortar_life", "ready_at"]
