"""Does it close? Rows by the gauge, cuts, packs, how far it is laid."""

from groundwork.laying.cuts import (
    VIBRATION,
    PieceToCut,
    at_the_saw,
    until_action,
)
from groundwork.laying.gauge import (
    LINES,
    RULE,
    WHERE,
)
from groundwork.laying.laid import (
    laid_data,
    laying_data,
    paving_evidence,
)
from groundwork.laying.laying import (
    Laying,
)
from groundwork.laying.takeoff import (
    OPEN_TOGETHER,
    packs,
)

__all__ = [
    "LINES",
    "OPEN_TOGETHER",
    "RULE",
    "VIBRATION",
    "WHERE",
    "Laying",
    "PieceToCut",
    "at_the_saw",
    "laid_data",
    "laying_data",
    "packs",
    "paving_evidence",
    "until_action",
]
