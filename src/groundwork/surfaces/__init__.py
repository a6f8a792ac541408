"""What has height? The designed planes, triangles over shot stations, water on them, a bar laid on them, holes in the
coverage."""

from groundwork.surfaces.banding import (
    bands,
    label_place,
)
from groundwork.surfaces.bar import (
    BAR,
    BarGaps,
    Gap,
    straightedge,
)
from groundwork.surfaces.coverage import (
    Hole,
    most_useful,
    widest_hole,
)
from groundwork.surfaces.design import (
    EDGE_AGREEMENT,
    DesignSurface,
    Facet,
    Point,
    uncovered,
)
from groundwork.surfaces.flow import (
    flow_lines,
)
from groundwork.surfaces.ponding import (
    Puddle,
    StandingWater,
    standing_water,
)
from groundwork.surfaces.rain import (
    Hollows,
    Moment,
)
from groundwork.surfaces.tin import (
    SAME,
    Bools,
    Floats,
    Ints,
    Mesh,
    NoSurface,
    lay_mesh,
)

__all__ = [
    "BAR",
    "EDGE_AGREEMENT",
    "SAME",
    "BarGaps",
    "Bools",
    "DesignSurface",
    "Facet",
    "Floats",
    "Gap",
    "Hole",
    "Hollows",
    "Ints",
    "Mesh",
    "Moment",
    "NoSurface",
    "Point",
    "Puddle",
    "StandingWater",
    "bands",
    "flow_lines",
    "label_place",
    "lay_mesh",
    "most_useful",
    "standing_water",
    "straightedge",
    "uncovered",
    "widest_hole",
]
