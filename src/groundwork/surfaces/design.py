"""The finished surface as designed: planes that meet, each with its falls."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import combinations

import numpy as np
import shapely
from numpy.typing import ArrayLike, NDArray

Point = tuple[float, float]
EDGE_AGREEMENT = 0.003


@dataclass(frozen=True)
class Facet:
    """A plane: `level` at the point `at`, falling by the ratio `fall` towards `bearing` degrees clockwise
    from the plan's north (+y), and by `cross_fall` to the right of that."""

    name: str
    outline: tuple[Point, ...]
    at: Point
    level: float
    bearing: float
    fall: float
    cross_fall: float = 0.0

    @cached_property
    def polygon(self) -> shapely.Polygon:
        return shapely.Polygon(self.outline)

    @cached_property
    def gradient(self) -> tuple[float, float]:
        """Change of level per metre to the east and to the north."""
        sin, cos = math.sin(math.radians(self.bearing)), math.cos(math.radians(self.bearing))
        return -(self.fall * sin + self.cross_fall * cos), -(self.fall * cos - self.cross_fall * sin)

    def level_at(self, east: ArrayLike, north: ArrayLike) -> NDArray[np.float64]:
        """The plane's level at points, also outside its outline; shapes broadcast."""
        to_east, to_north = self.gradient
        east, north = np.asarray(east, dtype=float), np.asarray(north, dtype=float)
        return np.asarray(self.level + to_east * (east - self.at[0]) + to_north * (north - self.at[1]))

    @property
    def steepest(self) -> tuple[float, float]:
        """The combined fall as a ratio, and the bearing in degrees it runs down to."""
        to_east, to_north = self.gradient
        return math.hypot(to_east, to_north), math.degrees(math.atan2(-to_east, -to_north)) % 360


def combined_fall(along: float, across: float) -> float:
    """The fall of a plane that falls by the ratios `along` and `across` at right angles."""
    return math.hypot(along, across)


@dataclass(frozen=True)
class DesignSurface:
    """The finished surface: one facet or several that meet."""

    facets: tuple[Facet, ...]

    def level_at(self, east: ArrayLike, north: ArrayLike) -> NDArray[np.float64]:
        """Design level at each point, from the facet it lies in or nearest to; arrays of one shape."""
        points = shapely.points(np.atleast_1d(east).astype(float), np.atleast_1d(north).astype(float))
        distances = np.array([shapely.distance(facet.polygon, points) for facet in self.facets])
        levels = np.array([facet.level_at(east, north) for facet in self.facets])
        chosen = distances.argmin(axis=0)
        return np.asarray(np.take_along_axis(levels.reshape(distances.shape), chosen[None, :], axis=0)[0])

    def level(self, point: Point) -> float:
        """Design level at one point."""
        return float(self.level_at([point[0]], [point[1]])[0])

    def disagreements(self) -> list[tuple[Facet, Facet, float]]:
        """Pairs of neighbours whose levels differ by more than 3 mm along a shared edge, with by how much.

        The limit is common practice, no published source.
        """
        found = []
        for one, other in combinations(self.facets, 2):
            shared = shapely.intersection(
                shapely.set_precision(one.polygon, 0.001), shapely.set_precision(other.polygon, 0.001)
            )
            ends = shapely.get_coordinates(shared)
            if shared.length > 0.01 and len(ends):
                step = float(np.abs(one.level_at(*ends.T) - other.level_at(*ends.T)).max())
                if step > EDGE_AGREEMENT:
                    found.append((one, other, step))
        return found


def uncovered(area: shapely.Polygon, facets: Sequence[Facet]) -> float:
    """Square metres of `area` that lie in no facet."""
    return float(area.difference(shapely.union_all([facet.polygon for facet in facets]).buffer(0.005)).area)
