"""Where water stands on a surface of triangles, exactly: how deep, how wide, how much, and where it spills.

Water at a vertex rises to the lowest of the highest points on any way along edges to an outlet: a minimax path, which
the minimum spanning tree holds (Hu 1961, "The maximum capacity route problem"; any text on graphs). Between vertices
the surface is flat triangles, so nothing lower is missed between them.
"""

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy import sparse
from scipy.sparse import csgraph
from shapely.geometry.base import BaseGeometry

from groundwork.surfaces.tin import Bools, Floats, Ints, Mesh, above

FINEST = 1e-6
"""So much wider a piece of a puddle is taken than it is, metres: pieces that all but meet in a line have no union."""
WET = 1e-6
"""Water less deep than this is none, metres."""


@dataclass(frozen=True)
class Puddle:
    """Water that stands: its `level`, greatest `depth`, `area` and `volume`; the vertices under it, the lowest of
    them, and the vertex it spills over. `way` are the vertices from the lowest to the outlet it spills towards.
    Metres, square and cubic metres."""

    level: float
    depth: float
    area: float
    volume: float
    vertices: tuple[int, ...]
    lowest: int
    sill: int
    way: tuple[int, ...]


@dataclass(frozen=True, eq=False)
class StandingWater:
    """`levels` (vertices,) to which water rises: the surface's own where none stands, infinite where no outlet can
    be reached; `onward` the vertex it goes on to, −1 at an outlet; `of_triangle` the puddle each triangle is in,
    −1 for none; `puddles` the deepest first."""

    mesh: Mesh
    surface: Floats
    levels: Floats
    onward: Ints
    puddles: tuple[Puddle, ...]
    of_triangle: Ints

    @cached_property
    def depths(self) -> Floats:
        return np.asarray(self.levels - self.surface)

    @property
    def landlocked(self) -> Bools:
        """The vertices from which no outlet is reached."""
        return np.isinf(self.levels)

    @cached_property
    def trapped(self) -> float:
        """The plan area from which no outlet is reached, m²."""
        return float(self.mesh.areas[self.landlocked[self.mesh.triangles].any(axis=1)].sum())

    def pool(self, number: int) -> BaseGeometry:
        """The outline of a puddle at its fullest: the part of its triangles under its level."""
        level, parts = self.puddles[number].level, []
        for triangle in np.flatnonzero(self.of_triangle == number):
            corners, levels = (of[self.mesh.triangles[triangle]] for of in (self.mesh.points, self.surface))
            ring: list[tuple[float, float]] = []
            for n in range(3):
                (x1, y1), (x2, y2) = corners[n], corners[(n + 1) % 3]
                one, other = levels[n] - level, levels[(n + 1) % 3] - level
                if one < 0:
                    ring.append((x1, y1))
                if (one < 0) != (other < 0):
                    share = one / (one - other)
                    ring.append((x1 + share * (x2 - x1), y1 + share * (y2 - y1)))
            if len(ring) > 2:
                parts.append(shapely.Polygon(ring))
        return shapely.union_all(shapely.buffer(parts, FINEST, join_style="mitre"))


def standing_water(mesh: Mesh, surface: Floats, outlets: Bools) -> StandingWater:
    """Where water stands on `surface`, levels (vertices,), that leaves by the vertices in `outlets`."""
    levels, onward = _rise(mesh, surface, outlets)
    wet = np.isfinite(levels) & (levels - surface > WET)
    edges = mesh.edges[wet[mesh.edges].all(axis=1)]
    count = len(surface)
    links = sparse.coo_matrix((np.ones(len(edges)), edges.T), shape=(count, count))
    _number, groups = csgraph.connected_components(links, directed=False)
    groups = np.where(wet, groups, -1)
    of_triangle = groups[mesh.triangles].max(axis=1)
    inside = np.flatnonzero(of_triangle >= 0)
    top = np.where(wet, levels, -np.inf)[mesh.triangles[inside]].max(axis=1)
    volumes, areas = above(top[:, None] - surface[mesh.triangles[inside]], mesh.areas[inside])
    volume = np.bincount(of_triangle[inside], volumes, count)
    area = np.bincount(of_triangle[inside], areas, count)
    members = np.flatnonzero(wet)
    members = members[np.lexsort((surface[members], groups[members]))]
    found = []
    for under in np.split(members, np.flatnonzero(np.diff(groups[members])) + 1) if len(members) else ():
        lowest = int(under[0])
        group, level = groups[lowest], float(levels[lowest])
        way = _way(onward, lowest)
        sill = next(v for v in way if not wet[v])
        puddle = Puddle(
            level, level - float(surface[lowest]), float(area[group]), float(volume[group]),
            tuple(under.tolist()), lowest, sill, way,
        )  # fmt: skip
        found.append((group, puddle))
    found.sort(key=lambda pair: -pair[1].depth)
    place = np.full(count + 1, -1)
    place[[group for group, _puddle in found]] = np.arange(len(found))
    return StandingWater(mesh, surface, levels, onward, tuple(p for _group, p in found), place[of_triangle])


def _rise(mesh: Mesh, surface: Floats, outlets: Bools) -> tuple[Floats, Ints]:
    """The level water rises to at each vertex, and the vertex it goes on to."""
    count = len(surface)
    rank = np.empty(count, dtype=np.int64)
    rank[np.argsort(surface, kind="stable")] = np.arange(1, count + 1)
    ways_out = np.flatnonzero(outlets)
    starts = np.concatenate([mesh.edges[:, 0], ways_out])
    ends = np.concatenate([mesh.edges[:, 1], np.full(len(ways_out), count)])
    heights = np.concatenate([rank[mesh.edges].max(axis=1), rank[ways_out]])
    graph = sparse.csr_matrix((heights, (starts, ends)), shape=(count + 1, count + 1))
    order, before = csgraph.breadth_first_order(csgraph.minimum_spanning_tree(graph), count, directed=False)
    levels = [math.inf] * count + [-math.inf]
    own, parent = surface.tolist(), before.tolist()
    for vertex in order[1:].tolist():
        levels[vertex] = max(levels[parent[vertex]], own[vertex])
    onward = before[:count].copy()
    onward[(onward == count) | (onward < 0)] = -1
    return np.array(levels[:count]), onward


def _way(onward: NDArray[np.int_], start: int) -> tuple[int, ...]:
    found = [start]
    while onward[found[-1]] >= 0:
        found.append(int(onward[found[-1]]))
    return tuple(found)
