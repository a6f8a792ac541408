"""Corners from what was measured of them. What is over-determined is adjusted by least squares, and a slip is named
by the observation that misses the others by more than it can (Baarda's test; any text on adjustment)."""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from groundwork.shape.measuring import (
    BaselineOffset,
    CornerAngle,
    Observation,
    TapedLength,
    WalkedStep,
    way_to,
    where_tapes_meet,
)
from groundwork.surfaces import Point

SURE = 3.29
"""Standard deviations beyond which an observation is a slip: one in a thousand is not (Baarda 1968, from memory)."""
ALIKE = 0.95
"""Observations that miss by at least this share of the worst cannot be told from it."""
TURNS = 60
"""An adjustment has settled long before; what has not is full of slips, and is told by them."""
CHECKED = 0.1
"""An observation of less redundancy than this is as good as unchecked."""


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
        """A point that what is placed says the place of: by offset or step, by a side and its angle, by tapes."""
        waiting = [name for name in self.names if name not in self.at]
        for each in self.observations:
            if isinstance(each, BaselineOffset) and each.point in waiting:
                return each.point, (each.along, each.left)
            if isinstance(each, WalkedStep) and each.end in waiting and each.start in self.at:
                east, north = self.at[each.start]
                return each.end, (east + each.along, north + each.left)
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
            way = way_to(self.at[corner], self.at[other])
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
        for turn in range(TURNS):
            step: NDArray[np.float64] = np.asarray(np.linalg.lstsq(self._rows(at), misses, rcond=None)[0])
            for _half in range(30):
                tried = self._moved(at, step)
                off = self._misses(tried)
                if float(off @ off) <= least * (1 + 1e-12) + 1e-12:
                    break
                step = step / 2
            gained, at, misses, least = least - float(off @ off), tried, off, float(off @ off)
            if np.abs(step).max(initial=0.0) < 1e-10 or (turn > 2 and gained <= 1e-12 * least):
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
