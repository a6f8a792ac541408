"""How well an area is covered by the places that were shot: the widest circle in it with none inside."""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import ArrayLike
from scipy.spatial import QhullError, Voronoi, cKDTree
from shapely.geometry.base import BaseGeometry

from groundwork.surface import Point
from groundwork.tin import Floats

STEP = 0.005
"""Along the area's edge, the places nearest to it are asked for in steps of this share of what the area is across."""


@dataclass(frozen=True)
class Hole:
    """The widest empty circle: its middle lies in the area, `radius` metres from the nearest shot place."""

    at: Point
    radius: float


def widest_hole(places: ArrayLike, area: BaseGeometry) -> Hole | None:
    """The place of the area furthest from every one of `places` (k, 2); None where there are none. It is a corner of
    the Voronoi diagram, a corner of the area, or where the area's edge crosses from one cell into the next (any text
    on computational geometry); a cell that the edge only grazes may be overlooked, and holds no wide circle."""
    places = np.asarray(places, dtype=float).reshape(-1, 2)
    if not len(places):
        return None
    tree = cKDTree(places)
    across = float(np.hypot(*np.ptp(np.array(area.bounds).reshape(2, 2), axis=0)))
    candidates = []
    for ring in shapely.get_parts(shapely.line_merge(area.boundary)):
        along = shapely.get_coordinates(shapely.segmentize(ring, STEP * across))
        candidates += [along, _crossings(along, places[tree.query(along)[1]])]
    try:
        corners = Voronoi(places).vertices if len(places) > 2 else np.zeros((0, 2))
    except QhullError:
        corners = np.zeros((0, 2))
    candidates.append(corners[shapely.contains_xy(area, corners)])
    found = np.concatenate(candidates)
    far = tree.query(found)[0]
    best = int(far.argmax())
    return Hole((float(found[best, 0]), float(found[best, 1])), float(far[best]))


def _crossings(along: Floats, nearest: Floats) -> Floats:
    """Where the way through `along` is as far from the place nearest to one stop as from that nearest to the next."""
    one, other = nearest[:-1], nearest[1:]
    start, way = along[:-1], along[1:] - along[:-1]
    apart = other - one
    with np.errstate(divide="ignore", invalid="ignore"):
        share = (((one + other) / 2 - start) * apart).sum(axis=1) / (way * apart).sum(axis=1)
    changes = (share > 0) & (share < 1)
    return np.asarray(start[changes] + share[changes, None] * way[changes])


def most_useful(unshot: dict[str, Point], shot: ArrayLike) -> str | None:
    """The name of the place not shot yet that is furthest from every one that is; None where none is left."""
    shot = np.asarray(shot, dtype=float).reshape(-1, 2)
    if not unshot or not len(shot):
        return next(iter(unshot), None)
    far = cKDTree(shot).query(np.array(list(unshot.values())))[0]
    return list(unshot)[int(far.argmax())]
