"""A surface of triangles: Delaunay through places of known level, clipped to an area whose edges, holes and
re-entrant corners are kept, with lines across it (ridges, drains) kept as edges of triangles.

A `Mesh` is the plan of it and knows nothing of levels: levels at the places give levels at its vertices by one sparse
matrix, so that what is linear in what was shot stays linear. Functions of levels take arrays (vertices,).
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import ArrayLike, NDArray
from scipy import sparse
from scipy.spatial import Delaunay, QhullError, cKDTree
from shapely.geometry.base import BaseGeometry

from groundwork.measures import Said

Floats = NDArray[np.float64]
Ints = NDArray[np.int_]
Bools = NDArray[np.bool_]
SAME = 0.002
"""Places nearer to each other than this are one, metres."""
SHORTEST = 0.001
"""A kept edge is not cut into pieces shorter than this to force it into the triangulation, metres."""
BESIDE = 8
"""From so many places near to it a place on the edge of the area takes its level."""


class NoSurface(Said):
    """Places that make no surface; the message says why."""


@dataclass(frozen=True, eq=False)
class Mesh:
    """`points` (n, 2); `triangles` (m, 3) counter-clockwise; `neighbours` (m, 3), the triangle across from each
    corner or −1; `weights` (n, places) gives what holds at the vertices from what holds at the places; `vertex_of`
    (places,) is each place's own vertex, −1 where it lies outside the area or by itself; `region` is the part of the
    area that is known."""

    points: Floats
    triangles: Ints
    neighbours: Ints
    weights: sparse.csr_matrix
    vertex_of: Ints
    region: BaseGeometry

    @property
    def left_out(self) -> tuple[int, ...]:
        """The places the surface does not go by."""
        return tuple(np.flatnonzero(self.vertex_of < 0).tolist())

    @cached_property
    def areas(self) -> Floats:
        """Plan area of each triangle, m²."""
        return _areas(self.points[self.triangles])

    @cached_property
    def slopes(self) -> Floats:
        """(m, 3, 2): how each corner's share of a place in a triangle changes per metre to the east and north."""
        corners = self.points[self.triangles]
        across = np.roll(corners, -2, axis=1) - np.roll(corners, -1, axis=1)
        return np.asarray(np.stack([-across[..., 1], across[..., 0]], axis=-1) / (2 * self.areas[:, None, None]))

    @cached_property
    def edges(self) -> Ints:
        """Each edge once, (k, 2), the lower vertex first."""
        pairs = np.concatenate([self.triangles[:, [1, 2]], self.triangles[:, [2, 0]], self.triangles[:, [0, 1]]])
        whole = np.concatenate([self.neighbours[:, n] for n in range(3)])
        own = np.tile(np.arange(len(self.triangles)), 3)
        return np.sort(pairs[whole < own], axis=1)

    @cached_property
    def rim(self) -> Bools:
        """Which vertices lie on the edge of the region."""
        found = np.zeros(len(self.points), dtype=bool)
        for corner in range(3):
            outer = self.neighbours[:, corner] < 0
            found[self.triangles[outer][:, [(corner + 1) % 3, (corner + 2) % 3]]] = True
        return found

    @cached_property
    def shares(self) -> Floats:
        """A third of every triangle around it: the area each vertex stands for, m²."""
        third = np.repeat(self.areas / 3, 3)
        return np.asarray(np.bincount(self.triangles.ravel(), third, len(self.points)), dtype=float)

    @cached_property
    def compactness(self) -> Floats:
        """Least height over longest side of each triangle: 0.87 where equilateral, towards 0 for a sliver."""
        corners = self.points[self.triangles]
        longest = np.hypot(*np.moveaxis(corners - np.roll(corners, 1, axis=1), -1, 0)).max(axis=1)
        return np.asarray(2 * self.areas / longest**2)

    def at_vertices(self, at_places: ArrayLike) -> Floats:
        """What holds at the vertices from what holds at the places."""
        return np.asarray(self.weights @ np.asarray(at_places, dtype=float))

    def gradient(self, levels: Floats) -> Floats:
        """(m, 2): change of level per metre to the east and north in each triangle; exact on planes."""
        a, b, c = (levels[self.triangles[:, n], None] * self.slopes[:, n] for n in range(3))
        return np.asarray(a + b + c)

    def volume(self, heights: Floats) -> float:
        """The volume under a surface `heights` above nothing, m³; parts below nothing count against it."""
        return float(self.shares @ heights)

    def volumes(self, heights: Floats) -> tuple[float, float]:
        """The volumes of the parts above and below nothing, both positive, m³."""
        over, _area = above(heights[self.triangles], self.areas)
        return float(over.sum()), float(over.sum()) - self.volume(heights)

    @cached_property
    def _tree(self) -> shapely.STRtree:
        return shapely.STRtree([shapely.Polygon(corners) for corners in self.points[self.triangles]])

    def locate(self, places: ArrayLike) -> Ints:
        """The triangle each place (k, 2) lies in, −1 where in none."""
        places = np.asarray(places, dtype=float)
        found = np.full(len(places), -1)
        which, triangle = self._tree.query(shapely.points(places), predicate="intersects")
        found[which] = triangle
        return found

    def shares_at(self, places: ArrayLike) -> tuple[Ints, Floats]:
        """The triangle each place lies in and the shares of its corners there, (k, 3); NaN outside."""
        places = np.asarray(places, dtype=float)
        triangle = self.locate(places)
        corner = self.points[self.triangles[triangle]]
        shares = np.einsum("kcx,kcx->kc", self.slopes[triangle], places[:, None] - corner) + 1
        shares[triangle < 0] = np.nan
        return triangle, shares

    def level_at(self, levels: Floats, places: ArrayLike) -> Floats:
        """Levels at places (k, 2), straight within each triangle; NaN outside."""
        triangle, shares = self.shares_at(places)
        return np.asarray((levels[self.triangles[triangle]] * shares).sum(axis=1))

    def profile(
        self, levels: Floats, start: Sequence[float], end: Sequence[float]
    ) -> list[list[tuple[float, float]]]:
        """The surface along a line as (distance, level), in runs where it leaves the surface; exact: a stop at every
        edge it crosses. Its ends are taken to the nanometre: what is nearly nothing upsets intersections."""
        line = shapely.LineString(np.round([start, end], 9))
        if line.length == 0:
            return []
        near = self._tree.query(line, predicate="intersects")
        pieces = []
        for triangle in near:
            piece = line.intersection(shapely.Polygon(self.points[self.triangles[triangle]]))
            if piece.length > 1e-9:
                ends = shapely.get_coordinates(piece)[[0, -1]]
                along = np.hypot(*(ends - np.asarray(start)).T)
                corner = self.points[self.triangles[triangle]]
                shares = np.einsum("cx,ecx->ec", self.slopes[triangle], ends[:, None] - corner) + 1
                heights = shares @ levels[self.triangles[triangle]]
                pieces.append(sorted(zip(along.tolist(), heights.tolist(), strict=True)))
        runs: list[list[tuple[float, float]]] = []
        for first, last in sorted(pieces):
            if runs and first[0] - runs[-1][-1][0] < 1e-6:
                if last[0] > runs[-1][-1][0] + 1e-9:
                    runs[-1].append(last)
            else:
                runs.append([first, last])
        return runs


