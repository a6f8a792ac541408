"""How well an area is covered by the places that were shot: the widest circle in it with none inside."""

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import ArrayLike
from scipy.spatial import QhullError, Voronoi, cKDTree
from shapely.geometry.base import BaseGeometry

from groundwork.surface import Point

STEP = 0.02
"""Along the area's edge the circle's middle is sought in steps of a fiftieth of what the area is across."""


@dataclass(frozen=True)
class Hole:
    """The widest empty circle: its middle lies in the area, `radius` metres from the nearest shot place."""

    at: Point
    radius: float


def widest_hole(places: ArrayLike, area: BaseGeometry) -> Hole | None:
    """The place of the area furthest from every one of `places` (k, 2); None where there are none. Exact inside,
    where it is a corner of the Voronoi diagram (any text on computational geometry); on the area's edge to a
    thousandth of the radius."""
    places = np.asarray(places, dtype=float).reshape(-1, 2)
    if not len(places):
        return None
    tree = cKDTree(places)
    rim = area.boundary
    across = float(np.hypot(*np.ptp(np.array(area.bounds).reshape(2, 2), axis=0)))
    candidates = [shapely.get_coordinates(shapely.segmentize(rim, STEP * across))]
    try:
        corners = Voronoi(places).vertices if len(places) > 2 else np.zeros((0, 2))
    except QhullError:
        corners = np.zeros((0, 2))
    candidates.append(corners[shapely.contains_xy(area, corners)])
    found = np.concatenate(candidates)
    far = tree.query(found)[0]
    best = int(far.argmax())
    at, radius = found[best], float(far[best])
    step = STEP * across
    while step > radius / 1000:
        near = rim.intersection(shapely.Point(at).buffer(1.5 * step))
        if near.is_empty:
            break
        finer = shapely.get_coordinates(shapely.segmentize(near, step / 8))
        far = tree.query(finer)[0]
        if far.max() > radius:
            at, radius = finer[int(far.argmax())], float(far.max())
        step /= 4
    return Hole((float(at[0]), float(at[1])), radius)


def most_useful(unshot: dict[str, Point], shot: ArrayLike) -> str | None:
    """The name of the place not shot yet that is furthest from every one that is; None where none is left."""
    shot = np.asarray(shot, dtype=float).reshape(-1, 2)
    if not unshot or not len(shot):
        return next(iter(unshot), None)
    far = cKDTree(shot).query(np.array(list(unshot.values())))[0]
    return list(unshot)[int(far.argmax())]
