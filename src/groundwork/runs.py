"""Runs of the level: set-ups that hang on marks and on one another, their closing sights and adjustment.

A set-up looks back on a mark or on a turning point another set-up looked forward to. A closing sight on a mark
shows the misclosure; inside the limit it is spread by least squares with every sight of equal weight, which in a
single run is in proportion to set-ups. Beyond it the run stops: nothing read from it is known.
"""

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

import numpy as np

from groundwork import levelling
from groundwork.entries import Foresight, SetUp
from groundwork.surface import Point


class Lost(StrEnum):
    """Why nothing is known of what hangs on a set-up."""

    STRUCK = "set-up struck out"
    DISTURBED = "mark disturbed"
    HANGING = "turning point lost"
    MISCLOSED = "run does not close"


@dataclass(frozen=True)
class Known:
    """A point of known level at a place."""

    at: Point
    level: float


@dataclass(frozen=True)
class Closing:
    """A sight on a mark of known level: what it misses by over how many set-ups since the run's first mark."""

    sight: Foresight
    misclosure: float
    chain: tuple[SetUp, ...]

    @property
    def allowed(self) -> float:
        return levelling.allowed_misclosure(len(self.chain))

    @property
    def closes(self) -> bool:
        return abs(self.misclosure) <= self.allowed + 1e-9


@dataclass(frozen=True)
class Height:
    """The height of a line of sight and its standard uncertainty, metres."""

    level: float
    uncertainty: float


