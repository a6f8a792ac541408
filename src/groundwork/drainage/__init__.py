"""Where does the water go, and how much does the base hold meanwhile?"""

from groundwork.drainage.storage import (
    LONGEST_DRAIN_DOWN,
    PRESUMED_INFILTRATION,
    OutletReach,
    drain_down,
    outlet_reach,
    storage_depth,
)
from groundwork.drainage.ways_out import (
    DRAIN_REACH,
    EDGE_REACH,
    kept_lines,
    outlets,
    shape_of,
)

__all__ = [
    "DRAIN_REACH",
    "EDGE_REACH",
    "LONGEST_DRAIN_DOWN",
    "PRESUMED_INFILTRATION",
    "OutletReach",
    "drain_down",
    "kept_lines",
    "outlet_reach",
    "outlets",
    "shape_of",
    "storage_depth",
]
