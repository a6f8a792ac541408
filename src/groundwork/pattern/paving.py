"""An area paved: its border and its field, every piece with the row it lies in, as one sees them from the string."""

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from groundwork.pattern.borders import Border, bordered
from groundwork.pattern.layout import (
    Area,
    LaidPiece,
    PatternLaid,
    Start,
    are_slivers,
    extents,
    from_frame,
    lay,
    to_frame,
)
from groundwork.pattern.offcuts import units_of
from groundwork.pattern.patterns import PavingPattern
from groundwork.pattern.pieces import CLOSE, PavingPiece, by_way, two_alike
from groundwork.pattern.placed import Sides
from groundwork.pattern.units import PavingUnit
from groundwork.surfaces import Floats, Point


@dataclass(frozen=True)
class PavingDesign:
    """How an area is to be paved: a pattern of a unit and its border; from a string along a side of the area, from
    `at` along `along`, radians, the area to its left; the pattern turned by `turned` against it, radians to the left,
    and begun `over` along the side and `ahead` of it, metres."""

    pattern: PavingPattern
    unit: PavingUnit
    border: Border
    at: Point
    along: float
    turned: float = 0.0
    over: float = 0.0
    ahead: float = 0.0

    @property
    def start(self) -> Start:
        cos, sin = math.cos(self.along), math.sin(self.along)
        x = self.at[0] + cos * self.over - sin * self.ahead
        y = self.at[1] + sin * self.over + cos * self.ahead
        return Start((x, y), self.along + self.turned)

    @property
    def pitch(self) -> float:
        """How far rows lie apart, metres."""
        return self.pattern.pitch(self.unit, self.turned)

    @property
    def has_rows(self) -> bool:
        """Whether rows can be taped from the string."""
        return self.pattern.has_rows(self.unit, self.turned)

    @property
    def widest_joint(self) -> float:
        """Joints at the ends of units or beside them, metres: whichever is wider."""
        return max(self.unit.joint, self.pattern.end_joint(self.unit))

    @property
    def string_row(self) -> int:
        """The first row whose near face lies on the field beside the string's side, counted from the start."""
        return math.ceil((self.border.breadth(self.unit) - self.ahead) / self.pitch - CLOSE)

    @property
    def string(self) -> float:
        """How far from its side the string lies, metres."""
        return self.ahead + self.string_row * self.pitch

    def begun(self, start: Start) -> "PavingDesign":
        """The same begun elsewhere, turned so."""
        x, y = start.at[0] - self.at[0], start.at[1] - self.at[1]
        cos, sin = math.cos(self.along), math.sin(self.along)
        return replace(self, turned=start.turned - self.along, over=cos * x + sin * y, ahead=cos * y - sin * x)


class PavingRow(NamedTuple):
    """A row as one sees it from the string: where it begins and ends along it, metres from where the side begins."""

    number: int
    low: float
    high: float

    def places(self) -> tuple[float, float, float]:
        """Where it is taped: left, middle and right."""
        inset = min(INSET, (self.high - self.low) / 4)
        return self.low + inset, (self.low + self.high) / 2, self.high - inset


class _Field(NamedTuple):
    """The pieces of a field as seen from the string, in the order of `PatternLaid.pieces`, (n,): their rows from the
    start; how far they reach along the string; which are cut, and which of those are too small to stay. They are
    named in `order`, each the `nth` of its row."""

    rows: NDArray[np.int_]
    low: Floats
    high: Floats
    cut: NDArray[np.bool_]
    small: NDArray[np.bool_]
    order: NDArray[np.int_]
    nth: NDArray[np.int_]


INSET = 0.15
"""A row is taped so far from its ends, metres (common practice, no published source)."""


