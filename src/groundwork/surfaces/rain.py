"""Rain on a surface of triangles: which puddle fills when, from where, and what runs off.

Hollows lie within hollows. Each fills from the ground that falls to it; full, it spills into the next; where two
spill into each other they become one. Water is taken to be where it runs to at once, and none soaks away or dries: a
puddle is never shown smaller than the answer.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from groundwork.surfaces.ponding import WET, Puddle
from groundwork.surfaces.tin import Bools, Floats, Ints, Mesh, above

STEPS = 24
"""A hollow's volume is known exactly at so many levels between its floor and its sill, straight between them."""
OUT = -1
LONG = 864_000.0
BRIM = 0.1
"""Ground without any way out is measured up to so far over its highest point, metres."""


@dataclass
class Hollow:
    """A hollow up to its `sill` level: `floor` is its lowest level, or where its `parts` became one. Full, it spills
    to the vertex `spills_to`. `catchment` is the ground that falls to it and to no part of it, m²."""

    floor: float
    vertices: list[int]
    parts: tuple[int, ...] = ()
    sill: float = math.inf
    whole: int = OUT
    spills_to: int = OUT
    catchment: float = 0.0
    levels: Floats = field(default_factory=lambda: np.zeros(0))
    volumes: Floats = field(default_factory=lambda: np.zeros(0))

    @property
    def capacity(self) -> float:
        return float(self.volumes[-1]) if len(self.volumes) else 0.0

    def level(self, volume: float) -> float:
        """The water's level where the hollow and its parts hold `volume` together."""
        return float(np.interp(volume, self.volumes, self.levels))


@dataclass(frozen=True)
class Moment:
    """At `time`, s: the `rain` fallen, what has `run_off`, and what stands, by hollow, m³."""

    time: float
    rain: float
    run_off: float
    standing: dict[int, float]


class Hollows:
    """The hollows of `surface`, levels (vertices,), drained by the vertices in `outlets`."""

    def __init__(self, mesh: Mesh, surface: Floats, outlets: Bools) -> None:
        self.mesh, self.surface, self.outlets = mesh, surface, outlets
        self.hollows: list[Hollow] = []
        self._neighbours = _neighbours(mesh)
        self._grow()
        self._fall()
        self._measure()

    def _grow(self) -> None:
        """Raises the water from below: a vertex with nothing lower beside it begins a hollow, one between hollows
        is the sill of both, one beside ground that drains is the sill towards it."""
        group = list(range(len(self.surface)))
        holds: dict[int, int] = {}
        seen = np.zeros(len(self.surface), dtype=bool)

        def root(vertex: int) -> int:
            while group[vertex] != vertex:
                group[vertex] = group[group[vertex]]
                vertex = group[vertex]
            return vertex

        for vertex in np.argsort(self.surface, kind="stable").tolist():
            seen[vertex] = True
            lower = sorted((o for o in self._neighbours[vertex] if seen[o]), key=lambda o: -self.surface[o])
            beside = {root(other): other for other in lower}
            members = {holds.pop(other): through for other, through in beside.items()}
            for other in beside:
                group[other] = vertex
            holds[vertex] = self._belongs(vertex, members)
            if holds[vertex] != OUT:
                self.hollows[holds[vertex]].vertices.append(vertex)

    def _belongs(self, vertex: int, members: dict[int, int]) -> int:
        """The hollow of a vertex that lies beside `members`, each with its vertex there; `OUT` where it drains."""
        level = float(self.surface[vertex])
        if self.outlets[vertex] or OUT in members:
            onward = members.pop(OUT, vertex)
            for member in members:
                self.hollows[member].sill, self.hollows[member].spills_to = level, onward
            return OUT
        if not members:
            self.hollows.append(Hollow(level, []))
            return len(self.hollows) - 1
        # Three at one sill are taken two by two: the joint of the first two is full as soon as it is made.
        (whole, through), *others = sorted(members.items())
        for other, beside in others:
            joint = len(self.hollows)
            for part, onward in ((whole, beside), (other, through)):
                hollow = self.hollows[part]
                hollow.sill, hollow.whole, hollow.spills_to = level, joint, onward
            self.hollows.append(Hollow(level, [], (whole, other)))
            whole = joint
        return whole

    def _fall(self) -> None:
        """Each vertex's ground goes down the steepest edge, to the hollow or outlet at the end."""
        edges = np.concatenate([self.mesh.edges, self.mesh.edges[:, ::-1]])
        drop = self.surface[edges[:, 0]] - self.surface[edges[:, 1]]
        steepness = drop / np.hypot(*(self.mesh.points[edges[:, 0]] - self.mesh.points[edges[:, 1]]).T)
        down = np.arange(len(self.surface))
        falling = np.argsort(steepness, kind="stable")
        falling = falling[steepness[falling] > 0]
        down[edges[falling, 0]] = edges[falling, 1]
        down[self.outlets] = np.flatnonzero(self.outlets)
        while not (down[down] == down).all():
            down = down[down]
        owner = np.full(len(self.surface), OUT)
        for number, hollow in enumerate(self.hollows):
            owner[hollow.vertices] = number
        leaf = [self._first_leaf(number) for number in range(len(self.hollows))]
        ends = owner[down]
        self.goes_to: Ints = np.where(ends == OUT, OUT, np.array([*leaf, OUT])[ends])
        for number in np.unique(self.goes_to[self.goes_to != OUT]):
            self.hollows[number].catchment = float(self.mesh.shares[self.goes_to == number].sum())

    def _first_leaf(self, number: int) -> int:
        while self.hollows[number].parts:
            number = self.hollows[number].parts[0]
        return number

    def _measure(self) -> None:
        brim = float(self.surface.max()) + BRIM
        for number, hollow in enumerate(self.hollows):
            under = np.zeros(len(self.surface), dtype=bool)
            under[self.under(number)] = True
            touched = under[self.mesh.triangles].any(axis=1)
            heights, areas = self.surface[self.mesh.triangles[touched]], self.mesh.areas[touched]
            top = min(hollow.sill, brim)
            hollow.levels = hollow.floor + (top - hollow.floor) * np.linspace(0, 1, STEPS) ** 0.7
            hollow.volumes = above(hollow.levels[:, None, None] - heights, areas)[0].sum(axis=1)

    def under(self, number: int) -> list[int]:
        """The vertices of a hollow and of its parts."""
        hollow = self.hollows[number]
        return [*hollow.vertices, *(v for part in hollow.parts for v in self.under(part))]

    def rain(self, intensity: float, duration: float, at: Sequence[float]) -> list[Moment]:
        """What stands at the times `at`, s, in rain of `intensity`, m/s, that falls for `duration`, s."""
        return _Rain(self, intensity, duration).moments(sorted(at))

    def full_after(self, intensity: float) -> dict[int, float]:
        """When each hollow is full that ever is within ten days of rain of `intensity`, m/s; s, by hollow."""
        rain = _Rain(self, intensity, LONG)
        rain.moments([LONG])
        return rain.full_at

    def of(self, puddle: Puddle) -> int:
        """The hollow that a puddle fills."""
        return next(
            n for n, hollow in enumerate(self.hollows)
            if hollow.whole == OUT and abs(hollow.sill - puddle.level) < WET and puddle.lowest in self.under(n)
        )  # fmt: skip


