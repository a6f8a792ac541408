"""The set-out: whether the pegs stand where the plan has them, by the sides and diagonals taped between them, how
each must move, what strings between them read, and curves by offsets.

Pegs P1, P2 … stand on the outline's corners. Their places come from the taped lengths by least squares (free of the
plan's own place and bearing), and are laid on the plan along one side that stays.
"""

import math
from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import combinations

import numpy as np
import shapely
from numpy.typing import NDArray

from groundwork.entries import MarginMeasured, PegDistance
from groundwork.job import Job
from groundwork.levels import Reference, StretchedString, sag
from groundwork.measures import Finding, Severity, Source, Unit, Words, inside
from groundwork.shape import TAPE_RATE, TAPE_U
from groundwork.surfaces import Point
from groundwork.tools import STRING_TENSION, STRING_WEIGHT

PEG_LIMIT = 0.010
"""How far a peg may stand from its place (common practice, no published source)."""
DISAGREEMENT = 3.0
"""Standard deviations by which lengths may miss one another before one must be wrong."""


class Impossible(ValueError):
    """Lengths that no triangle has."""


def angle(side_a: float, side_b: float, across: float) -> float:
    """The angle in degrees between two sides, from the length across their ends: cos C = (a² + b² − c²) / 2ab.
    Raises `Impossible` where no triangle has these sides."""
    if min(side_a, side_b, across) <= 0:
        raise Impossible("each length is more than nothing")
    longest, rest = max(side_a, side_b, across), side_a + side_b + across
    if 2 * longest > rest + 1e-12:
        raise Impossible("one of them is longer than the other two together: no triangle has these sides")
    cosine = (side_a**2 + side_b**2 - across**2) / (2 * side_a * side_b)
    return math.degrees(math.acos(min(1.0, max(-1.0, cosine))))


def square_across(side_a: float, side_b: float) -> float:
    """What the length across two sides is where their corner is square."""
    return math.hypot(side_a, side_b)


def off_line(corner: float, length: float) -> float:
    """How far a side of that length ends out of line where its corner should be square; outward positive."""
    return length * math.sin(math.radians(corner - 90))


def square_triangle(longest_a: float, longest_b: float, step: float) -> tuple[float, float, float]:
    """The largest 3-4-5 triangle that fits along two sides, its unit a whole number of `step`; the longer leg lies
    along the longer side."""
    short, long = sorted((longest_a, longest_b))
    unit = max(1, math.floor(min(short / 3, long / 4) / step + 1e-9)) * step
    three, four, five = 3 * unit, 4 * unit, 5 * unit
    return (four, three, five) if longest_a >= longest_b else (three, four, five)


def radius_of(chord: float, rise: float) -> float:
    """The radius of a curve that rises by `rise` in the middle of a chord."""
    return (chord**2 / 4 + rise**2) / (2 * rise)


def chord_offsets(radius: float, chord: float, step: float) -> list[tuple[float, float]]:
    """Offsets square from a chord to a curve, each with its distance from the chord's start: every `step`, the
    middle and the end (any surveying text). Raises `ValueError` where the chord does not fit the radius."""
    if not 0 < chord <= 2 * radius or step <= 0:
        raise ValueError("the chord is longer than twice the radius")
    if chord / step > 400:
        raise ValueError("more than 400 offsets: take a longer step")
    rest = math.sqrt(radius**2 - chord**2 / 4)
    along = sorted({round(n * step, 6) for n in range(int(chord / step + 1e-9) + 1)} | {chord / 2, chord})
    return [(x, math.sqrt(max(radius**2 - (chord / 2 - x) ** 2, 0)) - rest) for x in along]


