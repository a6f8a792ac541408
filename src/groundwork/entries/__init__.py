"""What was read, taped, moved and located on site?"""

from groundwork.entries.kinds import (
    Anchor,
    Correction,
    Disturbance,
    FallCheck,
    Fill,
    Foresight,
    MarginMeasured,
    MeterBase,
    PegDistance,
    PegMove,
    Reading,
    ServicesLocated,
    SetUp,
    Strike,
    StringLine,
    TapeDatum,
)

__all__ = [
    "Anchor",
    "Correction",
    "Disturbance",
    "FallCheck",
    "Fill",
    "Foresight",
    "MarginMeasured",
    "MeterBase",
    "PegDistance",
    "PegMove",
    "Reading",
    "ServicesLocated",
    "SetUp",
    "Strike",
    "StringLine",
    "TapeDatum",
]
