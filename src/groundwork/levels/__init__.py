"""What level is it? Heights of instrument, runs and their misclosures, strings and tapes, spirit levels."""

from groundwork.levels.bubble import (
    Bubble,
    SpiritLevel,
)
from groundwork.levels.levelling import (
    Booking,
    Reduction,
    TwoPeg,
    reduce_by_height_of_instrument,
    reduce_by_rise_and_fall,
)
from groundwork.levels.references import (
    HIGHEST_TIE,
    LONGEST_DIP,
    LineOfSight,
    Reference,
    StretchedString,
    sag,
    tied,
)
from groundwork.levels.runs import (
    Closing,
    Known,
    Lost,
    Runs,
)
from groundwork.levels.standing import (
    Levels,
    Stand,
)

__all__ = [
    "HIGHEST_TIE",
    "LONGEST_DIP",
    "Booking",
    "Bubble",
    "Closing",
    "Known",
    "Levels",
    "LineOfSight",
    "Lost",
    "Reduction",
    "Reference",
    "Runs",
    "SpiritLevel",
    "Stand",
    "StretchedString",
    "TwoPeg",
    "reduce_by_height_of_instrument",
    "reduce_by_rise_and_fall",
    "sag",
    "tied",
]