class _Rain:
    """Rain as it fills hollows. Between two that become full everything grows steadily."""

    def __init__(self, hollows: Hollows, intensity: float, duration: float) -> None:
        self.hollows, self.intensity, self.duration = hollows, intensity, duration
        self.area = float(hollows.mesh.areas.sum())
        self.held = {n: 0.0 for n, hollow in enumerate(hollows.hollows) if not hollow.parts}
        self.full: set[int] = set()
        self.full_at: dict[int, float] = {}
        self.run_off = 0.0
        self.time = 0.0

    def moments(self, at: Sequence[float]) -> list[Moment]:
        found = []
        for time in at:
            self._until(time)
            standing = {n: volume for n, volume in self.held.items() if volume > 0}
            found.append(Moment(time, self.intensity * self.area * min(time, self.duration), self.run_off, standing))
        return found

    def _until(self, time: float) -> None:
        end = min(time, self.duration)
        self._settle()
        while self.time < end:
            rates, off = self._rates()
            lists = self.hollows.hollows
            room = {n: max(lists[n].capacity - self.held[n], 0.0) for n in self.held if math.isfinite(lists[n].sill)}
            next_full = min(
                ((room[n] / rate, n) for n, rate in rates.items() if rate > 0 and n in room and n not in self.full),
                default=(math.inf, OUT),
            )
            step = min(next_full[0], end - self.time)
            for n, rate in rates.items():
                self.held[n] += rate * step
            self.run_off += off * step
            self.time += step
            if step == next_full[0]:
                self.full.add(next_full[1])
                self.full_at[next_full[1]] = self.time
                self._settle()
        self.time = max(self.time, time)

    def _settle(self) -> None:
        """Makes one of two that spill into each other, and marks what can hold nothing as full."""
        changed = True
        while changed:
            changed = False
            for n in list(self.held):
                hollow = self.hollows.hollows[n]
                if n not in self.full and math.isfinite(hollow.sill) and hollow.capacity <= WET**2:
                    self.full.add(n)
                    self.full_at[n] = self.time
                    changed = True
                if n in self.full and hollow.whole != OUT:
                    parts = self.hollows.hollows[hollow.whole].parts
                    if all(part in self.full for part in parts) and all(part in self.held for part in parts):
                        self.held[hollow.whole] = sum(self.held.pop(part) for part in parts)
                        changed = True

    def _rates(self) -> tuple[dict[int, float], float]:
        """What each hollow gains and what runs off, m³/s."""
        rates = dict.fromkeys(self.held, 0.0)
        for n, hollow in enumerate(self.hollows.hollows):
            if hollow.catchment and (end := self._end_of(n)) != OUT:
                rates[end] += hollow.catchment
        off = self.area - sum(rates.values())
        return {n: rate * self.intensity for n, rate in rates.items()}, off * self.intensity

    def _end_of(self, leaf: int) -> int:
        """The hollow that takes what runs to `leaf`, past all that are full; `OUT` where it runs off."""
        been: set[int] = set()
        while leaf != OUT:
            number = leaf
            while number not in self.held:
                number = self.hollows.hollows[number].whole
            if number not in self.full:
                return number
            if number in been:
                break
            been.add(number)
            leaf = int(self.hollows.goes_to[self.hollows.hollows[number].spills_to])
        return OUT


def _neighbours(mesh: Mesh) -> list[list[int]]:
    found: list[list[int]] = [[] for _point in mesh.points]
    for one, other in mesh.edges.tolist():
        found[one].append(other)
        found[other].append(one)
    return found
