"""How was the paving laid out, laid and measured? Entries of the layout, courses, pieces, packs and progress."""

from groundwork.laywork.kinds import (
    CourseTaped,
    LayoutChosen,
    LayWork,
    ModuleTaped,
    PackEmptied,
    PackOpened,
    PieceCut,
    PiecesShared,
    RowsLaid,
    RowsSquared,
    SparesLeft,
)

__all__ = [
    "CourseTaped",
    "LayWork",
    "LayoutChosen",
    "ModuleTaped",
    "PackEmptied",
    "PackOpened",
    "PieceCut",
    "PiecesShared",
    "RowsLaid",
    "RowsSquared",
    "SparesLeft",
]
