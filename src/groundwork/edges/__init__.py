"""Does every edge stand in line, at its height? Which edge, the width that closes, runs, joints, sums, waits."""

from groundwork.edges.across import (
    Across,
    Courses,
    bends,
    fills,
)
from groundwork.edges.data import (
    edges_data,
)
from groundwork.edges.edges import (
    Edges,
)
from groundwork.edges.held import (
    BACKFILL,
)
from groundwork.edges.joints import (
    SET,
    JointAnswer,
)
from groundwork.edges.runs import (
    EdgeRun,
)
from groundwork.edges.strung import (
    Strung,
)
from groundwork.edges.usual import (
    SIZES,
    USUAL,
)
from groundwork.edges.waits import (
    HaunchWait,
)

__all__ = [
    "BACKFILL",
    "SET",
    "SIZES",
    "USUAL",
    "Across",
    "Courses",
    "EdgeRun",
    "Edges",
    "HaunchWait",
    "JointAnswer",
    "Strung",
    "bends",
    "edges_data",
    "fills",
]