def above(heights: Floats, areas: Floats) -> tuple[Floats, Floats]:
    """Volume and plan area of the part of each triangle above nothing, from `heights` (…, m, 3) at its corners and
    its plan `areas` (m,): a plane cuts a tetrahedron off a corner (any text on solid geometry)."""
    low, middle, high = np.moveaxis(np.sort(heights, axis=-1), -1, 0)
    with np.errstate(divide="ignore", invalid="ignore"):
        one_up = high / ((high - middle) * (high - low))
        one_down = -low / ((middle - low) * (high - low))
        volume_up = areas * high**2 * one_up / 3
        volume_down = areas * low**2 * one_down / 3
        area_up, area_down = areas * high * one_up, areas * -low * one_down
    whole = areas * (low + middle + high) / 3
    is_over, mostly, partly = low >= 0, middle >= 0, high > 0
    return (
        np.where(is_over, whole, np.where(mostly, whole + volume_down, np.where(partly, volume_up, 0.0))),
        np.where(is_over, areas, np.where(mostly, areas - area_down, np.where(partly, area_up, 0.0))),
    )


def lay_mesh(
    places: ArrayLike,
    area: BaseGeometry,
    lines: Iterable[BaseGeometry] = (),
    edge_spacing: float | None = None,
) -> Mesh:
    """The triangles through `places` (k, 2) over `area`, a polygon with or without holes or several, with `lines`
    kept as edges. Nothing is said of the area beyond the places' own hull. With `edge_spacing`, the area's edges
    are divided no further apart than that, and take their levels from the plane that fits the places nearest to
    each division, instead of running straight between far corners.

    Places in one spot count by their mean. Raises `NoSurface`.
    """
    places = np.asarray(places, dtype=float).reshape(-1, 2)
    if not np.isfinite(places).all():
        raise NoSurface("a place has no finite position")
    if len(places) < 3:
        raise NoSurface("{number} of the three places that a surface needs", number=len(places))
    lines = [line for line in lines if not line.is_empty]
    parts: list[Mesh] = []
    owner = np.full(len(places), -1)
    reasons = []
    polygons = [part for part in shapely.get_parts(area) if part.geom_type == "Polygon"]
    for number, polygon in enumerate(polygons):
        near = shapely.contains_xy(polygon.buffer(SAME), places)
        owner[near & (owner < 0)] = number
        own = np.flatnonzero(owner == number)
        try:
            parts.append(_Laying(places[own], own, len(places), polygon, lines, edge_spacing).mesh())
        except NoSurface as reason:
            owner[own] = -1
            reasons.append(reason)
    if not parts:
        raise reasons[0] if reasons else NoSurface("no area to lie in")
    return _joined(parts)


