"""What does one come to? Traffic, soil, heights that are fixed, what lies beside, and the ground as it is."""

from groundwork.brief.answers import (
    UNIT_THICKNESS,
    WIDEST_JOINT,
    Brief,
    ConeLog,
    DustControl,
    FixedHeight,
    HeightKind,
    Neighbour,
    Outlet,
    Season,
    Soil,
    SpotLevel,
    Traffic,
)
from groundwork.brief.ground import (
    ExistingGround,
)

__all__ = [
    "UNIT_THICKNESS",
    "WIDEST_JOINT",
    "Brief",
    "ConeLog",
    "DustControl",
    "ExistingGround",
    "FixedHeight",
    "HeightKind",
    "Neighbour",
    "Outlet",
    "Season",
    "Soil",
    "SpotLevel",
    "Traffic",
]
