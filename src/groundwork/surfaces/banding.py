"""A quantity over a surface as bands and contour lines, for drawing."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from contourpy import FillType, LineType, contour_generator
from scipy.interpolate import NearestNDInterpolator
from shapely.geometry.base import BaseGeometry

from groundwork.surfaces.tin import Floats, Mesh

CELLS = 120


@dataclass(frozen=True)
class Band:
    """Where the quantity lies from `low` to `high`; rings of (east, north), holes among them by turn."""

    low: float
    high: float
    rings: tuple[Floats, ...]


@dataclass(frozen=True)
class Contour:
    value: float
    lines: tuple[Floats, ...]


def bands(mesh: Mesh, values: Floats, limits: Sequence[float]) -> tuple[list[Band], list[Contour]]:
    """Bands between the ascending `limits` (the first and last may be infinite) and contour lines at the finite
    ones. They run a little beyond the region: draw them clipped to it."""
    west, south, east, north = mesh.region.bounds
    step = max(east - west, north - south) / CELLS
    x, y = (np.arange(low - 2 * step, high + 3 * step, step) for low, high in ((west, east), (south, north)))
    grid = np.stack(np.meshgrid(x, y), axis=-1)
    z = mesh.level_at(values, grid.reshape(-1, 2))
    known = np.isfinite(z)
    z[~known] = NearestNDInterpolator(grid.reshape(-1, 2)[known], z[known])(grid.reshape(-1, 2)[~known])
    drawn = contour_generator(
        x, y, z.reshape(grid.shape[:2]), line_type=LineType.Separate, fill_type=FillType.OuterOffset
    )
    low, high = float(z.min()) - 1, float(z.max()) + 1
    found = []
    for lower, upper in pairwise(limits):
        rings: list[Floats] = []
        for points, offsets in zip(*drawn.filled(max(lower, low), min(upper, high)), strict=True):
            rings += [points[a:b] for a, b in pairwise(offsets)]
        if rings:
            found.append(Band(lower, upper, tuple(rings)))
    within = (value for value in limits if np.isfinite(value) and z.min() < value < z.max())
    lines = [Contour(value, tuple(np.asarray(line) for line in drawn.lines(value))) for value in within]
    return found, [c for c in lines if c.lines]


def label_place(contour: Contour, region: BaseGeometry) -> tuple[float, float] | None:
    """The middle of the contour's longest stretch within the region, for its value; None where it has none."""
    parts = shapely.get_parts(shapely.MultiLineString(list(contour.lines)).intersection(region.buffer(-0.05)))
    longest = max((p for p in parts if p.length > 0), key=lambda part: part.length, default=None)
    if longest is None:
        return None
    middle = longest.interpolate(0.5, normalized=True)
    return middle.x, middle.y