@dataclass(frozen=True)
class PegAnswer:
    """One peg: its place on the plan and as taped, and how to move it, seen from outside the area looking along the
    side that comes to it: `away` from the peg before, `outward` from the area; metres. `uncertainty` is the
    standard uncertainty of the move."""

    name: str
    place: Point
    stands: Point
    away: float
    outward: float
    uncertainty: float
    before: str

    @property
    def move(self) -> float:
        return math.dist(self.place, self.stands)

    @property
    def in_place(self) -> bool:
        return self.move <= PEG_LIMIT

    @property
    def action(self) -> Words:
        """What to do, to call out."""
        if self.in_place:
            return Words("stands right")
        parts = []
        if abs(self.away) >= 0.0005:
            parts.append("{away} away from {before}" if self.away > 0 else "{away} towards {before}")
        if abs(self.outward) >= 0.0005:
            parts.append("{out} out" if self.outward > 0 else "{out} in")
        return Words(
            "move " + ", ".join(parts), {"away": self.away, "out": self.outward}, names={"before": self.before}
        )


@dataclass(frozen=True)
class TapingConflict:
    """Lengths that cannot all be right: which ones, and by how much they miss."""

    lengths: tuple[tuple[str, str], ...]
    miss: float


class SetOut:
    """The pegs of a job by what was taped between them; `held` is the corner, 0 for P1, whose side to the next
    stays where it is."""

    def __init__(self, outline: Sequence[Point], lengths: Sequence[PegDistance], held: int = 0) -> None:
        self.outline = tuple(outline)
        self.names = tuple(f"P{n}" for n in range(1, len(self.outline) + 1))
        self.held = held % len(self.outline)
        known = {frozenset((one, other)) for one, other in combinations(self.names, 2)}
        self.lengths = [x for x in lengths if frozenset((x.start, x.end)) in known]

    @cached_property
    def _plan(self) -> NDArray[np.float64]:
        return np.array(self.outline, dtype=float)

    @cached_property
    def _pairs(self) -> list[tuple[int, int]]:
        return [(self.names.index(x.start), self.names.index(x.end)) for x in self.lengths]

    def planned(self, start: str, end: str) -> float:
        """What the plan has between two pegs."""
        return math.dist(self.outline[self.names.index(start)], self.outline[self.names.index(end)])

    @cached_property
    def _least_wanted(self) -> list[tuple[str, str]]:
        """Every side, and the diagonals that hold the shape best with one to spare."""
        n = len(self.names)
        sides = [(k, (k + 1) % n) for k in range(n if n > 2 else 1)]
        return [(self.names[i], self.names[j]) for i, j in (*sides, *_diagonals(self.outline))]

    @cached_property
    def still_to_tape(self) -> list[tuple[str, str]]:
        """Sides and diagonals not taped yet, or only before a peg was moved."""
        taped = {frozenset((x.start, x.end)) for x in self.lengths}
        return [pair for pair in self._least_wanted if frozenset(pair) not in taped]

    def _jacobian(self, places: NDArray[np.float64]) -> NDArray[np.float64]:
        return _slopes(places, self._pairs)

    @cached_property
    def holds_shape(self) -> bool:
        """Whether the lengths fix the pegs among themselves."""
        freedom = 2 * len(self.names) - 3
        return bool(
            len(self._pairs) >= freedom and np.linalg.matrix_rank(self._jacobian(self._plan), tol=1e-6) >= freedom
        )

    @cached_property
    def _sigmas(self) -> NDArray[np.float64]:
        return np.array([math.hypot(TAPE_U, TAPE_RATE * x.length.metres) for x in self.lengths])

    @cached_property
    def _taped(self) -> NDArray[np.float64]:
        return np.array([x.length.metres for x in self.lengths])

    @cached_property
    def _solved(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Places, (pegs, 2) metres, by Gauss and Newton from the plan’s, and residuals over their deviations.
        What has not settled to a nanometre in 60 turns stays where it is: its residuals are large then, and what
        `conflicts` goes by."""
        places = self._plan.copy()
        for _turn in range(60):
            weighted = self._jacobian(places) / self._sigmas[:, None]
            step = np.linalg.pinv(weighted, rcond=1e-9) @ ((self._taped - self._between(places)) / self._sigmas)
            places = places + (step if np.abs(step).max() < 1 else step / np.abs(step).max()).reshape(-1, 2)
            if np.abs(step).max() < 1e-9:
                break
        return places, (self._taped - self._between(places)) / self._sigmas

    def _between(self, places: NDArray[np.float64]) -> NDArray[np.float64]:
        return np.array([float(np.hypot(*(places[j] - places[i]))) for i, j in self._pairs])

    @cached_property
    def conflicts(self) -> tuple[TapingConflict, ...]:
        """Lengths no figure can have together: triangles that do not close, or more lengths than agree."""
        taped = {frozenset(pair): x for pair, x in zip(self._pairs, self._taped, strict=True)}
        found = []
        for corners in combinations(range(len(self.names)), 3):
            sides = [pair for pair in combinations(corners, 2) if frozenset(pair) in taped]
            lengths = sorted(taped[frozenset(pair)] for pair in sides)
            if len(sides) == 3 and (over := lengths[2] - lengths[0] - lengths[1]) > DISAGREEMENT * TAPE_U:
                names = tuple((self.names[i], self.names[j]) for i, j in sides)
                found.append(TapingConflict(names, float(over)))
        if found or not self.holds_shape:
            return tuple(found)
        _places, residuals = self._solved
        spare = len(self._pairs) - (2 * len(self.names) - 3)
        if spare and math.sqrt(float(residuals @ residuals) / spare) > DISAGREEMENT:
            return (self._worst(residuals),)
        return ()

    def _worst(self, residuals: NDArray[np.float64]) -> TapingConflict:
        """The length that misses the others by most, with those that miss them as much."""
        weighted = self._jacobian(self._solved[0]) / self._sigmas[:, None]
        free = np.clip(1 - np.diag(weighted @ np.linalg.pinv(weighted)), 1e-9, None)
        standard = np.abs(residuals) / np.sqrt(free)
        doubted = [n for n in range(len(standard)) if standard[n] > 0.95 * standard.max()]
        by = residuals / free * self._sigmas
        pairs = tuple((self.names[self._pairs[n][0]], self.names[self._pairs[n][1]]) for n in doubted)
        return TapingConflict(pairs, float(np.abs(by[doubted]).min()))

    @cached_property
    def pegs(self) -> tuple[PegAnswer, ...]:
        """How every peg stands; empty while the shape is not held or lengths conflict."""
        if not self.holds_shape or self.conflicts:
            return ()
        places, _residuals = self._solved
        n, first = len(self.names), self.held
        second = (first + 1) % n
        stands = self._laid(places, first, second)
        covariance = _held_covariance(stands, self._jacobian(stands) / self._sigmas[:, None], first, second)
        answers = []
        for k, name in enumerate(self.names):
            before = (k - 1) % n
            along = _unit(self._plan[k] - self._plan[before])
            move = self._plan[k] - stands[k]
            outward = np.array([along[1], -along[0]])
            block = covariance[2 * k : 2 * k + 2, 2 * k : 2 * k + 2]
            answers.append(
                PegAnswer(
                    name,
                    self.outline[k],
                    (float(stands[k][0]), float(stands[k][1])),
                    float(move @ along),
                    float(move @ outward),
                    math.sqrt(float(np.trace(block))),
                    self.names[before],
                )
            )
        return tuple(answers)

    def _laid(self, places: NDArray[np.float64], first: int, second: int) -> NDArray[np.float64]:
        """The taped figure laid on the plan: the held side on its line, its first peg on its place."""
        is_, has = self._plan[second] - self._plan[first], places[second] - places[first]
        turn = math.atan2(is_[1], is_[0]) - math.atan2(has[1], has[0])
        rotate = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]])
        return np.asarray((places - places[first]) @ rotate.T + self._plan[first])

    @property
    def square(self) -> bool:
        return bool(self.pegs) and all(peg.in_place for peg in self.pegs)


def _slopes(places: NDArray[np.float64], pairs: Sequence[tuple[int, int]]) -> NDArray[np.float64]:
    """How each length changes with each coordinate: (lengths, 2 × pegs)."""
    rows = np.zeros((len(pairs), places.size))
    for row, (i, j) in enumerate(pairs):
        along = (places[j] - places[i]) / max(float(np.hypot(*(places[j] - places[i]))), 1e-9)
        rows[row, 2 * i : 2 * i + 2], rows[row, 2 * j : 2 * j + 2] = -along, along
    return rows


def _held_covariance(
    places: NDArray[np.float64], slopes: NDArray[np.float64], first: int, second: int
) -> NDArray[np.float64]:
    """Covariance of the coordinates with `first` held and `second` free only along the line between them; `slopes`
    over the lengths' standard deviations."""
    free = [n for n in range(places.size) if n // 2 not in (first, second)]
    basis = np.zeros((places.size, len(free) + 1))
    for column, n in enumerate(free):
        basis[n, column] = 1
    basis[2 * second : 2 * second + 2, -1] = _unit(places[second] - places[first])
    inverse = np.linalg.pinv(slopes @ basis)
    return np.asarray(basis @ (inverse @ inverse.T) @ basis.T)


@lru_cache(maxsize=64)
def _diagonals(outline: tuple[Point, ...]) -> tuple[tuple[int, int], ...]:
    """The diagonals to tape: as many as hold the shape and one to spare, each the one that leaves the pegs surest;
    within the area where there are such, since nobody tapes through a building."""
    n, places = len(outline), np.array(outline, dtype=float)
    if n < 4:
        return ()
    area = shapely.Polygon(outline).buffer(0.01)
    every = [(i, j) for i, j in combinations(range(n), 2) if (j - i) % n not in (1, n - 1)]
    inside = [(i, j) for i, j in every if area.covers(shapely.LineString([outline[i], outline[j]]))]
    taped = [(k, (k + 1) % n) for k in range(n)]
    chosen: list[tuple[int, int]] = []
    while len(chosen) < n - 2:
        left = [d for d in inside if d not in chosen] or [d for d in every if d not in chosen]
        if not left:
            break
        best = min(left, key=lambda d: _unsureness(places, [*taped, d]))
        taped.append(best)
        chosen.append(best)
    return tuple(chosen)


def _unsureness(places: NDArray[np.float64], pairs: list[tuple[int, int]]) -> tuple[int, float]:
    """How little lengths hold a shape: motions left free, then the sum of variances of the rest."""
    values = np.linalg.svd(_slopes(places, pairs), compute_uv=False)
    held = values[values > 1e-6]
    return -len(held), float((1 / held**2).sum())


def _unit(vector: NDArray[np.float64]) -> NDArray[np.float64]:
    return vector / float(np.hypot(*vector))


@dataclass(frozen=True)
class StringPeg:
    """One peg's line of the string table: levels, how far up the peg from the finished surface the string is tied,
    how far below it the chosen surface lies, and what the rod reads held on the string's mark."""

    name: str
    at: Point
    finished: float
    surface: float
    string: float
    dip: float
    reading: float | None


@dataclass(frozen=True)
class StringSide:
    """A string from one peg to the next: its fall from the first, its sag in the middle, and by how much the
    finished surface under it leaves the straight line, up positive."""

    start: str
    end: str
    length: float
    fall: float
    sag: float
    bend: float


def string_table(
    job: Job, depth: float, height: float, reference: Reference | None = None
) -> tuple[list[StringPeg], list[StringSide]]:
    """Strings tied `height` above the finished level at every peg, for the surface `depth` below it."""
    pegs = []
    for n, at in enumerate(job.outline, start=1):
        finished = job.design.level(at)
        string = finished + height
        reading = (
            None if reference is None or isinstance(reference, StretchedString) else reference.target(at, string)
        )
        pegs.append(StringPeg(f"P{n}", at, finished, finished - depth, string, height + depth, reading))
    sides = []
    for one, other in zip(pegs, [*pegs[1:], pegs[0]], strict=True):
        length = math.dist(one.at, other.at)
        share = np.linspace(0, 1, 41)
        along = np.outer(1 - share, one.at) + np.outer(share, other.at)
        under = job.design.level_at(*along.T) - ((1 - share) * one.finished + share * other.finished)
        bend = float(under[np.abs(under).argmax()])
        fall = (one.string - other.string) / length
        sides.append(StringSide(one.name, other.name, length, fall, sag(STRING_WEIGHT, length, STRING_TENSION), bend))
    return pegs, sides


def set_out_findings(set_out: SetOut) -> Iterator[Finding]:
    """What holds the set-out: lengths not taped, lengths that conflict, pegs out of place."""
    if set_out.conflicts:
        worst = max(set_out.conflicts, key=lambda c: c.miss)
        pairs = ", ".join(f"{one}–{other}" for one, other in worst.lengths)
        yield Finding(
            "P01",
            Severity.STOP,
            Words("{pairs} cannot all be right: they miss by {miss}", {"miss": worst.miss}, names={"pairs": pairs}),
            Words("what tapes can miss by"),
            "No figure has these lengths together: one of them was misread or mistyped.",
            "Tape them again.",
            Source.PRACTICE,
        )
        return
    if not set_out.holds_shape or set_out.still_to_tape:
        pairs = ", ".join(f"{one}–{other}" for one, other in set_out.still_to_tape)
        yield Finding(
            "P02",
            Severity.STOP if not set_out.holds_shape else Severity.WARNING,
            Words("not taped: {pairs}", names={"pairs": pairs}),
            Words("every side and the diagonals that hold the shape"),
            "Sides alone leave a figure free to lean; without a length to spare a slip is not seen.",
            "Tape them.",
            Source.PRACTICE,
        )
    if out := [peg for peg in set_out.pegs if not peg.in_place]:
        yield Finding(
            "P03",
            Severity.STOP,
            Words("{n} out of place, up to {worst}", {"worst": max(peg.move for peg in out)}, {"n": len(out)}),
            Words("within {limit}", {"limit": PEG_LIMIT}),
            "Every cut and every course of pavers follows the pegs.",
            "Move them as each says, then tape again what was taped to them.",
            Source.PRACTICE,
        )


def margin_findings(
    margins: Mapping[int, MarginMeasured],
    corners: int,
    specified: float,
    school_least: float,
    unit: Unit = Unit.MILLIMETRES,
    walls: Collection[int] = (),
) -> Iterator[Finding]:
    """D07: the dig passes a free edge by less than specified, or the specification by less than is usual. Against
    `walls`, by side, there is none."""
    short = [
        side for side, measured in sorted(margins.items())
        if side not in walls and not inside(measured.width.metres, specified, None, unit)
    ]  # fmt: skip
    why = "The edging stands on the base's margin; without it the edge rolls over."
    if short:
        sides = ", ".join(f"P{side + 1}–P{(side + 1) % corners + 1}" for side in short)
        least = min(margins[side].width.metres for side in short)
        yield Finding(
            "D07",
            Severity.WARNING,
            Words("margin short at {sides}, down to {least}", {"least": least}, names={"sides": sides}),
            Words("at least {specified} outside the paved edge", limits={"specified": specified}),
            why,
            "Widen the dig there.",
            Source.PRACTICE,
        )
    if not inside(specified, school_least, None, unit):
        yield Finding(
            "D07",
            Severity.WARNING,
            Words("{specified} of margin specified", {"specified": specified}),
            Words("usually {least} for this school and traffic", limits={"least": school_least}),
            why,
            "Set it under Base, or know why it is less.",
            Source.PRACTICE,
        )
