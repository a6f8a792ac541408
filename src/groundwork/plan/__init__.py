"""What stands where, with no height? The outline, what surrounds it, stations, facets' pieces,
patches, places to test."""

from groundwork.plan.layout import (
    LayoutError,
    Piece,
    as_drawn,
    evenly_to_gully,
    meeting_at,
    one_plane,
    to_gully,
)
from groundwork.plan.outline import (
    FARTHEST,
    LARGEST,
    MOST_CORNERS,
    SMALLEST,
    OutlineError,
    at_fault,
    checked,
    corners_as_typed,
    from_coordinates,
    from_sides,
    line,
    place,
    values_in,
)
from groundwork.plan.patch import (
    Patch,
    patches,
)
from groundwork.plan.sampling import (
    draw,
    how_many,
)
from groundwork.plan.stations import (
    Station,
    lay,
    neighbour,
)
from groundwork.plan.surroundings import (
    BESIDE,
    FEWEST_PLACES,
    BuildingEdge,
    Feature,
    along_side,
    building_edges,
)

__all__ = [
    "BESIDE",
    "FARTHEST",
    "FEWEST_PLACES",
    "LARGEST",
    "MOST_CORNERS",
    "SMALLEST",
    "BuildingEdge",
    "Feature",
    "LayoutError",
    "OutlineError",
    "Patch",
    "Piece",
    "Station",
    "along_side",
    "as_drawn",
    "at_fault",
    "building_edges",
    "checked",
    "corners_as_typed",
    "draw",
    "evenly_to_gully",
    "from_coordinates",
    "from_sides",
    "how_many",
    "lay",
    "line",
    "meeting_at",
    "neighbour",
    "one_plane",
    "patches",
    "place",
    "to_gully",
    "values_in",
]
