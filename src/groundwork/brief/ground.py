"""The existing ground, where its level is known."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import ArrayLike, NDArray
from scipy.interpolate import LinearNDInterpolator
from scipy.spatial import QhullError

from groundwork.brief.answers import SpotLevel
from groundwork.surfaces import DesignSurface, Facet

GRID = 400


@dataclass(frozen=True)
class ExistingGround:
    """Spot levels, with straight triangles between them and nothing said beyond them."""

    spots: tuple[SpotLevel, ...]

    def level_at(self, points: ArrayLike) -> NDArray[np.float64]:
        """Levels at points (n, 2); NaN where the ground is not known."""
        points = np.asarray(points, dtype=float)
        if self._between is not None:
            return np.asarray(self._between(points))
        return np.full(len(points), np.nan)

    @cached_property
    def _between(self) -> LinearNDInterpolator | None:
        if len(self.spots) < 3:
            return None
        try:
            return LinearNDInterpolator([s.at for s in self.spots], [s.level for s in self.spots])
        except QhullError:
            return None

    @cached_property
    def edges(self) -> tuple[shapely.LineString, ...]:
        """The sides of its triangles."""
        if self._between is None:
            return ()
        places = np.array([s.at for s in self.spots])
        return tuple(shapely.LinearRing(places[corners]) for corners in self._between.tri.simplices)

    def excavation(self, facets: Sequence[Facet], depth: float) -> float | None:
        """Volume, m³, from the ground down to the formation `depth` below the facets; None where nothing of the
        ground is known. Where only part is known, the rest is taken to be dug as deep as that part on the mean."""
        area = shapely.union_all([facet.polygon for facet in facets])
        west, south, east, north = area.bounds
        step = max((area.area / GRID) ** 0.5, 0.05)
        grid = np.stack(
            np.meshgrid(np.arange(west + step / 2, east, step), np.arange(south + step / 2, north, step)), axis=-1
        ).reshape(-1, 2)
        inside = grid[shapely.contains_xy(area, grid)]
        if not len(inside):
            return None
        levels = self.level_at(inside)
        known = np.isfinite(levels)
        if not known.any():
            return None
        design = DesignSurface(tuple(facets)).level_at(*inside[known].T)
        return float(np.maximum(levels[known] - (design - depth), 0).mean() * area.area)
