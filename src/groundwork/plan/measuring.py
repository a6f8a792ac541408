"""Corners from what was measured of them: taped lengths, angles at corners, offsets from a line between two fixed
places, mixed freely. What is over-determined is adjusted by least squares, and a slip is named by the length that
misses the others by more than it can (Baarda's test of each observation; any text on adjustment).
"""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from groundwork.surfaces import Point

TAPE_U, TAPE_RATE = 0.002, 0.0001
"""Standard uncertainty of a taped length, metres and per metre (common practice, no published source)."""
ANGLE_U = 0.5
"""Standard uncertainty of an angle by eye, by square or by 3-4-5, degrees (common practice, no published source)."""
SURE = 3.29
"""Standard deviations beyond which an observation is a slip: one in a thousand is not (Baarda 1968, from memory)."""
ALIKE = 0.95
"""Observations that miss by at least this share of the worst cannot be told from it."""
CHECKED = 0.1
"""An observation of less redundancy than this is as good as unchecked."""
CLOSES = 0.05
"""A walk that ends nearer to its start than this share of its length was meant to close."""
WAYS = {"right": (1, 0), "up": (0, 1), "left": (-1, 0), "down": (0, -1)}


@dataclass(frozen=True)
class TapedLength:
    """A length between two points, metres."""

    start: str
    end: str
    length: float

    def __post_init__(self) -> None:
        if self.start == self.end:
            raise ValueError("a length goes from one point to another, not to itself")
        if not (math.isfinite(self.length) and self.length > 0):
            raise ValueError("a length is more than nothing")

    @property
    def points(self) -> tuple[str, ...]:
        return self.start, self.end

    @property
    def deviations(self) -> tuple[float, ...]:
        return (math.hypot(TAPE_U, TAPE_RATE * self.length),)

    def misses(self, at: Mapping[str, Point]) -> tuple[float, ...]:
        """What was measured less what the places have, metres."""
        return (self.length - math.dist(at[self.start], at[self.end]),)

    def slopes(self, at: Mapping[str, Point]) -> list[dict[str, Point]]:
        """How what the places have changes as each point moves east and north."""
        (x0, y0), (x1, y1) = at[self.start], at[self.end]
        length = max(math.hypot(x1 - x0, y1 - y0), 1e-9)
        east, north = (x1 - x0) / length, (y1 - y0) / length
        return [{self.start: (-east, -north), self.end: (east, north)}]


@dataclass(frozen=True)
class CornerAngle:
    """The angle at a corner, degrees, turning to the left from the point `after` to the point `before`: what lies
    inside of an area walked round to the left."""

    at: str
    before: str
    after: str
    degrees: float

    @property
    def points(self) -> tuple[str, ...]:
        return self.at, self.before, self.after

    @property
    def deviations(self) -> tuple[float, ...]:
        return (math.radians(ANGLE_U),)

    def misses(self, at: Mapping[str, Point]) -> tuple[float, ...]:
        """Radians."""
        one, other = (_way(at[self.at], at[point]) for point in (self.before, self.after))
        turned = other.conjugate() * one
        off = math.radians(self.degrees) - math.atan2(turned.imag, turned.real)
        return ((off + math.pi) % (2 * math.pi) - math.pi,)

    def slopes(self, at: Mapping[str, Point]) -> list[dict[str, Point]]:
        found = {self.at: (0.0, 0.0)}
        for point, sign in ((self.before, 1), (self.after, -1)):
            way = _way(at[self.at], at[point])
            square = max(abs(way) ** 2, 1e-12)
            east, north = -sign * way.imag / square, sign * way.real / square
            found[point] = east, north
            found[self.at] = found[self.at][0] - east, found[self.at][1] - north
        return [found]


@dataclass(frozen=True)
class BaselineOffset:
    """A place by how far along the line from the first fixed point to the second, and how far to its left, metres."""

    point: str
    along: float
    left: float

    @property
    def points(self) -> tuple[str, ...]:
        return (self.point,)

    @property
    def deviations(self) -> tuple[float, ...]:
        return TAPE_U, TAPE_U

    def misses(self, at: Mapping[str, Point]) -> tuple[float, ...]:
        return self.along - at[self.point][0], self.left - at[self.point][1]

    def slopes(self, _at: Mapping[str, Point]) -> list[dict[str, Point]]:
        return [{self.point: (1.0, 0.0)}, {self.point: (0.0, 1.0)}]


