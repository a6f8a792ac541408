"""What shape is what is paved? Its edge of straight sides and arcs, what stands in it, and how it was measured in."""

from groundwork.shape.islands import (
    EDGED,
    Island,
    cut_out,
)
from groundwork.shape.kept import (
    area_data,
    islands_of,
    ring_of,
)
from groundwork.shape.ring import (
    SAGITTA,
    Ring,
)

__all__ = [
    "EDGED",
    "SAGITTA",
    "Island",
    "Ring",
    "area_data",
    "cut_out",
    "islands_of",
    "ring_of",
]