def _joined(parts: Sequence[Mesh]) -> Mesh:
    first = np.cumsum([0, *(len(part.points) for part in parts)])
    before = np.cumsum([0, *(len(part.triangles) for part in parts)])
    return Mesh(
        np.concatenate([part.points for part in parts]),
        np.concatenate([part.triangles + n for part, n in zip(parts, first, strict=False)]),
        np.concatenate(
            [np.where(p.neighbours < 0, -1, p.neighbours + n) for p, n in zip(parts, before, strict=False)]
        ),
        sparse.csr_matrix(sparse.vstack([part.weights for part in parts])),
        np.max([np.where(p.vertex_of < 0, -1, p.vertex_of + n) for p, n in zip(parts, first, strict=False)], axis=0),
        parts[0].region if len(parts) == 1 else shapely.union_all([part.region for part in parts]),
    )


class _Laying:
    """The laying of one polygon's triangles."""

    def __init__(
        self,
        places: Floats,
        numbers: Ints,
        count: int,
        polygon: shapely.Polygon,
        lines: Sequence[BaseGeometry],
        edge_spacing: float | None,
    ) -> None:
        self.polygon, self.lines, self.edge_spacing = polygon, lines, edge_spacing
        groups, spots = _spots(places)
        self.groups, self.numbers = groups, numbers
        size = np.bincount(groups)
        self.spots = spots
        self.means = sparse.csr_matrix((1 / size[groups], (groups, numbers)), shape=(len(spots), count))
        if len(spots) < 3:
            raise NoSurface("{number} of the three places that a surface needs", number=len(spots))
        middle = spots - spots.mean(axis=0)
        if np.linalg.eigvalsh(middle.T @ middle)[0] < SAME**2 * len(spots):
            raise NoSurface("all places lie in one line")
        self.tree = cKDTree(spots)
        hull = shapely.MultiPoint(spots).convex_hull
        beyond = polygon.difference(hull.buffer(SAME)).area
        region = polygon if beyond < 1e-6 else polygon.intersection(hull)
        self.region = shapely.union_all([p for p in shapely.get_parts(region) if p.geom_type == "Polygon"])
        if self.region.area < 1e-6:
            raise NoSurface("the places do not enclose any of the area")

    def mesh(self) -> Mesh:
        points, segments = self._outlined()
        points = self._divided(points, segments)
        try:
            net = Delaunay(points)
        except QhullError as error:
            raise NoSurface("all places lie in one line") from error
        triangles = net.simplices
        corners = points[triangles]
        middles = (corners[:, 0] + corners[:, 1] + corners[:, 2]) / 3
        region = self.region.buffer(1e-7)
        shapely.prepare(region)
        inside = np.asarray(shapely.contains_xy(region, middles)) & (_areas(corners) > 1e-9)
        number = np.full(len(triangles) + 1, -1)
        number[:-1][inside] = np.arange(inside.sum())
        used = np.unique(triangles[inside])
        place = np.full(len(points), -1)
        place[used] = np.arange(len(used))
        weights = sparse.csr_matrix(sparse.vstack([self.means, self._extra(points[len(self.spots) :])]))
        vertex_of = np.full(self.means.shape[1], -1)
        vertex_of[self.numbers] = place[self.groups]
        return Mesh(
            points[used],
            place[triangles[inside]],
            number[net.neighbors[inside]],
            weights[used],
            vertex_of,
            self.region,
        )

    def _outlined(self) -> tuple[Floats, list[tuple[int, int]]]:
        """Every vertex asked for, the spots first, and the edges to keep as pairs of vertices."""
        rings = [self._with_divisions(ring) for ring in _rings(self.region)]
        inner = [line.intersection(self.region) for line in self.lines]
        kept = [*rings, *(line for line in inner if line.length > SHORTEST)]
        noded = shapely.node(shapely.GeometryCollection(kept))
        ends = [shapely.get_coordinates(part) for part in shapely.get_parts(noded)]
        dots = [shapely.get_coordinates(line.intersection(self.region)) for line in self.lines if line.length == 0]
        asked = np.concatenate([*ends, *dots])
        asked = asked[cKDTree(self.spots).query(asked)[0] > SAME]
        points = np.concatenate([self.spots, _spots(asked)[1]]) if len(asked) else self.spots
        tree = cKDTree(points)
        segments: set[tuple[int, int]] = set()
        for line in ends:
            numbers = tree.query(line)[1]
            segments.update(self._through_spots(points, tree, np.column_stack([numbers[:-1], numbers[1:]])))
        return points, sorted(segments)

    @staticmethod
    def _through_spots(points: Floats, tree: cKDTree, pairs: Ints) -> set[tuple[int, int]]:
        """The segments, divided at the vertices that lie on them."""
        pairs = pairs[pairs[:, 0] != pairs[:, 1]]
        start, way = points[pairs[:, 0]], points[pairs[:, 1]] - points[pairs[:, 0]]
        length = np.hypot(*way.T)
        near = tree.query_ball_point(start + way / 2, length / 2 + SAME)
        which = np.repeat(np.arange(len(pairs)), [len(some) for some in near])
        close = np.concatenate([np.asarray(some, dtype=int) for some in near]) if len(near) else which
        aside = points[close] - start[which]
        along = (aside * way[which]).sum(axis=1) / length[which]
        off = np.abs(aside[:, 0] * way[which, 1] - aside[:, 1] * way[which, 0]) / length[which]
        on = (off < SAME) & (along > SAME) & (along < length[which] - SAME)
        stops: dict[int, list[int]] = {}
        for place in np.flatnonzero(on)[np.argsort(along[on])].tolist():
            stops.setdefault(int(which[place]), []).append(int(close[place]))
        found: set[tuple[int, int]] = set()
        for number, (one, other) in enumerate(pairs.tolist()):
            found.update((min(a, b), max(a, b)) for a, b in pairwise([one, *stops.get(number, []), other]))
        return found

    def _with_divisions(self, ring: shapely.LineString) -> BaseGeometry:
        return ring if self.edge_spacing is None else shapely.segmentize(ring, self.edge_spacing)

    def _divided(self, points: Floats, segments: Sequence[tuple[int, int]]) -> Floats:
        """`points` with the segments divided until no vertex lies in the circle over any piece: then the
        triangulation has every piece as an edge. Sides of the hull are edges anyway."""
        hull = shapely.MultiPoint(points).convex_hull
        if not isinstance(hull, shapely.Polygon):
            raise NoSurface("all places lie in one line")
        edge = hull.exterior
        shapely.prepare(edge)
        pairs = np.array(segments).reshape(-1, 2)
        ends = points[pairs]
        inner = ~(
            shapely.dwithin(edge, shapely.points(ends.mean(axis=1)), 1e-9)
            & shapely.dwithin(edge, shapely.points(ends[:, 0]), 1e-9)
            & shapely.dwithin(edge, shapely.points(ends[:, 1]), 1e-9)
        )
        waiting, whole = [(a, b) for a, b in ends[inner]], list[tuple[Floats, Floats]]()
        while waiting:
            crowded = _crowded(waiting, cKDTree(points))
            split = [(*edge, (edge[0] + edge[1]) / 2) for edge, full in zip(waiting, crowded, strict=True) if full]
            whole += [edge for edge, full in zip(waiting, crowded, strict=True) if not full]
            waiting = [half for start, end, middle in split for half in ((start, middle), (middle, end))]
            if split:
                new = np.array([middle for _start, _end, middle in split])
                points = np.concatenate([points, new])
                crowded = _crowded(whole, cKDTree(new))
                waiting += [edge for edge, full in zip(whole, crowded, strict=True) if full]
                whole = [edge for edge, full in zip(whole, crowded, strict=True) if not full]
        return points

    def _extra(self, vertices: Floats) -> sparse.csr_matrix:
        """What holds at vertices that are no spots, from what holds at the places: within a triangle of the spots
        that lies in the area, straight; on the area's edge or where such a triangle leaves it, by the plane that
        fits the nearest spots in sight."""
        if not len(vertices):
            return sparse.csr_matrix((0, self.means.shape[1]))
        rows, columns, shares = [], [], []
        fitted = np.ones(len(vertices), dtype=bool)
        on_edge = np.asarray(shapely.dwithin(self.polygon.boundary, shapely.points(vertices), SAME))
        straight = ~on_edge if self.edge_spacing is not None else np.ones(len(vertices), dtype=bool)
        if straight.any():
            net = Delaunay(self.spots)
            found = net.find_simplex(vertices, tol=1e-6)
            safe = np.where(found < 0, 0, found)
            triangles = shapely.polygons(self.spots[net.simplices[safe]])
            whole = shapely.covers(self.polygon.buffer(SAME), triangles) & (found >= 0) & straight
            transform = net.transform[safe]
            two = np.einsum("nij,nj->ni", transform[:, :2], vertices - transform[:, 2])
            parts = np.column_stack([two, 1 - two.sum(axis=1)])
            for row in np.flatnonzero(whole):
                rows += [int(row)] * 3
                columns += net.simplices[safe[row]].tolist()
                shares += parts[row].tolist()
            fitted = ~whole
        if fitted.any():
            near, weight = self._planes_at(vertices[fitted])
            rows += np.repeat(np.flatnonzero(fitted), near.shape[1]).tolist()
            columns += near.ravel().tolist()
            shares += weight.ravel().tolist()
        local = sparse.csr_matrix((shares, (rows, columns)), shape=(len(vertices), len(self.spots)))
        return sparse.csr_matrix(local @ self.means)

    def _planes_at(self, places: Floats) -> tuple[Ints, Floats]:
        """The spots near each place and their shares in the level there of the plane that fits those in sight, the
        nearer the more; exact where they lie in a plane. Where the nearest lie in a line, more are asked."""
        count = min(2 * BESIDE, len(self.spots))
        near, weight = self._fitted(places, count)
        while count < len(self.spots) and np.isnan(weight).any():
            count = min(2 * count, len(self.spots))
            near, weight = self._fitted(places, count)
        return near, weight

    def _fitted(self, places: Floats, count: int) -> tuple[Ints, Floats]:
        distance, near = self.tree.query(places, k=count)
        seen = self._in_sight(places, near)
        seen[seen.sum(axis=1) < 3] = True
        order = np.cumsum(seen, axis=1)
        aside = self.spots[near] - places[:, None]
        pull = np.where(seen & (order <= BESIDE), 1 / np.maximum(distance, 0.05) ** 2, 0.0)
        flat = self._in_line(aside, pull)
        pull[flat] = np.where(seen, 1 / np.maximum(distance, 0.05) ** 2, 0.0)[flat]
        terms = np.concatenate([np.ones((*near.shape, 1)), aside], axis=2)
        normal = np.einsum("pki,pk,pkj->pij", terms, pull, terms)
        # A little is held back from tilting, so that spots nearly in a line do not swing the plane.
        stiff = 1e-11 * pull.sum(axis=1) * distance[:, -1] ** 2
        normal[:, [1, 2], [1, 2]] += stiff[:, None]
        level = np.linalg.solve(normal, np.tile([[1.0], [0.0], [0.0]], (len(places), 1, 1)))[..., 0]
        weight = np.einsum("pi,pki,pk->pk", level, terms, pull)
        if count < len(self.spots):
            weight[self._in_line(aside, pull)] = np.nan
        return near, weight

    def _in_sight(self, places: Floats, near: Ints) -> Bools:
        """Which spots near each place are seen from it without leaving the area."""
        if self.polygon.convex_hull.area - self.polygon.area < SAME**2:
            return np.ones(near.shape, dtype=bool)
        ways = np.stack([np.broadcast_to(places[:, None], (*near.shape, 2)), self.spots[near]], axis=2)
        room = self.polygon.buffer(SAME)
        shapely.prepare(room)
        return np.asarray(shapely.covers(room, shapely.linestrings(ways.reshape(-1, 2, 2)))).reshape(near.shape)

    @staticmethod
    def _in_line(aside: Floats, pull: Floats) -> Bools:
        """Where the spots that count lie nearly in a line."""
        used = pull > 0
        middle = (aside * used[..., None]).sum(axis=1) / used.sum(axis=1)[:, None]
        spread = (aside - middle[:, None]) * used[..., None]
        moments = np.linalg.eigvalsh(np.einsum("pki,pkj->pij", spread, spread))
        return np.asarray(moments[:, 0] < 0.01 * moments[:, 1])


