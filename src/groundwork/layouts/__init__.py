"""Which layout? Patterns that fit a job, the best starts of one, what to do about pieces too small."""

from groundwork.layouts.movement import (
    MovementJoints,
    movement_joints,
)
from groundwork.layouts.planned import (
    design_of,
    paved_as,
    side_line,
    start_side,
)
from groundwork.layouts.proposed import (
    pattern_options,
    usual_unit,
)
from groundwork.layouts.remedies import (
    Remedy,
    remedies,
)
from groundwork.layouts.searched import (
    CUTS_AN_HOUR,
    LAYING_RATE,
    Choice,
    searched,
)

__all__ = [
    "CUTS_AN_HOUR",
    "LAYING_RATE",
    "Choice",
    "MovementJoints",
    "Remedy",
    "design_of",
    "movement_joints",
    "pattern_options",
    "paved_as",
    "remedies",
    "searched",
    "side_line",
    "start_side",
    "usual_unit",
]
