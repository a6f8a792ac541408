"""An area in patches: parts that are compacted and ticked off one by one."""

import math
from dataclasses import dataclass

import numpy as np
import shapely

MOST = 12
ABOUT = 25.0
"""A patch is about so many square metres, larger where there would be more than twelve (common practice)."""
SLIVER = 0.2
"""What the area's edge cuts down to less than this share of a patch goes with its neighbour."""


@dataclass(frozen=True)
class Patch:
    """One part, named by its number in walking order."""

    name: str
    outline: shapely.Polygon

    @property
    def area(self) -> float:
        return float(self.outline.area)


def patches(area: shapely.Polygon) -> tuple[Patch, ...]:
    """The area divided by the sides of the narrowest rectangle round it; together they are the area."""
    box = shapely.minimum_rotated_rectangle(area)
    corners = shapely.get_coordinates(box)[:4]
    one, other = corners[1] - corners[0], corners[3] - corners[0]
    if abs(one[0]) < abs(other[0]):
        one, other = other, one
    length, breadth = float(np.hypot(*one)), float(np.hypot(*other))
    wanted = min(MOST, max(1, round(area.area / ABOUT)))
    columns, rows = _shape(length, breadth, wanted)
    found: list[shapely.Polygon] = []
    for row in range(rows):
        for n in range(columns):
            column = n if row % 2 == 0 else columns - 1 - n
            start = corners[0] + one * column / columns + other * row / rows
            cell = shapely.Polygon([start, start + one / columns, start + one / columns + other / rows,
                                    start + other / rows])  # fmt: skip
            # Snapped to a micrometre: without it edges that run along each other can lose a whole patch.
            parts = shapely.get_parts(shapely.intersection(cell, area, grid_size=1e-6))
            found += [part for part in parts if isinstance(part, shapely.Polygon)]
    return tuple(Patch(str(n), part) for n, part in enumerate(_without_slivers(found), start=1))


def _shape(length: float, breadth: float, wanted: int) -> tuple[int, int]:
    """Columns and rows of about `wanted` patches, as square as can be."""
    ways = [(n, max(1, wanted // n)) for n in range(1, wanted + 1)]
    return min(ways, key=lambda way: (abs(math.log(length / way[0] / (breadth / way[1]))), -way[0] * way[1]))


def _without_slivers(parts: list[shapely.Polygon]) -> list[shapely.Polygon]:
    """Small parts joined to the neighbour they share the longest edge with."""
    parts = list(parts)
    usual = float(np.median([part.area for part in parts]))
    while len(parts) > 1 and min(part.area for part in parts) < SLIVER * usual:
        least = min(parts, key=lambda part: part.area)
        others = [part for part in parts if part is not least]
        beside = max(others, key=lambda part: part.intersection(least).length)
        joined = shapely.union_all([beside.buffer(1e-9), least]).buffer(0)
        if not isinstance(joined, shapely.Polygon):
            break
        parts = [joined if part is beside else part for part in others]
    return parts
