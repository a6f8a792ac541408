"""A pattern over the real outline: every unit whole or cut, exactly."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from groundwork.pattern.offcuts import units_of
from groundwork.pattern.patterns import PavingPattern
from groundwork.pattern.placed import Sides
from groundwork.pattern.units import PavingUnit
from groundwork.surfaces import Floats, Point

Area = shapely.Polygon | shapely.MultiPolygon

LEAST_AREA = 1e-6
"""m²: a piece smaller than that is none, and a unit that lacks no more is whole."""
GRID = 1e-7
"""Pieces are cut on a grid so fine, metres: in plain floating point an edge that all but lies on another can be taken
for one that does not."""
SLIVER = 1 / 3
"""A piece under this share of its unit breaks or walks out at an edge (common practice; quoted from memory)."""
NARROWEST = 0.040
"""No piece is narrower, metres (common practice, no published source)."""


class LaidPiece(NamedTuple):
    """A unit as it is laid, whole or cut: how long it is along the pattern and across, metres, if whole; its shape in
    the pattern's own frame, its share of the whole unit, and where the near corner of the whole one is."""

    sides: Sides
    shape: BaseGeometry
    share: float
    near: Point = (0.0, 0.0)

    @property
    def is_whole(self) -> bool:
        return self.share >= 1.0

    @property
    def is_sliver(self) -> bool:
        """Whether it is cut too small to stay; a whole unit is what it is."""
        return not self.is_whole and bool(are_slivers(np.array([self.share]), extents([self.shape]))[0])


def extents(shapes: Sequence[BaseGeometry] | NDArray[np.object_]) -> Floats:
    """How far shapes reach along the pattern and across it (n, 2), metres."""
    bounds = shapely.bounds(np.asarray(shapes, dtype=object)).reshape(-1, 4)
    return np.asarray(bounds[:, 2:] - bounds[:, :2])


def are_slivers(shares: Floats, reach: Floats) -> NDArray[np.bool_]:
    """Which pieces are too small to stay: under a third of their unit, or too narrow along or across."""
    return np.asarray((shares < SLIVER - 1e-9) | (reach.min(axis=1, initial=np.inf) < NARROWEST - 1e-9))


@dataclass(frozen=True)
class Start:
    """Where a pattern begins: the near corner of its cell, and how far it is turned, radians to the left."""

    at: Point = (0.0, 0.0)
    turned: float = 0.0


class LaidUnits(NamedTuple):
    """The units of one size that lie one way, in the pattern's own frame, metres: the near corners of the `whole`
    ones (n, 2); the pieces `cut` (m,), each `of` which unit by its near corner (m, 2)."""

    sides: Sides
    whole: Floats
    cut: NDArray[np.object_]
    of: Floats

    @property
    def full(self) -> float:
        """The face of a whole unit, m²."""
        return self.sides[0] * self.sides[1]

    @property
    def shares(self) -> Floats:
        """What each cut piece is of its unit (m,)."""
        return np.asarray(shapely.area(self.cut) / self.full)


def boxes(near: Floats, sides: Sides) -> NDArray[np.object_]:
    """Whole units by their near corners (n, 2)."""
    return np.asarray(shapely.box(near[:, 0], near[:, 1], near[:, 0] + sides[0], near[:, 1] + sides[1]))


