"""How well an area is covered by the places that were shot: the widest circle in it with none inside."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import ArrayLike
from scipy.spatial import QhullError, Voronoi, cKDTree
from shapely.geometry.base import BaseGeometry

from groundwork.surfaces.design import Point
from groundwork.surfaces.tin import Floats


@dataclass(frozen=True)
class Hole:
    """The widest empty circle: its middle lies in the area, `radius` metres from the nearest shot place."""

    at: Point
    radius: float


def widest_hole(places: ArrayLike, area: BaseGeometry) -> Hole | None:
    """The place of the area furthest from every one of `places` (k, 2); None where there are none. It is a corner of
    the Voronoi diagram, a corner of the area, or where the area's edge crosses from one cell into the next (any text
    on computational geometry)."""
    places = np.asarray(places, dtype=float).reshape(-1, 2)
    if not len(places):
        return None
    try:
        corners = Voronoi(places).vertices if len(places) > 2 else np.zeros((0, 2))
    except QhullError:
        corners = np.zeros((0, 2))
    candidates = [corners[shapely.contains_xy(area, corners)]]
    for ring in shapely.get_parts(shapely.line_merge(area.boundary)):
        stops = shapely.get_coordinates(ring)
        candidates += [stops, *(_crossings(places, *edge) for edge in pairwise(stops))]
    found = np.concatenate(candidates)
    far = cKDTree(places).query(found)[0]
    best = int(far.argmax())
    return Hole((float(found[best, 0]), float(found[best, 1])), float(far[best]))


def _crossings(places: Floats, start: Floats, end: Floats) -> Floats:
    """Where the edge from `start` to `end` passes from the cell of one place into the next, (n, 2). Along an edge the
    squares of the distances to the places differ from one another by straight lines: the cells are met in the order
    of the lowest of them."""
    way = end - start
    rises = -2 * (places - start) @ way
    at_start = ((places - start) ** 2).sum(axis=1)
    met: list[float] = []
    here = int(np.lexsort((rises, at_start))[0])
    while True:
        steeper = np.flatnonzero(rises < rises[here])
        shares = (at_start[steeper] - at_start[here]) / (rises[here] - rises[steeper])
        if not len(shares) or shares.min() >= 1:
            return start + np.array(met)[:, None] * way if met else np.zeros((0, 2))
        met.append(float(shares.min()))
        nearest = steeper[shares <= met[-1]]
        here = int(nearest[rises[nearest].argmin()])


def most_useful(unshot: dict[str, Point], shot: ArrayLike) -> str | None:
    """The name of the place not shot yet that is furthest from every one that is; None where none is left."""
    shot = np.asarray(shot, dtype=float).reshape(-1, 2)
    if not unshot or not len(shot):
        return next(iter(unshot), None)
    far = cKDTree(shot).query(np.array(list(unshot.values())))[0]
    return list(unshot)[int(far.argmax())]
