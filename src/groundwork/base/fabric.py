"""Separation fabric and geogrid: how many lengths, rolls and metres an area takes, and how they lie."""

import math
from dataclasses import dataclass

import numpy as np
import shapely

from groundwork.surfaces import Point

ROLL_WIDTH, ROLL_LENGTH = 4.5, 100.0
"""A usual roll, metres (common practice, no published source; the maker's own comes first)."""


@dataclass(frozen=True)
class FabricPlan:
    """`strips` lengths side by side across the fall, the upper over the lower like roof tiles; `metres` of roll in
    all with what is turned up at every edge, m² of it, `lines` where each strip's upper edge runs."""

    strips: int
    metres: float
    rolls: int
    area: float
    lines: tuple[tuple[Point, Point], ...]


def fabric_plan(
    area: shapely.Polygon,
    downhill: Point,
    overlap: float,
    up_sides: float,
    roll: tuple[float, float] = (ROLL_WIDTH, ROLL_LENGTH),
) -> FabricPlan:
    """Strips laid across the fall from its foot up, so that each overlaps the one below it; `overlap` at sides and at
    the joins of rolls. Raises `ValueError` where a roll is no wider than its overlap."""
    width, length = roll
    step = width - overlap
    if step <= 0 or length <= overlap:
        raise ValueError("a roll is wider and longer than its overlap")
    whole = area.buffer(up_sides, join_style="mitre") if up_sides > 0 else area
    down = np.array(downhill) / (math.hypot(*downhill) or 1.0)
    if not down.any():
        down = np.array([0.0, -1.0])
    across = np.array([-down[1], down[0]])
    corners = shapely.get_coordinates(whole)
    up = corners @ -down
    side = corners @ across
    low, high = float(up.min()), float(up.max())
    strips = max(1, math.ceil((high - low - overlap) / step - 1e-9))
    metres, lines = 0.0, []
    for n in range(strips):
        foot = low + n * step
        band = shapely.Polygon(
            [-down * u + across * s for u, s in ((foot, side.min() - 1), (foot, side.max() + 1),
                                                 (foot + width, side.max() + 1), (foot + width, side.min() - 1))]
        )  # fmt: skip
        part = whole.intersection(band)
        if part.is_empty:
            continue
        reach = shapely.get_coordinates(part) @ across
        run = float(np.ptp(reach))
        joins = max(0, math.ceil((run - overlap) / (length - overlap) - 1e-9) - 1)
        metres += run + joins * overlap
        top = min(foot + width, high)
        ends = [-down * top + across * s for s in (reach.min(), reach.max())]
        lines.append(((float(ends[0][0]), float(ends[0][1])), (float(ends[1][0]), float(ends[1][1]))))
    return FabricPlan(strips, metres, math.ceil(metres / length - 1e-9), metres * width, tuple(lines))
