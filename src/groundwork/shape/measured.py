"""An area as it was measured on site, a line for each corner or length: steps in right angles (`right 6`, `↑ 2`); a
side by the angle inside between it and the one before (`angle 135 side 4.2`); from a line between two fixed places
(`A B 7.00`) tapes to each corner (`5.20 3.41`, `A 5.20 B 3.41 right`) and offsets (`along 3.0 left 1.2`), and steps
along that line and square to it; and lengths between corners to check (`X1 X3 6.02`)."""

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field

from groundwork.measures import MeasureError, Unit, Words, parse_length
from groundwork.plan import OutlineError, values_in
from groundwork.shape.adjustment import MeasuredIn, MeasuringSlip, measured_in
from groundwork.shape.measuring import (
    WAYS,
    BaselineOffset,
    CornerAngle,
    Move,
    Observation,
    TapedLength,
    Walk,
    WalkedStep,
    of_moves,
    where_tapes_meet,
)
from groundwork.shape.ring import Ring
from groundwork.shape.typed import apart, curved
from groundwork.surfaces import Point

A, B = "A", "B"
_STEP = re.compile(r"(?i)^(right|left|up|down|[rlud→←↑↓])\s+(.+)$")
_WAYS = {"r": "right", "→": "right", "l": "left", "←": "left", "u": "up", "↑": "up", "d": "down", "↓": "down"}
_ANGLE = re.compile(r"(?i)^angle\s+(\S+)\s+(?:side\s+)?(.+)$")
_BASE = re.compile(r"(?i)^a\s*[-–]?\s*b\s+(.+)$")
_CHECK = re.compile(r"(?i)^x\s*(\d+)\s*[-–]?\s*x\s*(\d+)\s+(.+)$")
_OFFSET = re.compile(r"(?i)^along\s+(.+?)\s+(left|right)\s+(.+)$")
_NAMED = re.compile(r"(?i)^a\s+(.+?)\s+b\s+(.+)$")
_DEGREES = re.compile(r"(\d{1,3}(?:[.,]\d+)?)°?")
_SIDE = re.compile(r"(?i)\s+(left|right)$")
FULL_TURN = 360
MOST_LINES = 100
"""What one measures by hand comes to no more; the adjustment takes the cube of it."""
REACH = 0.05
"""Two tapes that fail to meet by more than this were misread, metres; less is the tapes' own."""


@dataclass(frozen=True)
class MeasuredArea:
    """The area as measured and how well it fits: what `says` that something was misread, and what would check it."""

    ring: Ring
    fit: MeasuredIn
    says: tuple[Words, ...]
    advice: tuple[Words, ...]

    @property
    def slips(self) -> tuple[MeasuringSlip, ...]:
        return self.fit.slips