@dataclass(frozen=True)
class PatternLaid:
    """A pattern laid over an area from a start, its units by size and by the way they lie."""

    area: Area
    pattern: PavingPattern
    unit: PavingUnit
    start: Start
    groups: tuple[LaidUnits, ...]

    @cached_property
    def pieces(self) -> tuple[LaidPiece, ...]:
        """Each by itself, of every group the whole ones first."""
        found: list[LaidPiece] = []
        for each in self.groups:
            whole = zip(boxes(each.whole, each.sides), each.whole.tolist(), strict=True)
            found += (LaidPiece(each.sides, box, 1.0, (x, y)) for box, (x, y) in whole)
            first = len(found)
            found += (self.cut_pieces[n] for n in range(first, first + len(each.cut)))
        return tuple(found)

    @cached_property
    def cut_pieces(self) -> dict[int, LaidPiece]:
        """Those that are cut, by their places among all pieces."""
        found, first = dict[int, LaidPiece](), 0
        for each in self.groups:
            first += len(each.whole)
            for part, share, (x, y) in zip(each.cut, each.shares.tolist(), each.of.tolist(), strict=True):
                found[first] = LaidPiece(each.sides, part, share, (x, y))
                first += 1
        return found

    @property
    def whole(self) -> int:
        return sum(len(each.whole) for each in self.groups)

    @property
    def cut(self) -> int:
        return sum(len(each.cut) for each in self.groups)

    @cached_property
    def slivers(self) -> int:
        """How many pieces are cut too small to stay."""
        return sum(int(are_slivers(each.shares, extents(each.cut)).sum()) for each in self.groups)

    @property
    def units(self) -> int:
        """How many units it takes, offcuts used where they fit."""
        return self.whole + units_of((each.sides, extents(each.cut), shapely.area(each.cut)) for each in self.groups)

    @cached_property
    def paved(self) -> float:
        """What the pieces cover, joints left out, m²."""
        return float(sum(len(each.whole) * each.full + shapely.area(each.cut).sum() for each in self.groups))

    def on_site(self, piece: LaidPiece) -> BaseGeometry:
        """The shape of a piece where it lies."""
        return from_frame(piece.shape, self.start)


def to_frame(shape: BaseGeometry, start: Start) -> BaseGeometry:
    """A shape as the pattern sees it, its start at nought."""
    moved = affinity.translate(shape, -start.at[0], -start.at[1])
    return affinity.rotate(moved, -start.turned, origin=(0, 0), use_radians=True) if start.turned else moved


def from_frame(shape: BaseGeometry, start: Start) -> BaseGeometry:
    turned = affinity.rotate(shape, start.turned, origin=(0, 0), use_radians=True) if start.turned else shape
    return affinity.translate(turned, *start.at)


def lay(area: Area, pattern: PavingPattern, unit: PavingUnit, start: Start = Start()) -> PatternLaid:
    """Every unit of a pattern over an area, whole or cut; a unit that an opening parts is as many pieces. Raises
    `ValueError` for a unit that cannot be laid so."""
    if why := pattern.wrong(unit):
        raise ValueError(why)
    framed = to_frame(area, start)
    shapely.prepare(framed)
    groups = []
    for sides, places in pattern.placed(unit, framed.bounds):
        found = parted(boxes(places, sides), framed, sides[0] * sides[1])
        groups.append(LaidUnits(sides, places[found.whole], found.cut, places[found.of]))
    return PatternLaid(area, pattern, unit, start, tuple(groups))


class Parted(NamedTuple):
    """Which units lie `whole` on an area, by their numbers, the pieces `cut` of others and which those are `of`."""

    whole: NDArray[np.int_]
    cut: NDArray[np.object_]
    of: NDArray[np.int_]


def parted(boxes: NDArray[np.object_], area: BaseGeometry, full: float, grid: float | None = GRID) -> Parted:
    """Units that lie whole on a prepared area, and the pieces of those that are cut, `full` m² each if whole. Without
    a `grid` it is three times as quick, and now and then wrong where edges all but lie on each other."""
    inside = shapely.covers(area, boxes)
    others = np.flatnonzero(~inside)
    edge = others[shapely.intersects(area, boxes[others])]
    parts, of = shapely.get_parts(shapely.intersection(boxes[edge], area, grid_size=grid), return_index=True)
    areas = shapely.area(parts)
    lacks_nothing = np.isin(np.arange(len(edge)), of[full - areas < LEAST_AREA])
    cut = (areas >= LEAST_AREA) & ~lacks_nothing[of]
    return Parted(
        np.concatenate([np.flatnonzero(inside), edge[lacks_nothing]]), np.asarray(parts[cut]), edge[of[cut]]
    )
