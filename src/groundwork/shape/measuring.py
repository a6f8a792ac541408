"""What is measured of an area's corners: taped lengths, angles at corners, offsets from a line between two fixed
places and steps along it or square to it, mixed freely."""

import cmath
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

from groundwork.surfaces import Point

TAPE_U, TAPE_RATE = 0.002, 0.0001
"""Standard uncertainty of a taped length, metres and per metre (common practice, no published source)."""
ANGLE_U = 0.5
"""Standard uncertainty of an angle by eye, by square or by 3-4-5, degrees (common practice, no published source)."""
CLOSES = 0.05
"""A walk that ends nearer to its start than this share of its length, and than half its shortest side, was meant to
close: the end of a narrow path is a side of its own."""
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
        one, other = (way_to(at[self.at], at[point]) for point in (self.before, self.after))
        turned = other.conjugate() * one
        off = math.radians(self.degrees) - math.atan2(turned.imag, turned.real)
        return ((off + math.pi) % (2 * math.pi) - math.pi,)

    def slopes(self, at: Mapping[str, Point]) -> list[dict[str, Point]]:
        found = {self.at: (0.0, 0.0)}
        for point, sign in ((self.before, 1), (self.after, -1)):
            way = way_to(at[self.at], at[point])
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


@dataclass(frozen=True)
class WalkedStep:
    """A place by how far it lies from another along the line from the first fixed place to the second, and to its
    left, metres; the way by eye."""

    start: str
    end: str
    along: float
    left: float

    @property
    def points(self) -> tuple[str, ...]:
        return self.start, self.end

    @property
    def deviations(self) -> tuple[float, ...]:
        length = math.hypot(self.along, self.left)
        tape, by_eye = math.hypot(TAPE_U, TAPE_RATE * length), math.radians(ANGLE_U) * length
        return (tape, by_eye) if abs(self.along) > abs(self.left) else (by_eye, tape)

    def misses(self, at: Mapping[str, Point]) -> tuple[float, ...]:
        way = way_to(at[self.start], at[self.end])
        return self.along - way.real, self.left - way.imag

    def slopes(self, _at: Mapping[str, Point]) -> list[dict[str, Point]]:
        return [{self.start: (-1.0, 0.0), self.end: (1.0, 0.0)}, {self.start: (0.0, -1.0), self.end: (0.0, 1.0)}]


Observation = TapedLength | CornerAngle | BaselineOffset | WalkedStep


@dataclass(frozen=True)
class Walk:
    """Corners in order with what was measured of them."""

    corners: tuple[str, ...]
    observations: tuple[Observation, ...]


Move = tuple[str | float, float]
"""A way of `WAYS`, or the angle inside at the corner one stands on, degrees; and how far from there, metres."""


def of_moves(moves: Sequence[Move], turn: int = 1) -> Walk:
    """A walk from the first corner, which begins to the east where no way is said; `turn` is -1 for one that goes
    round to the right. One that ends where it began has its last length to spare, and where all of it goes in right
    angles the last angle too."""
    sides: list[complex] = []
    heading = 1 + 0j
    for way, length in moves:
        if isinstance(way, str):
            heading = complex(*WAYS[way])
        elif sides:
            heading = -heading / cmath.rect(1, math.radians(way) * turn)
        sides.append(heading * length)
    lengths = [*map(abs, sides)]
    closes = len(sides) > 2 and abs(sum(sides)) <= min(CLOSES * sum(lengths), min(lengths) / 2)
    names = tuple(f"X{n + 1}" for n in range(len(sides) + (not closes)))
    count, turns = len(names), [*pairwise(sides)]
    if closes and all(isinstance(way, str) for way, _length in moves):
        turns.append((sides[-1], sides[0]))
    tapes = [TapedLength(names[n], names[(n + 1) % count], abs(side)) for n, side in enumerate(sides)]
    angles = [
        CornerAngle(
            names[(n + 1) % count], names[n], names[(n + 2) % count], math.degrees(cmath.phase(-one / other)) % 360
        )
        for n, (one, other) in enumerate(turns)
    ]
    return Walk(names, (*tapes, *angles))


def where_tapes_meet(
    one: Point, from_one: float, other: Point, from_other: float, *, left: bool
) -> tuple[Point, float]:
    """Where two tapes from two places meet, to the left of the line from one to the other or to its right, and by how
    much they fail to: then in the middle of the gap between them."""
    base = way_to(one, other)
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


def way_to(start: Point, end: Point) -> complex:
    return complex(end[0] - start[0], end[1] - start[1])
