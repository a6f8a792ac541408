"""Runs of the level: set-ups that hang on marks and on one another, their closing sights and adjustment.

A set-up looks back on a mark or on a turning point another set-up looked forward to. A closing sight on a mark
shows the misclosure; inside the limit it is spread by least squares with every sight of equal weight, which in a
single run is in proportion to set-ups. It vouches for what was read before it, never for what comes after. Beyond the
limit everything since the last sight that closed is in doubt, until a later one closes: one sight that missed between
two that close was misread; several that missed alike were read from a level that had moved.
"""

import math
from bisect import bisect_left
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

import numpy as np

from groundwork.entries import Foresight, SetUp
from groundwork.levels import levelling
from groundwork.surfaces import Point


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
    """A sight on a point of known level: what it misses by over how many set-ups since the run's first mark, or where
    it is on a turning point, since that was fixed. `links` are the set-ups it says something of, each with the entry
    up to which it does."""

    sight: Foresight
    misclosure: float
    chain: tuple[SetUp, ...]
    links: tuple[tuple[str, str], ...] = ()

    @property
    def allowed(self) -> float:
        return levelling.allowed_misclosure(len(self.chain))

    @property
    def closes(self) -> bool:
        return abs(self.misclosure) <= self.allowed + 1e-9


@dataclass(frozen=True)
class Height:
    """The height of a line of sight and its standard uncertainty, metres; `parts` is what each sight adds to that, by
    the entry it was made with, so that heights which hang on the same sights are known to err together."""

    level: float
    uncertainty: float
    parts: tuple[tuple[str, float], ...] = ()


Solution = tuple[dict[str, Height], dict[str, float]]
"""The heights of the lines of sight of a run by set-up, and the levels of its turning points, metres."""


