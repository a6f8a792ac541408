"""What a reading is taken against, one class a method: the line of sight of a level, a string, a height meter's
base, the existing ground. Each says what should be read where a surface is at its design level, and what level a
reading comes to with its uncertainty. A fall between two places, by straightedge, needs none."""

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

from groundwork.brief import ExistingGround
from groundwork.entries import MeterBase, SetUp, StringLine, TapeDatum
from groundwork.levels import levelling
from groundwork.levels.runs import Height
from groundwork.measures import LONGEST_ROD, Measured
from groundwork.plan import Station
from groundwork.surfaces import DesignSurface, Point
from groundwork.tools import Instrument
from groundwork.verdict import Sight

STRING_REACH = 0.5
"""How far beside a string a station may lie and still be dipped, square to it (common practice)."""
LONGEST_DIP = 2.0
ENDS = (0.0, 1.0)
"""Readings, metres, that what any other comes to is told from."""
GRAVITY = 9.81


class Reference(Protocol):
    """What a reading is taken against. Levels and readings in metres."""

    @property
    def id(self) -> str: ...

    def spot(self, place: Point) -> Point | None:
        """Where the reading for a place is taken, or None where it cannot be reached from here."""

    def target(self, spot: Point, design: float) -> float | None:
        """What should be read at a spot whose surface is at `design`, or None where nothing is known there."""

    def in_sight(self, target: float) -> bool:
        """Whether such a reading can be taken at all."""

    def sight(self, spot: Point, reading: float) -> Sight | None:
        """The level a reading at a spot comes to, or None where nothing is known there."""


@dataclass(frozen=True)
class LineOfSight:
    """A level as set up; sights of unknown length are taken as long as the site."""

    set_up: SetUp
    height: Height
    farthest: float

    @property
    def id(self) -> str:
        return self.set_up.id

    def spot(self, place: Point) -> Point | None:
        return place

    def target(self, spot: Point, design: float) -> float | None:
        return levelling.target_reading(self.height.level, design) + self._tilt(spot)

    def in_sight(self, target: float) -> bool:
        return 0 <= target <= LONGEST_ROD

    def sight(self, spot: Point, reading: float) -> Sight | None:
        if self.set_up.at is None and reading in ENDS:
            return self._anywhere[reading]
        return self._sight(spot, reading)

    @cached_property
    def _anywhere(self) -> dict[float, Sight]:
        """What nought and a metre come to where nobody said where it stands: the same at every spot."""
        return {reading: self._sight((0.0, 0.0), reading) for reading in ENDS}

    def _sight(self, spot: Point, reading: float) -> Sight:
        instrument, length = self.set_up.instrument, self._length(spot)
        level = levelling.reduced_level(self.height.level, reading - self._tilt(spot))
        unknown_tilt = abs(instrument.collimation) * length if self.set_up.at is None else 0.0
        shared = math.hypot(self.height.uncertainty, instrument.rate * length, unknown_tilt)
        return Sight(level, self.id, instrument.reading_u, shared, self.height.parts)

    def _length(self, spot: Point) -> float:
        return self.farthest if self.set_up.at is None else math.dist(self.set_up.at, spot)

    def _tilt(self, spot: Point) -> float:
        """What the tilt of the line of sight adds to a reading, where the length of the sight is known."""
        return 0.0 if self.set_up.at is None else self.set_up.instrument.collimation * self._length(spot)


def sag(weight: float, span: float, tension: float) -> float:
    """How far a string of `weight` grams a metre sags in the middle of `span` metres under `tension` newtons,
    metres: w L² / 8 T (shallow catenary; any statics text).

    >>> round(sag(1.0, 10, 50), 5)
    0.00245
    """
    return weight / 1000 * GRAVITY * span**2 / (8 * tension)


HIGHEST_TIE = 2.0
"""How far over the finished level a string is tied at most, metres (common practice)."""


def tied(
    entry_id: str,
    design: DesignSurface,
    start: Station,
    end: Station,
    start_height: Measured,
    end_height: Measured | None,
    instrument: Instrument,
) -> StringLine:
    """A string over two stations, so high above the finished level at each; pulled level from the first where the
    second's height is None."""
    start_level = design.level(start.at) + start_height.metres
    if end_height is None:
        end_height = Measured("level", start_level - design.level(end.at))
    return StringLine(
        entry_id, start.name, end.name, start.at, end.at, start_height, end_height,
        start_level, design.level(end.at) + end_height.metres, instrument=instrument,
    )  # fmt: skip


@dataclass(frozen=True)
class StretchedString:
    """A string between two pegs; surfaces are dipped below it, square to it within half a metre."""

    line: StringLine

    @property
    def id(self) -> str:
        return self.line.id

    @property
    def span(self) -> float:
        return math.dist(self.line.start_at, self.line.end_at)

    def _along(self, place: Point) -> float:
        (x0, y0), (x1, y1) = self.line.start_at, self.line.end_at
        return ((place[0] - x0) * (x1 - x0) + (place[1] - y0) * (y1 - y0)) / self.span**2

    def spot(self, place: Point) -> Point | None:
        (x0, y0), (x1, y1) = self.line.start_at, self.line.end_at
        share = min(max(self._along(place), 0.0), 1.0)
        foot = (x0 + share * (x1 - x0), y0 + share * (y1 - y0))
        return foot if math.dist(foot, place) <= STRING_REACH else None

    def level_at(self, spot: Point) -> float:
        """Straight between its ends less the sag, a parabola along the span."""
        share = self._along(spot)
        straight = self.line.start_level + share * (self.line.end_level - self.line.start_level)
        return straight - 4 * share * (1 - share) * sag(self.line.weight, self.span, self.line.tension)

    def target(self, spot: Point, design: float) -> float | None:
        return self.level_at(spot) - design

    def in_sight(self, target: float) -> bool:
        return 0 <= target <= LONGEST_DIP

    def sight(self, spot: Point, reading: float) -> Sight | None:
        u = self.line.instrument.reading_u
        return Sight(self.level_at(spot) - reading, self.id, u, u / 2)


@dataclass(frozen=True)
class MeterAt:
    """A height meter whose base stands on a mark of level `level`, with uncertainty `uncertainty`."""

    base: MeterBase
    level: float

    @property
    def id(self) -> str:
        return self.base.id

    def spot(self, place: Point) -> Point | None:
        return place

    def target(self, spot: Point, design: float) -> float | None:
        return design - self.level + self.base.shows.metres

    def in_sight(self, target: float) -> bool:
        return True

    def sight(self, spot: Point, reading: float) -> Sight | None:
        u = self.base.instrument.reading_u
        return Sight(self.level + reading - self.base.shows.metres, self.id, u, u)


@dataclass(frozen=True)
class FromGround:
    """Depths taped from the existing ground; nothing is said where its level is not known."""

    datum: TapeDatum
    ground: ExistingGround

    @property
    def id(self) -> str:
        return self.datum.id

    def spot(self, place: Point) -> Point | None:
        return place if self._level(place) is not None else None

    def _level(self, place: Point) -> float | None:
        level = float(self.ground.level_at([place])[0])
        return level if math.isfinite(level) else None

    def target(self, spot: Point, design: float) -> float | None:
        level = self._level(spot)
        return None if level is None else level - design

    def in_sight(self, target: float) -> bool:
        return 0 <= target <= LONGEST_DIP

    def sight(self, spot: Point, reading: float) -> Sight | None:
        level, u = self._level(spot), self.datum.instrument.reading_u
        return None if level is None else Sight(level - reading, self.id, u, u / 2)