@dataclass
class _Notes:
    """What the lines say, as they are read."""

    unit: Unit
    base: float | None = None
    moves: list[Move] = field(default_factory=list)
    corners: list[str] = field(default_factory=list)
    right: list[str] = field(default_factory=list)
    said: list[Observation] = field(default_factory=list)
    angles: list[tuple[str, str, str, float]] = field(default_factory=list)
    checks: list[tuple[int, int, int, float]] = field(default_factory=list)

    def length(self, text: str) -> float:
        length = parse_length(text, self.unit.for_plans).metres
        if length <= 0:
            raise OutlineError("a length is more than nothing")
        return length

    def take(self, number: int, line: str) -> int | None:
        """What a line says is kept; of a corner the side that begins there, of a step its own, which a curve behind
        it is about."""
        if found := _BASE.match(line):
            if self.moves:
                raise OutlineError("say how far A and B are apart in the first line, before the steps")
            self.base = self.length(found[1])
            return None
        if found := _CHECK.match(line):
            self.checks.append((number, int(found[1]), int(found[2]), self.length(found[3])))
            return None
        if found := _STEP.match(line):
            self._step(_WAYS.get(found[1].lower(), found[1].lower()), self.length(found[2]))
        elif found := _ANGLE.match(line):
            self._angle(self.degrees(found[1]), self.length(found[2]))
        elif self.moves:
            raise OutlineError("“{text}” is no step, like “right 6”", text=line[:24])
        elif self.base is None:
            raise OutlineError("tapes come from two fixed places: say how far apart first, like “A B 7.00”")
        else:
            self._corner(line)
            return len(self.corners) - 1
        return len(self.moves) - 1 if self.moves else len(self.corners) - 2

    def degrees(self, text: str) -> float:
        found = _DEGREES.fullmatch(text)
        if found is None or not 0 < (degrees := float(found[1].replace(",", "."))) < FULL_TURN:
            raise OutlineError("“{text}” is no angle in degrees", text=text[:12])
        return degrees

    def _step(self, way: str, length: float) -> None:
        if self.base is None:
            self.moves.append((way, length))
            return
        along, left = WAYS[way]
        start = self.corners[-1] if self.corners else A
        self.said.append(WalkedStep(start, self._next(), along * length, left * length))

    def _angle(self, degrees: float, length: float) -> None:
        """A side from the last corner, at so many degrees from the side before it."""
        if len(self.moves if self.base is None else self.corners[1:]) < 1:
            raise OutlineError("an angle lies between two sides: measure the first side in before it")
        if self.base is None:
            self.moves.append((degrees, length))
            return
        before, at = self.corners[-2:]
        end = self._next()
        self.said.append(TapedLength(at, end, length))
        self.angles.append((at, before, end, degrees))

    def _next(self) -> str:
        self.corners.append(f"X{len(self.corners) + 1}")
        return self.corners[-1]

    @property
    def facing(self) -> complex:
        """Which way the first step goes, where there is no line to go by: the adjustment lays it to the east."""
        way = self.moves[0][0] if self.moves else ""
        return complex(*WAYS[way]) if isinstance(way, str) and way else 1 + 0j

    def walk(self, turn: int) -> Walk:
        """The corners and what was measured of them, where the area goes round to the left, or with -1 to the
        right."""
        if self.base is None:
            return of_moves(self.moves, turn)
        inside = [
            CornerAngle(at, before, after, degrees) if turn > 0 else CornerAngle(at, after, before, degrees)
            for at, before, after, degrees in self.angles
        ]
        return Walk(tuple(self.corners), (*self.said, *inside))

    def _corner(self, line: str) -> None:
        name = self._next()
        if found := _OFFSET.match(line):
            along = parse_length(found[1], self.unit.for_plans).metres
            aside = parse_length(found[3], self.unit.for_plans).metres
            self.said.append(BaselineOffset(name, along, aside if found[2].lower() == "left" else -aside))
            return
        side = _SIDE.search(line)
        plain = line[: side.start()] if side else line
        named = _NAMED.match(plain)
        parts = [named[1], named[2]] if named else values_in(plain)
        if len(parts) != 2 or not all(part[:1].isdigit() or part[:1] == "." for part in parts):
            raise OutlineError("“{text}” is no way to a corner: two tapes, like “5.20 3.41”, or “along 3 left 1.2”",
                               text=line[:24])  # fmt: skip
        from_a, from_b = (self.length(part) for part in parts)
        _place, short = where_tapes_meet((0.0, 0.0), from_a, (self.base or 0.0, 0.0), from_b, left=True)
        if short > REACH:
            raise OutlineError("these tapes do not meet: {by} short", distances={"by": short})
        if side and side[1].lower() == "right":
            self.right.append(name)
        self.said += [TapedLength(A, name, from_a), TapedLength(B, name, from_b)]


