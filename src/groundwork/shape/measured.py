"""An area as it was measured on site, a line for each corner or length: steps in right angles (`right 6`, `↑ 2`); or
from a line between two fixed places (`A B 7.00`) tapes to each corner (`5.20 3.41`, `A 5.20 B 3.41 right`) and
offsets (`along 3.0 left 1.2`); and lengths between corners to check (`X1 X3 6.02`)."""

import re
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from groundwork.measures import MeasureError, Unit, Words, parse_length
from groundwork.plan import OutlineError, values_in
from groundwork.shape.adjustment import MeasuredIn, MeasuringSlip, measured_in
from groundwork.shape.measuring import (
    BaselineOffset,
    CornerAngle,
    Observation,
    TapedLength,
    of_steps,
    where_tapes_meet,
)
from groundwork.shape.ring import Ring
from groundwork.shape.typed import apart, curve_of
from groundwork.surfaces import Point

A, B = "A", "B"
_STEP = re.compile(r"(?i)^(right|left|up|down|[rlud→←↑↓])\s+(.+)$")
_WAYS = {"r": "right", "→": "right", "l": "left", "←": "left", "u": "up", "↑": "up", "d": "down", "↓": "down"}
_BASE = re.compile(r"(?i)^a\s*[-–]?\s*b\s+(.+)$")
_CHECK = re.compile(r"(?i)^x\s*(\d+)\s*[-–]?\s*x\s*(\d+)\s+(.+)$")
_OFFSET = re.compile(r"(?i)^along\s+(.+?)\s+(left|right)\s+(.+)$")
_NAMED = re.compile(r"(?i)^a\s+(.+?)\s+b\s+(.+)$")
_SIDE = re.compile(r"(?i)\s+(left|right)$")
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
    steps: list[tuple[str, float]] = field(default_factory=list)
    corners: list[str] = field(default_factory=list)
    right: list[str] = field(default_factory=list)
    said: list[Observation] = field(default_factory=list)
    checks: list[tuple[int, int, int, float]] = field(default_factory=list)

    def length(self, text: str) -> float:
        length = parse_length(text, self.unit.for_plans).metres
        if length <= 0:
            raise OutlineError("a length is more than nothing")
        return length

    def take(self, number: int, line: str) -> bool:
        """Whether a line gives a corner or a side; what it says is kept."""
        if found := _BASE.match(line):
            self.base = self.length(found[1])
            return False
        if found := _CHECK.match(line):
            self.checks.append((number, int(found[1]), int(found[2]), self.length(found[3])))
            return False
        if found := _STEP.match(line):
            if self.base is not None:
                raise OutlineError("steps go from corner to corner: not with tapes from A and B in one area")
            self.steps.append((_WAYS.get(found[1].lower(), found[1].lower()), self.length(found[2])))
            return True
        if self.steps:
            raise OutlineError("“{text}” is no step, like “right 6”", text=line[:24])
        if self.base is None:
            raise OutlineError("tapes come from two fixed places: say how far apart first, like “A B 7.00”")
        self._corner(line)
        return True

    def _corner(self, line: str) -> None:
        name = f"X{len(self.corners) + 1}"
        self.corners.append(name)
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
    notes, gives = _Notes(unit), []
    for number, line in lines:
        with _in_line(number):
            gives.append(notes.take(number, line))
    fixed: dict[str, Point] = {} if notes.base is None else {A: (0.0, 0.0), B: (notes.base, 0.0)}
    walk = of_steps(notes.steps) if notes.steps else None
    names = list(walk.corners) if walk else notes.corners
    if len(names) < 3:
        raise OutlineError("an area has at least three corners that lie apart")
    said = [*(walk.observations if walk else notes.said)]
    for number, one, other, length in notes.checks:
        with _in_line(number):
            if strange := next((corner for corner in (one, other) if not 1 <= corner <= len(names)), None):
                raise OutlineError("there is no corner X{corner}", corner=strange)
            said.append(TapedLength(f"X{one}", f"X{other}", length))
    fit = measured_in(said, fixed, notes.right)
    corners = tuple(fit.places[name] for name in names)
    sides = [n for n, is_corner in enumerate(gives) if is_corner]
    bulges = [0.0] * len(names)
    for line_of, (number, kind, curve) in curves.items():
        side = sides.index(line_of) if line_of in sides else len(names)
        if side < len(names):
            with _in_line(number):
                bulges[side] = curve_of(kind, curve, *Ring(corners).ends(side), unit, _out(corners))
    ring = Ring(corners, tuple(bulges) if any(bulges) else ()).checked()
    return MeasuredArea(ring, fit, tuple(_says(fit)), tuple(_advice(fit)))


def _out(corners: tuple[Point, ...]) -> float:
    return 1.0 if Ring(corners).area > 0 else -1.0


@contextmanager
def _in_line(number: int) -> Iterator[None]:
    """What is wrong with a line is said with its number."""
    try:
        yield
    except (MeasureError, OutlineError, ValueError) as error:
        raise OutlineError("line {number}: {error}", number=number, error=error) from error


def _advice(fit: MeasuredIn) -> Iterator[Words]:
    if fit.unchecked:
        corners = {"corners": ", ".join(fit.unchecked)}
        yield Words("nothing checks {corners}: a length between two corners would, like “X1 X3”", names=corners)


def _says(fit: MeasuredIn) -> Iterator[Words]:
    for slip in fit.slips:
        what = ", ".join(_named(each) for each in slip.observations)
        if isinstance(slip.observations[0], CornerAngle):
            off = {"what": what, "by": f"{abs(slip.by):.1f}"}
            yield Words("{what} misses the others by {by} degrees: measure it again", names=off)
        else:
            names = {"what": what}
            yield Words("{what} misses the others by {by}: measure it again", {"by": abs(slip.by)}, names=names)


def _named(observation: Observation) -> str:
    match observation:
        case TapedLength():
            return f"{observation.start}–{observation.end}"
        case CornerAngle():
            return observation.at
        case BaselineOffset():
            return observation.point