Observation = TapedLength | CornerAngle | BaselineOffset


@dataclass(frozen=True)
class MeasuringSlip:
    """Observations of which one must be wrong, as far as can be told, and by how much: metres, or degrees of an
    angle."""

    observations: tuple[Observation, ...]
    by: float


@dataclass(frozen=True)
class MeasuredIn:
    """Corners by what was measured: their `places` and the standard `uncertainty` of each, metres; `spare`
    observations, by which they `misfit` in standard deviations; slips, the worst first; corners that nothing checks,
    and those there was too little to place."""

    places: dict[str, Point]
    uncertainty: dict[str, float]
    spare: int
    misfit: float
    slips: tuple[MeasuringSlip, ...]
    unchecked: tuple[str, ...]
    unplaced: tuple[str, ...]


@dataclass(frozen=True)
class Walk:
    """Corners in order with what was measured of them."""

    corners: tuple[str, ...]
    observations: tuple[Observation, ...]


def of_steps(steps: Sequence[tuple[str, float]]) -> Walk:
    """A walk in right angles: ways of `WAYS`, each with its length, from the first corner. A walk that ends where it
    began has its last length to spare."""
    sides = [complex(*WAYS[way]) * length for way, length in steps]
    return _walk(sides, [math.degrees(np.angle(-one / other)) % 360 for one, other in _turns(sides)])


def of_sides(sides: Sequence[tuple[float, float | None]]) -> Walk:
    """Sides in order, each with the angle inside at its end, degrees; the first to the east. One that ends where it
    began has its last length to spare."""
    ways, heading = [], 0.0
    for length, inside in sides:
        ways.append(length * complex(math.cos(heading), math.sin(heading)))
        heading += math.pi - math.radians(90.0 if inside is None else inside)
    closes = _closes(ways)
    angles = [90.0 if inside is None else inside for _length, inside in sides]
    said = sides[-1][1] is not None if sides else False
    return _walk(ways, angles[:-1] + ([angles[-1]] if closes and said else []))


def _turns(sides: Sequence[complex]) -> Iterator[tuple[complex, complex]]:
    """Each side with the one after it; of a walk that closes the last with the first too."""
    yield from pairwise(sides)
    if _closes(sides):
        yield sides[-1], sides[0]


def _closes(sides: Sequence[complex]) -> bool:
    return len(sides) > 2 and abs(sum(sides)) <= CLOSES * sum(map(abs, sides))


def _walk(sides: Sequence[complex], angles: Sequence[float]) -> Walk:
    """A walk of `sides`, with the angle at each side's end as far as they are given."""
    count = len(sides) + (not _closes(sides))
    names = tuple(f"X{n + 1}" for n in range(count))
    tapes = [TapedLength(names[n], names[(n + 1) % count], abs(side)) for n, side in enumerate(sides)]
    turned = [
        CornerAngle(names[(n + 1) % count], names[n], names[(n + 2) % count], angle) for n, angle in enumerate(angles)
    ]
    return Walk(names, (*tapes, *turned))


def where_tapes_meet(
    one: Point, from_one: float, other: Point, from_other: float, *, left: bool
) -> tuple[Point, float]:
    """Where two tapes from two places meet, to the left of the line from one to the other or to its right, and by how
    much they fail to: then in the middle of the gap between them."""
    base = _way(one, other)
    apart = abs(base)
    along = (from_one**2 - from_other**2 + apart**2) / (2 * apart)
    gap = max(apart - from_one - from_other, abs(from_one - from_other) - apart, 0.0)
    if gap > 0:
        if apart > from_one + from_other:
            along = from_one + gap / 2
        else:
            along = from_one - gap / 2 if from_one > from_other else apart - from_other + gap / 2
    aside = math.sqrt(max(from_one**2 - along**2, 0.0)) if not gap else 0.0
    found = complex(*one) + base / apart * complex(along, aside if left else -aside)
    return (found.real, found.imag), gap


