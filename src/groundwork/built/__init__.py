"""How did the surface come out? Falls, water, flatness, thickness as laid, and the least work that mends it."""

from groundwork.built.asbuilt import (
    OUT_SHARE,
    AsBuilt,
)
from groundwork.built.aslaid import (
    Laid,
    dug,
    laid_between,
)
from groundwork.built.leastfix import (
    BARROW,
    Fix,
    NoFix,
    least_fix,
    loads,
    loads_in_all,
    work,
)
from groundwork.built.surfaces import (
    Surfaces,
)

__all__ = [
    "BARROW",
    "OUT_SHARE",
    "AsBuilt",
    "Fix",
    "Laid",
    "NoFix",
    "Surfaces",
    "dug",
    "laid_between",
    "least_fix",
    "loads",
    "loads_in_all",
    "work",
]
