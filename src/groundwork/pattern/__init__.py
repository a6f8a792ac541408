"""How do units go together, and what do they come to over the real outline? Patterns, layouts, the best of them."""

from groundwork.pattern.best import (
    MOST_UNITS,
    Found,
    best_layouts,
)
from groundwork.pattern.borders import (
    Border,
    BorderCorner,
    BorderCourse,
)
from groundwork.pattern.patterns import (
    PavingPattern,
    is_random,
    pattern,
    pattern_keys,
    patterns,
)
from groundwork.pattern.paving import (
    Paving,
    PavingDesign,
)
from groundwork.pattern.pieces import (
    PavingPiece,
    two_alike,
)
from groundwork.pattern.placed import (
    Sides,
)
from groundwork.pattern.units import (
    PavingUnit,
)

__all__ = [
    "MOST_UNITS",
    "Border",
    "BorderCorner",
    "BorderCourse",
    "Found",
    "Paving",
    "PavingDesign",
    "PavingPattern",
    "PavingPiece",
    "PavingUnit",
    "Sides",
    "best_layouts",
    "is_random",
    "pattern",
    "pattern_keys",
    "patterns",
    "two_alike",
]