@dataclass(frozen=True)
class Paving:
    """An area paved to a design; of the pieces named in `shared` each and the whole unit beside it are two alike."""

    area: shapely.Polygon
    design: PavingDesign
    shared: frozenset[str] = frozenset()
    known: PatternLaid | None = field(default=None, compare=False, repr=False)
    """The pattern over the field, where it was laid so already."""

    @cached_property
    def border(self) -> tuple[LaidPiece, ...]:
        """Units of the border, where they lie on site. Raises `ValueError` where it leaves nothing."""
        return bordered(self.area, self.design.unit, self.design.border)[0]

    @cached_property
    def field(self) -> Area:
        """What the pattern covers. Raises `ValueError` where a border leaves nothing."""
        return bordered(self.area, self.design.unit, self.design.border)[1]

    @cached_property
    def laid(self) -> PatternLaid:
        """The pattern over the field."""
        return self.known or lay(self.field, self.design.pattern, self.design.unit, self.design.start)

    @property
    def _frame(self) -> Start:
        return Start(self.design.at, self.design.along)

    @cached_property
    def seen(self) -> BaseGeometry:
        """The field as one sees it from the string: its side along the first axis, metres from where that begins."""
        return to_frame(self.field, self._frame)

    @cached_property
    def pieces(self) -> dict[str, PavingPiece]:
        """Every piece by name, row by row, in a row from the left; the border last."""
        named = self._named(self._of_the_field.order, dict(enumerate(self.laid.pieces))) | self._bordering
        return self._shared_out(named) if self.shared else named

    def _named(self, which: NDArray[np.int_], pieces: Mapping[int, LaidPiece]) -> dict[str, PavingPiece]:
        """Those pieces of the field by name."""
        there, frame = self._of_the_field, Start((self.design.over, self.design.ahead), self.design.turned)
        laid = [pieces[n] for n in which.tolist()]
        shapes = _all_from(frame, [piece.shape for piece in laid])
        boxed, cut = shapes.copy(), np.flatnonzero(there.cut[which])
        boxed[cut] = _all_from(frame, [_box(laid[n]) for n in cut.tolist()])
        rows, nth = (there.rows[which] - self._lowest + 1).tolist(), there.nth[which].tolist()
        small = there.small[which].tolist()
        found = {}
        for row, n, piece, shape, box, is_small in zip(rows, nth, laid, shapes, boxed, small, strict=True):
            name = f"{row}.{n}"
            found[name] = PavingPiece(name, row, piece, shape, box, is_small)
        return found

    @cached_property
    def _lowest(self) -> int:
        """The row nearest the edge, counted from the start."""
        return int(self._of_the_field.rows.min()) if len(self._of_the_field.rows) else 0

    @cached_property
    def _of_the_field(self) -> _Field:
        """Reckoned many at once: of ten thousand units a few hundred are cut."""
        design = self.design
        frame = Start((design.over, design.ahead), design.turned)
        cos, sin = math.cos(design.turned), math.sin(design.turned)
        parts: list[tuple[Any, ...]] = [
            (np.zeros((0, 2)), np.zeros((0, 2)), np.zeros(0), np.zeros(0, bool), np.zeros(0, bool))
        ]
        for each in self.laid.groups:
            half = np.array(each.sides) / 2
            reach = np.abs(np.array([[cos, sin], [sin, cos]])) @ half
            middles = (np.concatenate([each.whole, each.of]) + half) @ np.array([[cos, sin], [-sin, cos]]) + frame.at
            near, ends = middles[:, 1] - reach[1], middles[:, :1] + reach[0] * np.array([-1, 1])
            shapes, n = _all_from(frame, each.cut), len(each.whole)
            middles[n:] = shapely.get_coordinates(shapely.centroid(shapes))
            ends[n:] = shapely.bounds(shapes).reshape(-1, 4)[:, ::2]
            small = np.concatenate([np.zeros(n, bool), are_slivers(each.shares, extents(each.cut))])
            parts.append((middles, ends, near, np.arange(len(near)) >= n, small))
        middles, ends, near, cut, small = (np.concatenate(each) for each in zip(*parts, strict=True))
        rows = np.floor((near - design.ahead) / design.pitch + CLOSE).astype(int)
        order = np.lexsort((middles[:, 1], middles[:, 0], rows))
        _rows, starts, numbers = np.unique(rows[order], return_index=True, return_counts=True)
        nth = np.empty(len(rows), dtype=int)
        nth[order] = np.arange(len(rows)) - np.repeat(starts, numbers) + 1
        return _Field(rows, ends[:, 0], ends[:, 1], cut, small, order, nth)

    @property
    def bordering(self) -> dict[str, PavingPiece]:
        """The pieces of the border by name."""
        return {n: p for n, p in self.pieces.items() if not p.row} if self.shared else self._bordering

    @cached_property
    def _bordering(self) -> dict[str, PavingPiece]:
        shapes = _all_to(self._frame, [piece.shape for piece in self.border])
        return {
            f"E{n}": PavingPiece(f"E{n}", 0, piece, shape, shape, piece.is_sliver)
            for n, (piece, shape) in enumerate(zip(self.border, shapes, strict=True), 1)
        }

    @cached_property
    def first_row(self) -> int:
        """The row the string lies at: those before it are cut in behind."""
        rows = self._of_the_field.rows
        highest = int(rows.max()) if len(rows) else 0
        return min(max(self.design.string_row, self._lowest), highest) - self._lowest + 1

    @cached_property
    def rows(self) -> dict[int, PavingRow]:
        """Every row by its number."""
        there = self._of_the_field
        numbers, row = np.unique(there.rows, return_inverse=True)
        low, high = np.full(len(numbers), np.inf), np.full(len(numbers), -np.inf)
        np.minimum.at(low, row, there.low)
        np.maximum.at(high, row, there.high)
        ends = zip((numbers - self._lowest + 1).tolist(), low.tolist(), high.tolist(), strict=True)
        return {number: PavingRow(number, start, end) for number, start, end in ends}

    def far_face(self, row: int) -> float:
        """How far from the string the far face of a row should be, metres; before the string that is below nought."""
        return (row - self.first_row + 1) * self.design.pitch - self.design.unit.joint

    def to_the_edge(self, along: float) -> float | None:
        """From the string to where the field ends ahead of it, so far along, metres; None where it does not reach."""
        _x0, y0, _x1, y1 = self.seen.bounds
        line = shapely.LineString([(along, max(y0 - 1, self.design.string)), (along, y1 + 1)])
        met = shapely.get_parts(shapely.intersection(self.seen, line))
        reached = [part.bounds[3] - self.design.string for part in met if not part.is_empty]
        return max(reached) if reached else None

    @property
    def number(self) -> int:
        """How many pieces there are."""
        return len(self.border) + self.laid.whole + self.laid.cut

    @cached_property
    def whole(self) -> int:
        return sum(self._whole.values())

    @cached_property
    def _whole(self) -> Counter[Sides]:
        """How many whole ones by their sides."""
        if self.shared:
            return Counter(piece.laid.sides for piece in self.pieces.values() if piece.is_whole)
        found = Counter(piece.sides for piece in self.border if piece.is_whole)
        for each in self.laid.groups:
            found[each.sides] += len(each.whole)
        return found

    @cached_property
    def cut(self) -> tuple[PavingPiece, ...]:
        """Those cut, in the order of their names; found without the whole ones, which are many."""
        if self.shared:
            return tuple(piece for piece in self.pieces.values() if not piece.is_whole)
        there = self._of_the_field
        named = self._named(there.order[there.cut[there.order]], self.laid.cut_pieces)
        return tuple(piece for piece in (named | self._bordering).values() if not piece.is_whole)

    @cached_property
    def slivers(self) -> tuple[PavingPiece, ...]:
        return tuple(piece for piece in self.cut if piece.is_small)

    @cached_property
    def units(self) -> dict[Sides, int]:
        """Units to have by size, the long side first, metres: offcuts used where they fit."""
        found = Counter[Sides]()
        cut: dict[Sides, list[PavingPiece]] = {}
        for sides, number in self._whole.items():
            found[max(sides), min(sides)] += number
        for piece in self.cut:
            cut.setdefault((max(piece.laid.sides), min(piece.laid.sides)), []).append(piece)
        for size, pieces in cut.items():
            found[size] += units_of(by_way(pieces))
        return dict(sorted(found.items(), reverse=True))

    @cached_property
    def covered(self) -> float:
        """What the pieces cover, joints left out, m²."""
        whole = sum(sides[0] * sides[1] * number for sides, number in self._whole.items())
        return float(whole + shapely.area([piece.shape for piece in self.cut]).sum())

    @property
    def waste(self) -> float:
        """What becomes of no piece, as a share of what is bought."""
        bought = sum(long * wide * number for (long, wide), number in self.units.items())
        return 1 - self.covered / bought if bought else 0.0

    def _shared_out(self, named: dict[str, PavingPiece]) -> dict[str, PavingPiece]:
        for name in sorted(self.shared):
            both = two_alike(named, name, self.design.widest_joint) if name in named else None
            if both:
                named |= {piece.name: piece for piece in both}
        return named

    def on_site(self, shape: BaseGeometry) -> BaseGeometry:
        """A shape as seen from the string, where it lies."""
        return from_frame(shape, self._frame)

    def rings_on_site(self, shapes: Sequence[BaseGeometry]) -> list[Floats]:
        """The corners on site of shapes as seen from the string, (n, 2) each."""
        rings = shapely.get_exterior_ring(_all_from(self._frame, shapes))
        at, of = shapely.get_coordinates(rings, return_index=True)
        return [ring[:-1] for ring in np.split(at, np.flatnonzero(np.diff(of)) + 1)] if len(at) else []


def _box(piece: LaidPiece) -> BaseGeometry:
    if piece.is_whole:
        return piece.shape
    (x, y), (long, wide) = piece.near, piece.sides
    return shapely.box(x, y, x + long, y + wide)


def _all_from(frame: Start, shapes: Sequence[BaseGeometry] | NDArray[np.object_]) -> np.ndarray:
    """Many shapes out of a frame at once."""
    cos, sin = math.cos(frame.turned), math.sin(frame.turned)
    matrix = np.array([[cos, sin], [-sin, cos]])
    return np.asarray(
        shapely.transform(np.asarray(shapes, dtype=object), lambda at: at @ matrix + np.array(frame.at))
    )


def _all_to(frame: Start, shapes: list[BaseGeometry]) -> np.ndarray:
    """Many shapes into a frame at once."""
    cos, sin = math.cos(frame.turned), math.sin(frame.turned)
    matrix = np.array([[cos, -sin], [sin, cos]])
    return np.asarray(
        shapely.transform(np.asarray(shapes, dtype=object), lambda at: (at - np.array(frame.at)) @ matrix)
    )