class Runs:
    """Every set-up and sight of a job that counts, `set_ups` and `sights` in the order they were made.

    `knocked` names points that were disturbed, with the set-ups on them that still hold (those before); a sight
    on such a point counts where its set-up does not come after. `reach` gives the length of a sight from a set-up
    to a place, `farthest` where that is not known. `order` is when each entry was made; set-ups come before sights
    where it is not given, and what is not in it after all that is. `solved` are runs that were adjusted before.
    """

    def __init__(
        self,
        marks: Mapping[str, Known],
        set_ups: Iterable[SetUp],
        sights: Iterable[Foresight],
        holds: Callable[[str, str], bool] = lambda _point, _entry: True,
        farthest: float = 50.0,
        order: Mapping[str, int] | None = None,
        solved: "Mapping[tuple[SetUp | Foresight, ...], Solution] | None" = None,
    ) -> None:
        self.marks = marks
        self.set_ups = {s.id: s for s in set_ups}
        self.sights = tuple(sights)
        self._order = order or {key: n for n, key in enumerate((*self.set_ups, *(s.id for s in self.sights)))}
        self._holds = holds
        self._farthest = farthest
        self._solved = solved or {}
        self._doubts: dict[tuple[str, int], Closing | None] = {}

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
            if start is not None:
                heights[set_up.id] = start + self.read(set_up, set_up.backsight.metres, self.at(set_up.mark))
        return heights

    def _start(self, set_up: SetUp, heights: Mapping[str, float]) -> float | None:
        """The level of the point a set-up looks back on, as read."""
        if not self._holds(set_up.mark, set_up.id):
            return None
        if set_up.mark in self.marks:
            return self.marks[set_up.mark].level
        sight = self.turning_points.get(set_up.mark)
        if sight is None or sight.set_up not in heights:
            return None
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

    def made(self, entry: str) -> float:
        """When an entry was made among the others; what is not recorded yet comes last."""
        return self._order.get(entry, math.inf)

    def _links(self, set_up: str, entry: str) -> tuple[tuple[str, str], ...]:
        """The set-ups up to this one, each with the entry through which what follows hangs on it; last `entry`."""
        chain = self.chain(set_up)
        onward = [self.turning_points[s.mark].id for s in chain[1:]]
        return tuple(zip((s.id for s in chain), (*onward, entry), strict=True))

    @cached_property
    def closings(self) -> tuple[Closing, ...]:
        """Every sight on a mark that holds, in the order they were made."""
        return tuple(
            Closing(
                s,
                self._seen(s, self.marks[s.point].at) - self.marks[s.point].level,
                self.chain(s.set_up),
                self._links(s.set_up, s.id),
            )
            for s in self.sights
            if s.point in self.marks and s.set_up in self.as_read and self._holds(s.point, s.id)
        )

    @cached_property
    def second_looks(self) -> tuple[Closing, ...]:
        """Every further sight on a turning point that is fixed, in the order they were made: one that misses shows
        that something moved since, one that does not says nothing of the mark the run hangs on."""
        found = []
        for sight in self.sights:
            fixed = self.turning_points.get(sight.point)
            if fixed is None or fixed is sight or not {sight.set_up, fixed.set_up} <= self.as_read.keys():
                continue
            if not self._holds(sight.point, sight.id):
                continue
            one, other = self._links(fixed.set_up, fixed.id), self._links(sight.set_up, sight.id)
            loop = tuple(link for link in (*one, *other) if (link in one) != (link in other))
            met = dict.fromkeys(key for key, _entry in loop)
            misses = self._seen(sight, fixed.at) - self._seen(fixed, fixed.at)
            found.append(Closing(sight, misses, tuple(self.set_ups[key] for key in met), loop))
        return tuple(found)

    def _seen(self, sight: Foresight, at: Point | None) -> float:
        """The level a sight finds, as read."""
        return self.as_read[sight.set_up] - self.read(self.set_ups[sight.set_up], sight.reading.metres, at)

    @cached_property
    def _said(self) -> dict[str, tuple[tuple[float, Closing], ...]]:
        """What was said of each set-up by sights that closed or did not, by when it was true of it."""
        found: dict[str, list[tuple[float, Closing]]] = {key: [] for key in self.set_ups}
        for closing in (*self.closings, *(look for look in self.second_looks if not look.closes)):
            for set_up, entry in closing.links:
                found[set_up].append((self.made(entry), closing))
        return {key: tuple(sorted(said, key=lambda each: each[0])) for key, said in found.items()}

    def closed_after(self, set_up: str, entry: str) -> bool:
        """Whether a sight that closes vouches for what was read from a set-up by an entry."""
        return any(at >= self.made(entry) and closing.closes for at, closing in self._said.get(set_up, ()))

    def doubt(self, set_up: str, entry: str) -> Closing | None:
        """The sight that puts what was read from a set-up by an entry in doubt: it missed after the last sight that
        closed before the entry, and none closed after it, or it and another missed by the same."""
        if not (said := self._said.get(set_up)):
            return None
        when = self.made(entry)
        turn = set_up, bisect_left(said, when, key=lambda each: each[0])
        if turn not in self._doubts:
            self._doubts[turn] = self._doubt(set_up, when, said)
        return self._doubts[turn]

    def _doubt(self, set_up: str, when: float, said: tuple[tuple[float, Closing], ...]) -> Closing | None:
        before = max((at for at, c in said if c.closes and at < when), default=-math.inf)
        after = min((at for at, c in said if c.closes and at >= when), default=math.inf)
        missed = [c for at, c in said if not c.closes and before < at < after]
        if after < math.inf:
            missed = _alike([c for c in missed if c.sight.set_up == set_up])
        return missed[0] if missed else None

    def why_lost(self, set_up: str, entry: str) -> Lost | None:
        """Why what was read from a set-up by an entry is not known; None where it is."""
        if self.doubt(set_up, entry):
            return Lost.MISCLOSED
        start = self._starts.get(set_up)
        return start if isinstance(start, Lost) else None

    def standing(self, set_up: str) -> tuple[Lost | None, tuple[tuple[float, Closing], ...]]:
        """All that tells what was read from a set-up apart from its height: why its start is lost, and what sights
        have said of it, by when."""
        return self._starts.get(set_up), self._said.get(set_up, ())

    @cached_property
    def _starts(self) -> dict[str, Lost | None]:
        """Whether the point each set-up looks back on is known: why not, or None."""
        found: dict[str, Lost | None] = {}
        for key, set_up in self.set_ups.items():
            sight = None if set_up.mark in self.marks else self.turning_points.get(set_up.mark)
            if not self._holds(set_up.mark, key):
                found[key] = Lost.DISTURBED
            elif set_up.mark in self.marks:
                found[key] = None
            elif sight is None or sight.set_up not in self.as_read or key not in self.as_read:
                found[key] = Lost.HANGING
            else:
                hangs = self.doubt(sight.set_up, sight.id) or found.get(sight.set_up, Lost.HANGING)
                found[key] = Lost.HANGING if hangs else None
        return found

    @cached_property
    def lost(self) -> dict[str, Lost]:
        """Set-ups from which nothing read now would be known, and why."""
        return {key: why for key in self.set_ups if (why := self.why_lost(key, ""))}

    @cached_property
    def cured(self) -> tuple[Closing, ...]:
        """Sights on marks that missed, and were followed by one that closed: taken as misread."""
        return tuple(
            c for c in self.closings
            if not c.closes and self.closed_after(c.sight.set_up, c.sight.id)
            and not self.doubt(c.sight.set_up, c.sight.id)
        )  # fmt: skip

    @cached_property
    def heights(self) -> dict[str, Height]:
        """Adjusted heights of the lines of sight, of the set-ups that stand or stood for a while."""
        return {
            key: height
            for key, height in self._adjusted[0].items()
            if self._starts[key] is None and (key not in self.lost or any(c.closes for _at, c in self._said[key]))
        }

    def level_of(self, point: str) -> float | None:
        """The level of a mark, or of a turning point as adjusted; None where it is not known."""
        if point in self.marks:
            return self.marks[point].level
        sight = self.turning_points.get(point)
        known = sight is not None and self.why_lost(sight.set_up, sight.id) is None
        return self._adjusted[1].get(point) if known else None

    @cached_property
    def adjusted(self) -> dict[tuple[SetUp | Foresight, ...], "Solution"]:
        """The runs, each adjusted by itself: what hangs together by turning points, by all that it hangs on."""
        stand = [s for s in self.set_ups.values() if s.id in self.as_read]
        fixed = [s for s in self.turning_points.values() if s.set_up in self.as_read]
        closing = [c.sight for c in self.closings if c.closes]
        run = {s.id: s.id for s in stand}

        def first(set_up: str) -> str:
            while run[set_up] != set_up:
                set_up = run[set_up]
            return set_up

        for s in stand:
            if s.mark not in self.marks:
                run[first(s.id)] = first(self.turning_points[s.mark].set_up)
        found: dict[str, list[SetUp | Foresight]] = {}
        for s in stand:
            found.setdefault(first(s.id), []).append(s)
        for sight in (*fixed, *closing):
            found[first(sight.set_up)].append(sight)
        each = (tuple(entries) for entries in found.values())
        return {entries: self._solved.get(entries) or self._adjust(entries) for entries in each}

    @cached_property
    def _adjusted(self) -> "Solution":
        heights, levels = dict[str, Height](), dict[str, float]()
        for solution in self.adjusted.values():
            heights |= solution[0]
            levels |= solution[1]
        return {key: heights[key] for key in self.set_ups if key in heights}, levels

    def _adjust(self, hangs: tuple[SetUp | Foresight, ...]) -> "Solution":
        """Least squares over every backsight, every sight on a turning point and every closing sight that closes;
        each set-up's height and each turning point's level are unknowns. Unlike sights still count alike; what
        each is worth enters the uncertainty only."""
        stand = [s for s in hangs if isinstance(s, SetUp)]
        fixed = {s.point: s for s in hangs if isinstance(s, Foresight) and s.point not in self.marks}
        unknown = {name: n for n, name in enumerate([*(("hi", s.id) for s in stand), *(("tp", p) for p in fixed)])}
        closing = [s for s in hangs if isinstance(s, Foresight) and s.point in self.marks]
        entries = [*(s.id for s in stand), *(s.id for s in fixed.values()), *(s.id for s in closing)]
        observed = [(s.id, s.mark, s.backsight.metres, self.at(s.mark)) for s in stand]
        observed += [(s.set_up, s.point, s.reading.metres, s.at) for s in fixed.values()]
        observed += [(s.set_up, s.point, s.reading.metres, self.marks[s.point].at) for s in closing]
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
        found, parts = solve @ np.array(values), solve * np.array(us)
        heights = {
            name: Height(
                float(found[n]), float(np.hypot.reduce(parts[n])), tuple(zip(entries, parts[n].tolist(), strict=True))
            )
            for (kind, name), n in unknown.items()
            if kind == "hi"
        }
        return heights, {name: float(found[n]) for (kind, name), n in unknown.items() if kind == "tp"}

    def open_runs(self, used: Iterable[tuple[str, str]]) -> tuple[tuple[SetUp, ...], ...]:
        """The runs, each from its mark to its last set-up, of which something `used`, a set-up and the newest entry
        read from it, stands and no sight that closes has been made since: after the last that closes, what missed
        since puts all in doubt alike."""
        open_ = {
            set_up
            for set_up, entry in used
            if set_up in self.set_ups and not self.why_lost(set_up, entry) and not self.closed_after(set_up, entry)
        }
        further = {self.turning_points[s.mark].set_up for s in self.set_ups.values() if s.mark in self.turning_points}
        runs = [self.chain(key) for key in self.set_ups if key not in further]
        return tuple(run for run in runs if open_ & {s.id for s in run})


def _alike(missed: list[Closing]) -> list[Closing]:
    """Those that missed by the same as another did."""
    return [
        one
        for one in missed
        if any(abs(one.misclosure - other.misclosure) <= one.allowed for other in missed if other is not one)
    ]
