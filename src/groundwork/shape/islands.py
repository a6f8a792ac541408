"""What stands in the paved area and is not paved: covers and grates in their frames, trees, columns, ponds, steps."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import shapely

from groundwork.plan import Feature, OutlineError
from groundwork.shape.ring import Ring

KINDS = ("manhole", "gully", "tree pit", "column", "pond", "step")
EDGED = frozenset({"tree pit", "pond"})
"""The base ends in an edging here, and reaches under it by its margin; against the others as against a wall."""
SMALLEST_ISLAND = 0.01
"""m²: a hole for less is cut into one paver, and is no part of the area's shape."""
APART = 0.02
"""Between two islands, or an island and the area's edge, there is more than this to pave, metres."""
MOST_ISLANDS = 100


@dataclass(frozen=True)
class Island:
    """A part of the area that is not paved; `kind` is one of `KINDS`. Water leaves by it where it `takes_water`:
    into a grate, or over the edge of a pit or pond that lies open to it. Its level, if it has one, is a fixed
    height."""

    kind: str
    name: str
    ring: Ring
    takes_water: bool = False

    @property
    def way_out(self) -> Feature | None:
        """How water leaves by it, if it does."""
        if not self.takes_water:
            return None
        around = self.ring.polygon.exterior.coords
        return Feature("drain" if self.kind == "gully" else "free edge", self.name, tuple((x, y) for x, y in around))


def cut_out(area: shapely.Polygon, islands: Sequence[Island]) -> shapely.Polygon:
    """An area without its islands. Raises `OutlineError` for islands that are no plain shapes, do not lie wholly in
    the area, or lie on one another."""
    if len(islands) > MOST_ISLANDS:
        raise OutlineError("more than {most} things in the area: {number}", most=MOST_ISLANDS, number=len(islands))
    holes = []
    for island in islands:
        try:
            island.ring.checked(SMALLEST_ISLAND)
        except OutlineError as fault:
            raise OutlineError("“{name}”: {why}", name=island.name or island.kind, why=fault) from fault
        holes.append(island.ring.polygon)
    for island, hole in zip(islands, holes, strict=True):
        if not area.buffer(-APART).covers(hole):
            raise OutlineError(
                "“{name}” does not lie in the area with room around it: draw the outline around it instead",
                name=island.name or island.kind,
            )
    for (one, first), (other, second) in combinations(zip(islands, holes, strict=True), 2):
        if shapely.dwithin(first, second, APART):
            raise OutlineError(
                "“{one}” and “{other}” lie on one another: draw them as one",
                one=one.name or one.kind, other=other.name or other.kind,
            )  # fmt: skip
    return shapely.Polygon(area.exterior.coords, [hole.exterior.coords for hole in holes])