class Runs:
    """Every set-up and sight of a job that counts, `set_ups` and `sights` in the order they were made.

    `knocked` names points that were disturbed, with the set-ups on them that still hold (those before); a sight
    on such a point counts where its set-up does not come after. `reach` gives the length of a sight from a set-up
    to a place, `farthest` where that is not known.
    """

    def __init__(
        self,
        marks: Mapping[str, Known],
        set_ups: Iterable[SetUp],
        sights: Iterable[Foresight],
        holds: Callable[[str, str], bool] = lambda _point, _entry: True,
        farthest: float = 50.0,
    ) -> None:
        self.marks = marks
        self.set_ups = {s.id: s for s in set_ups}
        self.sights = tuple(sights)
        self._holds = holds
        self._farthest = farthest

    @cached_property
    def turning_points(self) -> dict[str, Foresight]:
        """The sight each turning point was fixed by: the first that counts."""
        found: dict[str, Foresight] = {}
        for sight in self.sights:
            if sight.point not in self.marks and sight.set_up in self.set_ups:
                found.setdefault(sight.point, sight)
        return found

    @cached_property
    def as_read(self) -> dict[str, float]:
        """Heights of the lines of sight as read, before any adjustment, of the set-ups whose start is known."""
        heights: dict[str, float] = {}
        for set_up in self.set_ups.values():
            start = self._start(set_up, heights)
            if isinstance(start, float):
                heights[set_up.id] = start + self.read(set_up, set_up.backsight.metres, self.at(set_up.mark))
        return heights

    def _start(self, set_up: SetUp, heights: Mapping[str, float]) -> float | Lost:
        if not self._holds(set_up.mark, set_up.id):
            return Lost.DISTURBED
        if set_up.mark in self.marks:
            return self.marks[set_up.mark].level
        sight = self.turning_points.get(set_up.mark)
        if sight is None or sight.set_up not in heights:
            return Lost.HANGING
        return heights[sight.set_up] - self.read(self.set_ups[sight.set_up], sight.reading.metres, sight.at)

    def at(self, point: str) -> Point | None:
        if point in self.marks:
            return self.marks[point].at
        sight = self.turning_points.get(point)
        return sight.at if sight else None

    def _length(self, set_up: SetUp, to: Point | None) -> float:
        return self._farthest if set_up.at is None or to is None else math.dist(set_up.at, to)

    def read(self, set_up: SetUp, reading: float, to: Point | None) -> float:
        """A reading freed of collimation, where the length of its sight is known."""
        if set_up.at is None or to is None:
            return reading
        return levelling.corrected(reading, set_up.instrument.collimation, math.dist(set_up.at, to))

    def _uncertainty(self, set_up: SetUp, to: Point | None) -> float:
        instrument, length = set_up.instrument, self._length(set_up, to)
        tilt = abs(instrument.collimation) * length if set_up.at is None or to is None else 0.0
        return math.hypot(instrument.reading_u, instrument.rate * length, tilt)

    def chain(self, set_up: str) -> tuple[SetUp, ...]:
        """The set-ups from the run's first mark up to this one."""
        found: list[SetUp] = []
        here: SetUp | None = self.set_ups.get(set_up)
        while here and here not in found:
            found.append(here)
            sight = None if here.mark in self.marks else self.turning_points.get(here.mark)
            here = self.set_ups.get(sight.set_up) if sight else None
        return tuple(reversed(found))

    @cached_property
    def closings(self) -> tuple[Closing, ...]:
        """Every sight on a mark that holds, in the order they were made."""
        return tuple(
            Closing(
                s,
                self.as_read[s.set_up]
                - self.read(self.set_ups[s.set_up], s.reading.metres, self.marks[s.point].at)
                - self.marks[s.point].level,
                self.chain(s.set_up),
            )
            for s in self.sights
            if s.point in self.marks and s.set_up in self.as_read and self._holds(s.point, s.id)
        )

    @cached_property
    def proven(self) -> frozenset[str]:
        """Set-ups on the way to a closing sight that closes."""
        return frozenset(s.id for c in self.closings if c.closes for s in c.chain)

    @cached_property
    def lost(self) -> dict[str, Lost]:
        """Set-ups of which nothing is known, and why."""
        bad = {s.id for c in self.closings if not c.closes for s in c.chain} - self.proven
        found: dict[str, Lost] = {}
        for set_up in self.set_ups.values():
            start = self._start(set_up, {key: h for key, h in self.as_read.items() if key not in found})
            if set_up.id in bad:
                found[set_up.id] = Lost.MISCLOSED
            elif isinstance(start, Lost):
                found[set_up.id] = start
        return found

    @cached_property
    def heights(self) -> dict[str, Height]:
        """Adjusted heights of the lines of sight, of the set-ups that stand."""
        return {key: height for key, height in self._adjusted[0].items() if key not in self.lost}

    def level_of(self, point: str) -> float | None:
        """The level of a mark, or of a turning point as adjusted; None where it is not known."""
        if point in self.marks:
            return self.marks[point].level
        sight = self.turning_points.get(point)
        return self._adjusted[1].get(point) if sight and sight.set_up not in self.lost else None

    @cached_property
    def _adjusted(self) -> tuple[dict[str, Height], dict[str, float]]:
        """Least squares over every backsight, every sight on a turning point and every closing sight that closes;
        each set-up's height and each turning point's level are unknowns. Unlike sights still count alike; what
        each is worth enters the uncertainty only."""
        stand = [s for s in self.set_ups.values() if s.id in self.as_read]
        fixed = {p: s for p, s in self.turning_points.items() if s.set_up in self.as_read}
        unknown = {name: n for n, name in enumerate([*(("hi", s.id) for s in stand), *(("tp", p) for p in fixed)])}
        closing = [c.sight for c in self.closings if c.closes]
        observed = [(s.id, s.mark, s.backsight.metres, self.at(s.mark)) for s in stand]
        observed += [(s.set_up, s.point, s.reading.metres, s.at) for s in fixed.values()]
        observed += [(s.set_up, s.point, s.reading.metres, self.marks[s.point].at) for s in closing]
        if not observed:
            return {}, {}
        design, values, us = np.zeros((len(observed), len(unknown))), [], []
        for row, (set_up, point, reading, at) in enumerate(observed):
            design[row, unknown["hi", set_up]] = 1
            value = self.read(self.set_ups[set_up], reading, at)
            if point in self.marks:
                value += self.marks[point].level
            else:
                design[row, unknown["tp", point]] = -1
            values.append(value)
            us.append(self._uncertainty(self.set_ups[set_up], at))
        solve = np.linalg.pinv(design)
        found, spread = solve @ np.array(values), np.sqrt((solve * np.array(us)) ** 2 @ np.ones(len(us)))
        heights = {
            name: Height(float(found[n]), float(spread[n])) for (kind, name), n in unknown.items() if kind == "hi"
        }
        return heights, {name: float(found[n]) for (kind, name), n in unknown.items() if kind == "tp"}

    @cached_property
    def open_ends(self) -> tuple[tuple[SetUp, ...], ...]:
        """Runs that have not been closed: each from its mark to its last set-up, of those that stand."""
        further = {self.turning_points[s.mark].set_up for s in self.set_ups.values() if s.mark in self.turning_points}
        return tuple(
            self.chain(s) for s in self.set_ups if s not in self.lost and s not in self.proven and s not in further
        )
