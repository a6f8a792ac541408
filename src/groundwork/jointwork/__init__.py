"""How was the paving seated, mended and filled? Entries of units as they lie, and of their joints."""

from groundwork.jointwork.kinds import (
    MOST_FILL,
    MOST_SPOTS,
    AirRead,
    FaceSeen,
    FaultKind,
    FillStepDone,
    FillUsed,
    JointDepth,
    LaidShot,
    LipTaped,
    PavedWork,
    UnitFace,
    UnitFault,
    UnitMended,
)

__all__ = [
    "MOST_FILL",
    "MOST_SPOTS",
    "AirRead",
    "FaceSeen",
    "FaultKind",
    "FillStepDone",
    "FillUsed",
    "JointDepth",
    "LaidShot",
    "LipTaped",
    "PavedWork",
    "UnitFace",
    "UnitFault",
    "UnitMended",
]
