"""The way water takes down a surface of triangles: straight down each, along an edge where two meet."""

import math
from collections.abc import Sequence

import numpy as np

from groundwork.surfaces.design import Point
from groundwork.surfaces.tin import Bools, Floats, Mesh

MOST_STEPS = 400
CLOSE = 1e-9


class Flow:
    """The ways down `surface`, levels (vertices,), to its outlets, its edge, or where it lies lowest."""

    def __init__(self, mesh: Mesh, surface: Floats, outlets: Bools) -> None:
        self.surface = surface.tolist()
        self.points = [(x, y) for x, y in mesh.points.tolist()]
        self.triangles: list[list[int]] = mesh.triangles.tolist()
        self.neighbours: list[list[int]] = mesh.neighbours.tolist()
        self.outlets = outlets.tolist()
        gradient = mesh.gradient(surface)
        self.down: list[tuple[float, float]] = [(-x, -y) for x, y in gradient.tolist()]
        self.around: list[list[int]] = [[] for _point in self.points]
        for number, corners in enumerate(self.triangles):
            for corner in corners:
                self.around[corner].append(number)

    def way(self, triangle: int, start: Point) -> list[Point]:
        """The way from a place in a triangle, corner by corner; it ends where water stays or leaves."""
        way, at = [start], start
        here: int | None = triangle
        vertex: int | None = None
        for _step in range(MOST_STEPS):
            if vertex is not None:
                if self.outlets[vertex]:
                    break
                triangle_down, lower = self._from_vertex(vertex)
                if triangle_down is not None:
                    here, vertex = triangle_down, None
                elif lower is not None:
                    vertex, at = lower, self.points[lower]
                    way.append(at)
                    continue
                else:
                    break
            if here is None or math.hypot(*self.down[here]) < CLOSE:
                break
            corner, at = self._exit(here, at)
            way.append(at)
            corners = self.triangles[here]
            one, other = corners[(corner + 1) % 3], corners[(corner + 2) % 3]
            onward = self.neighbours[here][corner]
            end = next((v for v in (one, other) if math.dist(self.points[v], at) < 1e-6), None)
            if end is not None:
                vertex = end
            elif onward < 0 and self.outlets[one] and self.outlets[other]:
                break
            elif onward < 0 or not self._runs_into(onward, one, other):
                vertex = one if self.surface[one] <= self.surface[other] else other
                if self.surface[one] == self.surface[other]:
                    break
                at = self.points[vertex]
                way.append(at)
            else:
                here = onward
        return way

    def _exit(self, triangle: int, at: Point) -> tuple[int, Point]:
        """The corner across from the edge the way leaves a triangle by, and where."""
        (dx, dy), corners = self.down[triangle], [self.points[v] for v in self.triangles[triangle]]
        best, corner = math.inf, 0
        for number in range(3):
            (x1, y1), (x2, y2) = corners[(number + 1) % 3], corners[(number + 2) % 3]
            outward = (y2 - y1) * dx - (x2 - x1) * dy
            if outward > 1e-12:
                reach = ((y2 - y1) * (x1 - at[0]) - (x2 - x1) * (y1 - at[1])) / outward
                if reach < best:
                    best, corner = reach, number
        best = max(best, 0.0)
        return corner, (at[0] + dx * best, at[1] + dy * best)

    def _runs_into(self, triangle: int, one: int, other: int) -> bool:
        """Whether a triangle falls away from its edge between two vertices, going in over it from `one` to
        `other` on the side it comes from."""
        (x1, y1), (x2, y2), (dx, dy) = self.points[one], self.points[other], self.down[triangle]
        return bool((y2 - y1) * dx - (x2 - x1) * dy > 1e-12)

    def _from_vertex(self, vertex: int) -> tuple[int | None, int | None]:
        """The triangle water goes down into from a vertex, or the vertex it goes to along an edge: the steepest."""
        x, y = self.points[vertex]
        best, into, lower = CLOSE, None, None
        for triangle in self.around[vertex]:
            corners = self.triangles[triangle]
            place = corners.index(vertex)
            one, other = corners[(place + 1) % 3], corners[(place + 2) % 3]
            (x1, y1), (x2, y2), (dx, dy) = self.points[one], self.points[other], self.down[triangle]
            if (x1 - x) * dy - (y1 - y) * dx > 0 and dx * (y2 - y) - dy * (x2 - x) > 0:
                steep = math.hypot(dx, dy)
                if steep > best:
                    best, into, lower = steep, triangle, None
            for end in (one, other):
                fall = (self.surface[vertex] - self.surface[end]) / math.dist((x, y), self.points[end])
                if fall > best + CLOSE:
                    best, into, lower = fall, None, end
        return into, lower


def flow_lines(mesh: Mesh, surface: Floats, outlets: Bools, spacing: float) -> list[list[Point]]:
    """Ways down from places about `spacing` apart over the surface."""
    flow = Flow(mesh, surface, outlets)
    west, south, east, north = mesh.region.bounds
    rows = np.arange(south + spacing / 2, north, spacing)
    columns = np.arange(west + spacing / 2, east, spacing)
    grid = np.stack(np.meshgrid(columns, rows), axis=-1).reshape(-1, 2)
    triangle = mesh.locate(grid)
    seeds: Sequence[tuple[int, Point]] = [
        (int(t), (float(x), float(y))) for t, (x, y) in zip(triangle, grid, strict=True) if t >= 0
    ]
    return [flow.way(t, place) for t, place in seeds]
