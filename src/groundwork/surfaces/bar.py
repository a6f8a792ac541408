"""The gap under a straightedge laid on a surface of triangles."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from groundwork.surfaces.tin import Floats, Ints, Mesh

BAR = 3.0
"""The usual straightedge, metres."""
TURNS, TURNS_OF_MANY = 24, 6
"""Directions in which the bar is laid at every station; fewer where there are thousands."""
MANY = 2000
FINE_TURNS = 180
WORST = 10
"""At so many stations with the widest gaps the bar is turned in steps of two degrees."""
AT_FIRST, AT_ONCE = 500, 4000
DULL = 1e-9
MOST_CROSSED = 4000


@dataclass(frozen=True)
class Gap:
    """The widest gap under the bar laid with one end at a place: how wide, metres, where, between which two points
    of contact, each (east, north)."""

    gap: float
    at: tuple[float, float]
    start: tuple[float, float]
    end: tuple[float, float]


@dataclass(frozen=True, eq=False)
class BarGaps:
    """`gaps` (stations,) the widest at each, NaN where none can pass the limit; `worst` the widest of all, turned
    closely where the gaps are widest; None where nothing was bridged."""

    gaps: Floats
    worst: Gap | None


def straightedge(mesh: Mesh, levels: Floats, at: ArrayLike, length: float = BAR, limit: float = 0.0) -> BarGaps:
    """The widest gaps over `limit` under a bar of `length` laid with one end at each vertex of `at`, in any
    direction; the bar is as long as the surface lets it, and rests on two points with the gap between them."""
    vertices = np.asarray(at, dtype=int)
    if not len(vertices):
        return BarGaps(np.zeros(0), None)
    turns = _turns(TURNS if len(vertices) <= MANY else TURNS_OF_MANY)
    bars = _Bars(mesh, levels, vertices, turns, length)
    bars.rest(limit)
    gaps = np.full(len(vertices), np.nan)
    np.fmax.at(gaps, bars.station, bars.widest)
    closely = vertices[np.argsort(-np.nan_to_num(gaps), kind="stable")[:WORST]]
    fine = _Bars(mesh, levels, closely, _turns(FINE_TURNS), length)
    fine.rest(np.inf)
    worst = max((fine.gap(), bars.gap()), key=lambda gap: gap.gap if gap else 0.0)
    return BarGaps(gaps, worst)


def _turns(count: int) -> Floats:
    """Unit vectors all round. They start a little off the east, away from the edges of regular grids."""
    angles = np.arange(count) * 2 * np.pi / count + 1e-4
    return np.column_stack([np.cos(angles), np.sin(angles)])


class _Bars:
    """Bars laid from vertices in directions, all at once: every step takes all of them into their next triangle."""

    def __init__(self, mesh: Mesh, levels: Floats, vertices: Ints, turns: Floats, length: float) -> None:
        self.mesh, self.levels, self.vertices, self.turns = mesh, levels, vertices, turns
        self.station, self.turn, triangle = self._begin()
        self.origin = mesh.points[vertices[self.station]]
        count = len(self.station)
        self.along, self.height = self._walked(triangle, levels, length)
        self.widest = np.full(count, np.nan)
        self.where = np.zeros((count, 3), dtype=int)

    def _walked(self, triangle: Ints, levels: Floats, length: float) -> tuple[Floats, Floats]:
        """How far along each bar crosses from triangle to triangle, and the level there; both (bars, crossings), the
        last repeated where a bar crosses fewer than others."""
        mesh = self.mesh
        east, north = np.ascontiguousarray(mesh.slopes.transpose(2, 1, 0))
        gradient = mesh.gradient(levels)
        base = levels[mesh.triangles[:, 0]] - (gradient * mesh.points[mesh.triangles[:, 0]]).sum(axis=1)
        whole = np.ascontiguousarray(1 - (mesh.slopes * mesh.points[mesh.triangles]).sum(axis=2).T)
        rise_east, rise_north = np.ascontiguousarray(gradient.T)
        x, y = self.origin.T
        dx, dy = self.turns[self.turn].T
        along, height = np.zeros(len(x)), levels[self.vertices[self.station]]
        steps = [(along, height)]
        going = np.arange(len(x))
        while len(going) and len(steps) < MOST_CROSSED:
            ox, oy, wx, wy = x[going], y[going], dx[going], dy[going]
            out, across = np.full(len(going), np.inf), np.zeros(len(going), dtype=np.int8)
            # One corner after another, in plain rows: this is where the time goes.
            for corner in range(3):
                to_east, to_north = east[corner][triangle], north[corner][triangle]
                rate = to_east * wx + to_north * wy
                start = whole[corner][triangle] + to_east * ox + to_north * oy
                with np.errstate(divide="ignore", invalid="ignore"):
                    until = np.where(rate < -DULL, -start / rate, np.inf)
                sooner = until < out
                out = np.where(sooner, until, out)
                across[sooner] = corner
            reach = np.maximum(np.minimum(out, length), along[going])
            along, height = along.copy(), height.copy()
            along[going] = reach
            spot_x, spot_y = ox + reach * wx, oy + reach * wy
            height[going] = base[triangle] + rise_east[triangle] * spot_x + rise_north[triangle] * spot_y
            steps.append((along, height))
            onward = mesh.neighbours[triangle, across]
            on = (onward >= 0) & (reach < length)
            triangle, going = onward[on], going[on]
        return np.stack([s[0] for s in steps]).T, np.stack([s[1] for s in steps]).T

    def _begin(self) -> tuple[Ints, Ints, Ints]:
        """Each bar: the place of its vertex among those asked for, its direction, and the triangle it starts in."""
        place = np.full(len(self.mesh.points), -1)
        place[self.vertices] = np.arange(len(self.vertices))
        stations, turns, triangles = [], [], []
        for corner in range(3):
            vertex = place[self.mesh.triangles[:, corner]]
            own = np.flatnonzero(vertex >= 0)
            # Into the triangle from this corner: its two far shares grow.
            left, right = (
                self.mesh.slopes[own, (corner + n) % 3, :1] * self.turns[:, 0]
                + self.mesh.slopes[own, (corner + n) % 3, 1:] * self.turns[:, 1]
                for n in (1, 2)
            )
            inward = (left >= 0) & (right > 0)
            which, turn = np.nonzero(inward)
            stations.append(vertex[own[which]])
            turns.append(turn)
            triangles.append(own[which])
        return np.concatenate(stations), np.concatenate(turns), np.concatenate(triangles)

    def rest(self, limit: float) -> None:
        """Lets down every bar whose gap can pass `limit`, and any that can have the widest: no gap is wider than
        what the profile strays from the line between its ends."""
        run = self.along / np.maximum(self.along[:, -1:], DULL)
        stray = self.height - self.height[:, :1] - run * (self.height[:, -1:] - self.height[:, :1])
        most = stray.max(axis=1) - stray.min(axis=1)
        if not len(most):
            return  # nothing around any of them is known
        first = np.argpartition(-most, min(AT_FIRST, len(most) - 1))[:AT_FIRST]
        self._let_down(first)
        waiting = most > min(limit, max(float(self.widest[first].max()), DULL))
        waiting[first] = False
        others = np.flatnonzero(waiting)
        for start in range(0, len(others), AT_ONCE):
            self._let_down(others[start : start + AT_ONCE])

    def _let_down(self, bars: Ints) -> None:
        """From one point of contact to the next, the steepest way up."""
        reached, level = self.along[bars], self.height[bars]
        count, width = reached.shape
        every, columns = np.arange(count), np.arange(width)
        contact = np.zeros(count, dtype=int)
        widest, where = np.zeros(count), np.zeros((count, 3), dtype=int)
        while (contact < width - 1).any():
            run = reached - reached[every, contact][:, None]
            rise = level - level[every, contact][:, None]
            with np.errstate(divide="ignore", invalid="ignore"):
                slope = np.where((columns > contact[:, None]) & (run > DULL), rise / run, -np.inf)
            best = slope.max(axis=1)
            done = np.isinf(best)
            following = np.where(done, width - 1, width - 1 - slope[:, ::-1].argmax(axis=1))
            between = (columns > contact[:, None]) & (columns < following[:, None]) & ~done[:, None]
            gap = np.where(between, np.where(done, 0.0, best)[:, None] * run - rise, 0.0)
            deepest = gap.argmax(axis=1)
            wider = gap[every, deepest] > widest
            widest[wider] = gap[every, deepest][wider]
            where[wider] = np.column_stack([deepest, contact, following])[wider]
            contact = following
        self.widest[bars], self.where[bars] = widest, where

    def gap(self) -> Gap | None:
        """The widest gap under any of them."""
        if not len(self.widest) or np.nan_to_num(self.widest).max() <= DULL:
            return None
        bar = int(np.nanargmax(self.widest))
        spots = self.origin[bar] + self.along[bar, self.where[bar]][:, None] * self.turns[self.turn[bar]]
        at, start, end = ((float(x), float(y)) for x, y in spots)
        return Gap(float(self.widest[bar]), at, start, end)