def measured_area(text: str, unit: Unit) -> MeasuredArea:
    """The area that was measured, going round to the left. Raises `OutlineError` with the line that is wrong."""
    plain, curves = apart(text)
    lines = [(n, line.strip()) for n, line in enumerate(plain.splitlines(), start=1) if line.strip()]
    if not lines:
        raise OutlineError("nothing typed: one corner or side a line")
    if len(lines) > MOST_LINES:
        raise OutlineError("more than {most} lines: {number}", most=MOST_LINES, number=len(lines))
    notes, known = _Notes(unit), {}
    for n, (number, line) in enumerate(lines):
        with _in_line(number):
            side = notes.take(number, line)
            if n not in curves:
                continue
            if side is None or side < 0:
                raise OutlineError("a curve stands behind a corner or a step: here is neither")
            if side in known:
                raise OutlineError("this side has a curve already, in a line before")
            known[side] = curves[n]
    fixed: dict[str, Point] = {} if notes.base is None else {A: (0.0, 0.0), B: (notes.base, 0.0)}
    if len(notes.walk(1).corners) < 3:
        raise OutlineError("an area has at least three corners that lie apart")
    measured = _fitted(notes, fixed, 1)[0]
    turn = 1 if measured.area > 0 else -1
    measured = measured if turn > 0 else _fitted(notes, fixed, turn)[0]
    shown = _shown(measured, curved(measured.corners, known, unit, float(turn)).checked())
    measured, fit = _fitted(notes, fixed, turn, _checks(notes, shown))
    ring = curved(measured.corners, known, unit, float(turn)).checked()
    called = {name: f"X{n}" for n, name in enumerate(shown, start=1) if name}
    advice = [*_advice(fit, called)]
    if between := [f"X{n}" for n, name in enumerate(shown, start=1) if not name]:
        advice.append(Words("a smooth line’s arcs meet at {corners}", names={"corners": ", ".join(between)}))
    return MeasuredArea(ring, fit, tuple(_says(fit, called)), tuple(advice))


def _shown(measured: Ring, ring: Ring) -> list[str]:
    """The names under which the corners were measured, as the plan counts them, round to the left; of one where a
    smooth line's arcs meet none."""
    return [f"X{measured.corners.index(c) + 1}" if c in measured.corners else "" for c in ring.corners]


def _checks(notes: _Notes, shown: Sequence[str]) -> Iterator[TapedLength]:
    """Lengths between corners as the plan counts them."""
    for number, one, other, length in notes.checks:
        with _in_line(number):
            for corner in (one, other):
                if not 1 <= corner <= len(shown) or not shown[corner - 1]:
                    raise OutlineError("there is no corner X{corner}", corner=corner)
            yield TapedLength(shown[one - 1], shown[other - 1], length)


def _fitted(
    notes: _Notes, fixed: dict[str, Point], turn: int, checks: Iterable[TapedLength] = ()
) -> tuple[Ring, MeasuredIn]:
    """The corners where an area goes round to the left, or to the right, and how well what was measured fits."""
    walk = notes.walk(turn)
    fit = measured_in([*walk.observations, *checks], fixed, notes.right)
    places = [complex(*fit.places[name]) * notes.facing for name in walk.corners]
    return Ring(tuple((place.real, place.imag) for place in places)), fit


@contextmanager
def _in_line(number: int) -> Iterator[None]:
    """What is wrong with a line is said with its number."""
    try:
        yield
    except (MeasureError, OutlineError, ValueError) as error:
        raise OutlineError("line {number}: {error}", number=number, error=error) from error


def _advice(fit: MeasuredIn, called: Mapping[str, str]) -> Iterator[Words]:
    if fit.unchecked:
        corners = {"corners": ", ".join(sorted((called[each] for each in fit.unchecked), key=lambda x: int(x[1:])))}
        yield Words("nothing checks {corners}: a length between two corners would, like “X1 X3”", names=corners)


def _says(fit: MeasuredIn, called: Mapping[str, str]) -> Iterator[Words]:
    for slip in fit.slips:
        what = ", ".join(_named(each, called) for each in slip.observations)
        if isinstance(slip.observations[0], CornerAngle):
            off = {"what": what, "by": f"{abs(slip.by):.1f}"}
            yield Words("{what} misses the others by {by} degrees: measure it again", names=off)
        else:
            names = {"what": what}
            yield Words("{what} misses the others by {by}: measure it again", {"by": abs(slip.by)}, names=names)


def _named(observation: Observation, called: Mapping[str, str]) -> str:
    """An observation by the places it is of, as the plan has them."""
    places = [called.get(point, point) for point in observation.points]
    return "–".join(places[:2]) if isinstance(observation, TapedLength | WalkedStep) else places[0]
