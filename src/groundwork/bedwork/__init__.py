"""How was the bed laid out, set, screeded and tried? Entries of rails, bays, mortar and the trial patch."""

from groundwork.bedwork.kinds import (
    MOST_MIXED,
    PARTS,
    BatchEnded,
    BatchMixed,
    BayChecked,
    BayClosed,
    BayScreeded,
    BayWork,
    BedWork,
    FlagLifted,
    RailDipped,
    RailShot,
    RailsPlanned,
    TrialSeated,
)

__all__ = [
    "MOST_MIXED",
    "PARTS",
    "BatchEnded",
    "BatchMixed",
    "BayChecked",
    "BayClosed",
    "BayScreeded",
    "BayWork",
    "BedWork",
    "FlagLifted",
    "RailDipped",
    "RailShot",
    "RailsPlanned",
    "TrialSeated",
]