def _crowded(edges: Sequence[tuple[Floats, Floats]], tree: cKDTree) -> Bools:
    """Which edges have a point of `tree` in the circle over them, and are long enough to be divided."""
    if not edges:
        return np.zeros(0, dtype=bool)
    ends = np.array(edges)
    radius = np.hypot(*(ends[:, 1] - ends[:, 0]).T) / 2
    inside = tree.query_ball_point(ends.mean(axis=1), np.maximum(radius * (1 - 1e-9) - 1e-9, 0), return_length=True)
    return np.asarray((radius > SHORTEST / 2) & (inside > 0))


def _areas(corners: Floats) -> Floats:
    """The area of each triangle (m, 3, 2), positive where it goes round counter-clockwise."""
    (x1, y1), (x2, y2) = (corners[:, n].T - corners[:, 0].T for n in (1, 2))
    return np.asarray((x1 * y2 - x2 * y1) / 2)


def _rings(region: BaseGeometry) -> list[shapely.LineString]:
    return [
        shapely.LineString(ring.coords)
        for part in shapely.get_parts(region)
        for ring in (part.exterior, *part.interiors)
    ]


def _spots(places: Floats) -> tuple[Ints, Floats]:
    """Places taken together where they are the same: the group of each, and the groups' own places."""
    pairs = cKDTree(places).query_pairs(SAME, output_type="ndarray")
    if not len(pairs):
        return np.arange(len(places)), places
    links = sparse.coo_matrix((np.ones(len(pairs)), pairs.T), shape=(len(places), len(places)))
    count, groups = sparse.csgraph.connected_components(links, directed=False)
    size = np.bincount(groups, minlength=count)
    spots = np.column_stack([np.bincount(groups, places[:, n], count) / size for n in range(2)])
    return groups, spots
