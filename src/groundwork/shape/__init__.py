"""What shape is what is paved? Its edge of straight sides and arcs, what stands in it, and how it was measured in."""

from groundwork.shape.islands import (
    APART,
    EDGED,
    KINDS,
    SMALLEST_ISLAND,
    Island,
    cut_out,
)
from groundwork.shape.kept import (
    area_data,
    islands_of,
    ring_of,
)
from groundwork.shape.measured import (
    measured_area,
)
from groundwork.shape.measuring import (
    TAPE_RATE,
    TAPE_U,
)
from groundwork.shape.ring import (
    SAGITTA,
    Ring,
    circle,
)
from groundwork.shape.typed import (
    corners_text,
    exactly,
    island_ring,
    island_text,
    typed_area,
)

__all__ = [
    "APART",
    "EDGED",
    "KINDS",
    "SAGITTA",
    "SMALLEST_ISLAND",
    "TAPE_RATE",
    "TAPE_U",
    "Island",
    "Ring",
    "area_data",
    "circle",
    "corners_text",
    "cut_out",
    "exactly",
    "island_ring",
    "island_text",
    "islands_of",
    "measured_area",
    "ring_of",
    "typed_area",
]