def measured_in(
    observations: Sequence[Observation],
    fixed: Mapping[str, Point],
    to_the_right: Iterable[str] = (),
) -> MeasuredIn:
    """The places of every point, the `fixed` ones among them. Where fewer than two are fixed, the first point lies at
    0, 0 or where it is fixed, and the second east of it. `to_the_right` are points that lie to the right of the line
    between the two places their tapes come from; others to its left."""
    placing = _Placing(tuple(observations), dict(fixed), frozenset(to_the_right))
    if not placing.names:
        return MeasuredIn({}, {}, 0, 0.0, (), (), placing.unplaced)
    return _Adjustment(placing).answer()


@dataclass
class _Placing:
    """First places, good enough for an adjustment to begin from, one point after another."""

    observations: tuple[Observation, ...]
    at: dict[str, Point]
    right: frozenset[str]
    held: set[str] = field(default_factory=set)
    on_line: str | None = None

    def __post_init__(self) -> None:
        every = dict.fromkeys(point for each in self.observations for point in each.points)
        self.held = set(self.at)
        self.names = [name for name in every if name not in self.held]
        if len(self.at) < 2 and self.names:
            self._begin()
        while found := self._next():
            self.at[found[0]] = found[1]
        self.unplaced = tuple(name for name in self.names if name not in self.at)
        self.names = [name for name in self.names if name in self.at and name not in self.held]

    def _begin(self) -> None:
        """Without two places to go by: along the first length from the first point."""
        first = next((x for x in self.observations if isinstance(x, TapedLength)), None)
        if first is None:
            return
        start, end = (first.end, first.start) if first.end in self.at else (first.start, first.end)
        self.at.setdefault(start, (0.0, 0.0))
        self.held.add(start)
        self.at[end] = (self.at[start][0] + first.length, self.at[start][1])
        self.on_line = end

    def _next(self) -> tuple[str, Point] | None:
        """A point that what is placed already says the place of: by offset, by a side and its angle, by two tapes."""
        waiting = [name for name in self.names if name not in self.at]
        for each in self.observations:
            if isinstance(each, BaselineOffset) and each.point in waiting:
                return each.point, (each.along, each.left)
        for name in waiting:
            tapes = self._tapes(name)
            if len(tapes) > 1:
                return name, self._by_tapes(name, tapes)
            if tapes and (place := self._by_angle(name, tapes[0])):
                return name, place
        return None

    def _tapes(self, name: str) -> list[tuple[str, float]]:
        """The lengths from what is placed to a point."""
        found = []
        for each in self.observations:
            if isinstance(each, TapedLength) and name in each.points:
                other = each.end if each.start == name else each.start
                if other in self.at:
                    found.append((other, each.length))
        return found

    def _by_tapes(self, name: str, tapes: list[tuple[str, float]]) -> Point:
        (one, a), (other, b) = (
            tapes[0],
            max(tapes[1:], key=lambda tape: math.dist(self.at[tape[0]], self.at[tapes[0][0]])),
        )
        sides = [where_tapes_meet(self.at[one], a, self.at[other], b, left=left)[0] for left in (True, False)]
        if name in self.right:
            sides.reverse()
        off = [self._off(name, place, tapes) for place in sides]
        return sides[1] if off[1] < off[0] - 0.05 else sides[0]

    def _off(self, name: str, place: Point, tapes: list[tuple[str, float]]) -> float:
        """By how much a place disagrees with the tapes to it and the angles at it."""
        at = self.at | {name: place}
        off = sum(abs(math.dist(place, at[other]) - length) for other, length in tapes)
        for each in self.observations:
            if isinstance(each, CornerAngle) and name in each.points and all(point in at for point in each.points):
                off += abs(each.misses(at)[0])
        return off

    def _by_angle(self, name: str, tape: tuple[str, float]) -> Point | None:
        """At the end of a side whose angle to another side is known."""
        corner, length = tape
        for each in self.observations:
            if not isinstance(each, CornerAngle) or each.at != corner or name not in (each.before, each.after):
                continue
            other = each.after if name == each.before else each.before
            if other not in self.at or other == name:
                continue
            way = _way(self.at[corner], self.at[other])
            turn = math.radians(each.degrees) * (1 if name == each.before else -1)
            place = complex(*self.at[corner]) + way / abs(way) * complex(math.cos(turn), math.sin(turn)) * length
            return place.real, place.imag
        return None


