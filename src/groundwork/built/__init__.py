"""How did the surface come out? Falls, water, flatness, thickness as laid, and the least work that mends it."""

from groundwork.built.asbuilt import (
    OUT_SHARE,
    AsBuilt,
    as_built,
)
from groundwork.built.aslaid import (
    Dug,
    Laid,
    dug,
    laid_between,
    layers_laid,
)
from groundwork.built.leastfix import (
    Fix,
    NoFix,
    asked_of,
    least_fix,
    loads,
    loads_in_all,
    work,
)

__all__ = [
    "OUT_SHARE",
    "AsBuilt",
    "Dug",
    "Fix",
    "Laid",
    "NoFix",
    "as_built",
    "asked_of",
    "dug",
    "laid_between",
    "layers_laid",
    "least_fix",
    "loads",
    "loads_in_all",
    "work",
]
