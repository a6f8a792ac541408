"""What goes into it, when has it set, how long does it live? Mixes, maturity, mortar."""

from groundwork.curing.maturity import (
    BESIDE,
    DATUM,
    DRIVEN,
    HARD,
    PLATED,
    WALKED,
    Warmth,
    days_of_setting,
    earned,
    matured_at,
    mortar_life,
)
from groundwork.curing.mixes import (
    ALL_IN,
    Mix,
    mix,
)

__all__ = [
    "ALL_IN",
    "BESIDE",
    "DATUM",
    "DRIVEN",
    "HARD",
    "PLATED",
    "WALKED",
    "Mix",
    "Warmth",
    "days_of_setting",
    "earned",
    "matured_at",
    "mix",
    "mortar_life",
]