class _Adjustment:
    """Gauss and Newton on the places from where they were first put."""

    def __init__(self, placing: _Placing) -> None:
        self.placing = placing
        self.observations = [x for x in placing.observations if all(point in placing.at for point in x.points)]
        self.columns: dict[str, tuple[int | None, int | None]] = {}
        count = 0
        for name in placing.names:
            if name == placing.on_line:
                self.columns[name] = count, None
                count += 1
            else:
                self.columns[name] = count, count + 1
                count += 2
        self.count = count
        self.deviations = np.array([u for each in self.observations for u in each.deviations])

    def _rows(self, at: Mapping[str, Point]) -> NDArray[np.float64]:
        """How each observation changes with each unknown, over its deviation."""
        rows = np.zeros((len(self.deviations), self.count))
        row = 0
        for each in self.observations:
            for slopes in each.slopes(at):
                for point, by in slopes.items():
                    for column, share in zip(self.columns.get(point, (None, None)), by, strict=True):
                        if column is not None:
                            rows[row, column] += share
                row += 1
        return np.asarray(rows / self.deviations[:, None])

    def _misses(self, at: Mapping[str, Point]) -> NDArray[np.float64]:
        misses = np.array([miss for each in self.observations for miss in each.misses(at)])
        return np.asarray(misses / self.deviations)

    def _moved(self, at: dict[str, Point], step: NDArray[np.float64]) -> dict[str, Point]:
        moved = dict(at)
        for name, (east, north) in self.columns.items():
            x, y = at[name]
            by = [0.0 if each is None else float(step[each]) for each in (east, north)]
            moved[name] = x + by[0], y + by[1]
        return moved

    @cached_property
    def places(self) -> dict[str, Point]:
        """Where the squares of the misses are least; a step that makes them more is halved."""
        at = self.placing.at
        misses = self._misses(at)
        least = float(misses @ misses)
        for _turn in range(100):
            step: NDArray[np.float64] = np.asarray(np.linalg.lstsq(self._rows(at), misses, rcond=None)[0])
            for _half in range(30):
                tried = self._moved(at, step)
                off = self._misses(tried)
                if float(off @ off) <= least * (1 + 1e-12) + 1e-12:
                    break
                step = step / 2
            at, misses, least = tried, off, float(off @ off)
            if np.abs(step).max(initial=0.0) < 1e-10:
                break
        return at

    def answer(self) -> MeasuredIn:
        at, placing = self.places, self.placing
        rows, misses = self._rows(at), self._misses(at)
        inverse = np.linalg.pinv(rows)
        free = np.clip(1 - np.einsum("ij,ji->i", rows, inverse), 0.0, 1.0)
        covariance = inverse @ inverse.T
        spare = round(float(free.sum()))
        uncertainty = {
            name: math.sqrt(sum(covariance[n, n] for n in columns if n is not None))
            for name, columns in self.columns.items()
        }
        touched: dict[str, float] = dict.fromkeys(placing.names, 0.0)
        for each, share in zip(self._by_row(), free, strict=True):
            for point in each.points:
                if point in touched:
                    touched[point] = max(touched[point], float(share))
        return MeasuredIn(
            at,
            uncertainty,
            spare,
            math.sqrt(float(misses @ misses) / spare) if spare else 0.0,
            tuple(self._slips(misses, free)),
            tuple(name for name, share in touched.items() if share < CHECKED),
            placing.unplaced,
        )

    def _by_row(self) -> list[Observation]:
        return [each for each in self.observations for _u in each.deviations]

    def _slips(self, misses: NDArray[np.float64], free: NDArray[np.float64]) -> Iterator[MeasuringSlip]:
        standard = np.where(free > CHECKED / 10, np.abs(misses) / np.sqrt(np.maximum(free, 1e-9)), 0.0)
        if not len(standard) or standard.max() <= SURE:
            return
        worst = int(standard.argmax())
        own = self._by_row()
        alike = dict.fromkeys(own[n] for n in np.flatnonzero(standard >= ALIKE * standard.max()))
        by = float(misses[worst] / free[worst] * self.deviations[worst])
        yield MeasuringSlip(tuple(alike), math.degrees(by) if isinstance(own[worst], CornerAngle) else by)


def _way(start: Point, end: Point) -> complex:
    return complex(end[0] - start[0], end[1] - start[1])
