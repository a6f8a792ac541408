"""What stands along the edges, and how was it set? Entries of edges, their tops, their line, what has to set."""

from groundwork.edgework.kinds import (
    HIGHEST_STRING,
    Backfilled,
    BoardLeft,
    EdgeBedded,
    EdgeKind,
    EdgeLined,
    EdgePlanned,
    EdgeShot,
    EdgeStrung,
    EdgeWork,
    SideHeld,
    SpikesDriven,
    TopWork,
)

__all__ = [
    "HIGHEST_STRING",
    "Backfilled",
    "BoardLeft",
    "EdgeBedded",
    "EdgeKind",
    "EdgeLined",
    "EdgePlanned",
    "EdgeShot",
    "EdgeStrung",
    "EdgeWork",
    "SideHeld",
    "SpikesDriven",
    "TopWork",
]
