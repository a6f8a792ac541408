"""Border courses along an outline, unit by unit, their corners, and the field they leave."""

import math
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from itertools import pairwise

import numpy as np
import shapely
from shapely import affinity

from groundwork.pattern.layout import GRID, LEAST_AREA, SLIVER, Area, LaidPiece
from groundwork.pattern.units import PavingUnit
from groundwork.surfaces import Point

CORNER = math.radians(20)
"""Where an outline turns by less it goes on as a curve."""
ANGULAR = 8
"""An outline of so many corners or fewer has no curve in it."""
FAR = 1000.0
"""Metres: farther than any area reaches."""


class BorderCourse(StrEnum):
    """How units of a border lie."""

    NONE = "none"
    ACROSS = "across"
    """Ends to the edge: a soldier or header course."""
    ALONG = "along"
    """Sides to the edge: a sailor or stretcher course."""
    DOUBLE = "double"
    """Two courses, sides to the edge, half a unit apart."""


class BorderCorner(StrEnum):
    """What becomes of a border where sides meet."""

    MITRED = "mitred"
    BUTTED = "butted"
    """Every other side runs through."""
    TURNED = "turned"
    """Each side runs on to the outline, the next begins beside it."""


@dataclass(frozen=True)
class Border:
    """A border: its course, and its corners."""

    course: BorderCourse = BorderCourse.NONE
    corner: BorderCorner = BorderCorner.MITRED

    def rows(self, unit: PavingUnit) -> tuple[tuple[float, float, float], ...]:
        """Of every row of it: how far from the edge it begins, how long its units are along the edge, how broad it
        is, metres."""
        match self.course:
            case BorderCourse.ACROSS:
                return ((0.0, unit.width, unit.length),)
            case BorderCourse.ALONG:
                return ((0.0, unit.length, unit.width),)
            case BorderCourse.DOUBLE:
                return tuple((n * (unit.width + unit.joint), unit.length, unit.width) for n in (0, 1))
        return ()

    def breadth(self, unit: PavingUnit) -> float:
        """From the edge to the field, metres."""
        return sum(broad + unit.joint for _from, _long, broad in self.rows(unit))

    def field(self, area: shapely.Polygon, unit: PavingUnit) -> Area:
        """What is left for the pattern. Raises `ValueError` where that is nothing."""
        if self.course is BorderCourse.NONE:
            return area
        inner = shapely.Polygon(area.exterior).buffer(-self.breadth(unit), join_style="mitre", mitre_limit=10)
        field = inner.difference(shapely.MultiPolygon([shapely.Polygon(each) for each in area.interiors]))
        parts = [part for part in shapely.get_parts(field) if isinstance(part, shapely.Polygon) and part.area > 1e-4]
        if not parts:
            raise ValueError("no room is left inside such a border")
        return parts[0] if len(parts) == 1 else shapely.MultiPolygon(parts)


@dataclass(frozen=True)
class _Run:
    """A stretch of an outline without a corner, the area to its left; `closed` where it is all of it."""

    line: shapely.LineString
    closed: bool

    @property
    def start(self) -> tuple[Point, Point]:
        return self._way(0, 1)

    @property
    def end(self) -> tuple[Point, Point]:
        return self._way(-2, -1)

    def _way(self, one: int, other: int) -> tuple[Point, Point]:
        """An end of it, and its direction there."""
        (x0, y0), (x1, y1) = self.line.coords[one], self.line.coords[other]
        long = math.hypot(x1 - x0, y1 - y0)
        at = self.line.coords[0 if one == 0 else -1]
        return (at[0], at[1]), ((x1 - x0) / long, (y1 - y0) / long)


@lru_cache(maxsize=8)
def bordered(area: shapely.Polygon, unit: PavingUnit, border: Border) -> tuple[tuple[LaidPiece, ...], Area]:
    """The units of a border, and what is left for the pattern, however that is moved. Raises `ValueError` where that
    is nothing."""
    pieces, field = border_pieces(area, unit, border), border.field(area, unit)
    if not pieces or len(area.exterior.coords) <= ANGULAR:
        return pieces, field
    edge = shapely.union_all([piece.shape for piece in pieces])  # units on a curve stand on chords, further in
    cut = field.difference(edge.buffer(unit.joint, join_style="mitre"))
    parts = [part for part in shapely.get_parts(cut) if part.area > LEAST_AREA]
    if not parts:
        raise ValueError("no room is left inside such a border")
    return pieces, shapely.MultiPolygon(parts) if len(parts) != 1 else parts[0]


def border_pieces(area: shapely.Polygon, unit: PavingUnit, border: Border) -> tuple[LaidPiece, ...]:
    """The units of a border as they lie on site, whole and cut; those at corners as its corners have it."""
    runs = _runs(area)
    shapely.prepare(area)
    found: list[LaidPiece] = []
    for n, run in enumerate(runs):
        before, after = runs[n - 1], runs[(n + 1) % len(runs)]
        if not border.rows(unit):
            break
        room = _beside_others(_room(area, run, before, after, border, unit, n, len(runs)), found)
        for number, (off, long, broad) in enumerate(border.rows(unit)):
            found += _row(run, room, long, broad, off, unit.joint, half=number % 2 == 1)
    return tuple(found)


def _beside_others(
    room: shapely.geometry.base.BaseGeometry, laid: list[LaidPiece]
) -> shapely.geometry.base.BaseGeometry:  # fmt: skip
    """What of a room is left where an area is so narrow that borders of other sides lie in it already."""
    shapes = np.array([piece.shape for piece in laid], dtype=object)
    shared = shapes[shapely.area(shapely.intersection(shapes, room)) > LEAST_AREA] if len(shapes) else shapes
    return shapely.MultiPolygon(_polygons(room.difference(shapely.union_all(shared)))) if len(shared) else room


def _runs(area: shapely.Polygon) -> list[_Run]:
    ring = shapely.geometry.polygon.orient(area).exterior.simplify(0.0)
    points = list(ring.coords)[:-1]
    number = len(points)
    ways = [
        math.atan2(points[(n + 1) % number][1] - points[n][1], points[(n + 1) % number][0] - points[n][0])
        for n in range(number)
    ]
    turns = [(ways[n] - ways[n - 1] + math.pi) % (2 * math.pi) - math.pi for n in range(number)]
    corners = [n for n in range(number) if abs(turns[n]) > CORNER]
    if not corners:
        return [_Run(shapely.LineString([*points, points[0]]), True)]
    found = []
    for one, other in pairwise([*corners, corners[0] + number]):
        found.append(_Run(shapely.LineString([points[k % number] for k in range(one, other + 1)]), False))
    return found


def _left_of(at: Point, way: Point, by: float = 0.0) -> shapely.Polygon:
    """All that lies to the left of a line, or by so much farther, metres."""
    x, y = at[0] - way[1] * by, at[1] + way[0] * by
    ahead, aside = (way[0] * FAR, way[1] * FAR), (-way[1] * FAR, way[0] * FAR)
    corners = [
        (x - ahead[0], y - ahead[1]), (x + ahead[0], y + ahead[1]),
        (x + ahead[0] + aside[0], y + ahead[1] + aside[1]), (x - ahead[0] + aside[0], y - ahead[1] + aside[1]),
    ]  # fmt: skip
    return shapely.Polygon(corners)


def _back(way: Point) -> Point:
    return -way[0], -way[1]


def _room(
    area: shapely.Polygon, run: _Run, before: _Run, after: _Run, border: Border, unit: PavingUnit, n: int, number: int
) -> shapely.geometry.base.BaseGeometry:  # fmt: skip
    """Where units of a run may lie, from its corner to the next."""
    room: shapely.geometry.base.BaseGeometry = area
    if run.closed:
        return room
    through = border.breadth(unit)
    for is_start in (True, False):
        at, way = run.start if is_start else run.end
        other = before.end[1] if is_start else after.start[1]
        turn = way[0] * other[1] - way[1] * other[0]
        is_reflex = (turn > 0) if is_start else (turn < 0)
        if border.corner is BorderCorner.MITRED:
            # The bisector of the corner: as far from the one side as from the other.
            mid = (way[0] + other[0], way[1] + other[1])
            long = math.hypot(*mid)
            across = (-mid[1] / long, mid[0] / long) if long > 1e-9 else (-way[1], way[0])
            room = _within(room, _left_of(at, _back(across) if is_start else across))
        elif _runs_through(border.corner, n, number, is_start=is_start):
            if is_reflex:  # on to the inner face of the other's border
                room = _within(room, _left_of(at, _back(other), -through + unit.joint))
        elif is_reflex:  # beside the other, which runs on
            room = _within(room, _left_of(at, _back(other), unit.joint))
        else:
            room = _within(room, _left_of(at, other, through))
    return room


def _within(
    room: shapely.geometry.base.BaseGeometry, half: shapely.Polygon
) -> shapely.geometry.base.BaseGeometry:  # fmt: skip
    """The part of a room to one side of a line: polygons, without what is only touched."""
    return shapely.MultiPolygon(_polygons(room.intersection(half)))


def _polygons(shape: shapely.geometry.base.BaseGeometry) -> list[shapely.Polygon]:
    return [part for part in shapely.get_parts(shape) if isinstance(part, shapely.Polygon) and part.area > 0]


def _runs_through(corner: BorderCorner, n: int, number: int, *, is_start: bool) -> bool:
    """Whether the n-th of so many runs goes on at one of its ends: of an odd number the last ends at the first."""
    if corner is BorderCorner.TURNED or (n == number - 1 and number % 2 and not is_start):
        return corner is BorderCorner.TURNED and not is_start
    return n % 2 == 0


def _row(
    run: _Run, room: shapely.geometry.base.BaseGeometry, long: float, broad: float, off: float, joint: float, *,
    half: bool,
) -> Iterator[LaidPiece]:  # fmt: skip
    """One row of a run: as many units as go from the one end of its room to the other."""
    line, length = run.line, float(run.line.length)
    curve = _bend(run)
    off += long**2 * abs(curve) / 8 if off else 0.0  # clear of what stands on chords before it
    pitch = (long + joint) / (1 - (off + broad) * curve) if curve > 0 else (long + joint) / (1 - off * curve)
    if run.closed:
        number = max(math.floor(length / pitch), 1)
        pitch = length / number
        starts = np.arange(number) * pitch + (pitch / 2 if half else 0.0)
    else:
        beyond = 2 * (off + broad) + long
        low, high = _reach(line, room, length, beyond)
        number = math.ceil((high - low + joint) / pitch + 1e-9)
        starts = low + np.arange(-1 if half else 0, number) * pitch + (pitch / 2 if half else 0.0)
    boxes = np.array([_placed(line, float(start), long, broad, off, length, closed=run.closed) for start in starts])
    shapely.prepare(room)
    pieces: list[LaidPiece] = []
    for box, is_whole in zip(boxes, shapely.covers(room, boxes).tolist(), strict=True):
        if is_whole:
            pieces.append(LaidPiece((long, broad), box, 1.0))
            continue
        for part in shapely.get_parts(shapely.intersection(box, room, grid_size=GRID)):
            if isinstance(part, shapely.Polygon) and part.area >= LEAST_AREA:
                share = 1.0 if box.area - part.area < LEAST_AREA * 10 else float(part.area / box.area)
                pieces.append(LaidPiece((long, broad), box if share == 1.0 else part, share))
    yield from _shared_out(pieces, line, room, joint)


def _shared_out(
    pieces: list[LaidPiece], line: shapely.LineString, room: shapely.geometry.base.BaseGeometry, joint: float
) -> list[LaidPiece]:  # fmt: skip
    """The pieces of a row; where the last is too small, it and the one before it are two alike."""
    if len(line.coords) != 2 or len(pieces) < 2 or pieces[-1].share >= SLIVER - 1e-9 or not pieces[-2].is_whole:
        return pieces
    (x0, y0), (x1, y1) = line.coords
    turned = math.atan2(y1 - y0, x1 - x0)
    both = [affinity.rotate(piece.shape, -turned, origin=(x0, y0), use_radians=True) for piece in pieces[-2:]]
    low, high = both[0].bounds[0], both[1].bounds[2]
    middle = (low + high) / 2
    one, other = both[0].bounds[1], both[0].bounds[3]
    long, broad = pieces[-2].sides
    halves = []
    for left, right in ((low, middle - joint / 2), (middle + joint / 2, high)):
        box = affinity.rotate(shapely.box(left, one, right, other), turned, origin=(x0, y0), use_radians=True)
        parts = _polygons(shapely.intersection(box, room, grid_size=GRID))
        if not parts:
            return pieces
        part = max(parts, key=lambda each: each.area)
        halves.append(LaidPiece((long, broad), part, float(part.area / (long * broad))))
    return [*pieces[:-2], *halves]


def _bend(run: _Run) -> float:
    """How much a run bends to the left on the whole, 1/m."""
    at = np.array(run.line.coords)
    steps = np.diff(at, axis=0)
    ways = np.arctan2(steps[:, 1], steps[:, 0])
    if run.closed:
        return float(2 * math.pi / run.line.length)
    return float(((np.diff(ways) + math.pi) % (2 * math.pi) - math.pi).sum() / run.line.length)


def _reach(
    line: shapely.LineString, room: shapely.geometry.base.BaseGeometry, length: float, beyond: float
) -> tuple[float, float]:
    """From where to where along a run there is room beside it, metres from its start; before it and beyond it as its
    ends go on."""
    if room.is_empty:
        return 0.0, 0.0
    if len(line.coords) > 2:
        return 0.0, length
    (x0, y0), (x1, y1) = line.coords
    way = np.array([(x1 - x0) / length, (y1 - y0) / length])
    beside = room.intersection(
        affinity.rotate(
            shapely.box(x0 - beyond, y0 + 1e-6, x0 + length + beyond, y0 + beyond / 2),
            math.atan2(y1 - y0, x1 - x0), origin=(x0, y0), use_radians=True,
        )
    )  # fmt: skip
    parts = [part for part in shapely.get_parts(beside) if part.distance(line) < 1e-5 and part.area > 0]
    along = np.concatenate([shapely.get_coordinates(part) for part in parts] or [np.array([[x0, y0]])])
    at = (along - np.array([x0, y0])) @ way
    return float(at.min()), float(at.max())


def _placed(
    line: shapely.LineString, start: float, long: float, broad: float, off: float, length: float, *, closed: bool
) -> shapely.Polygon:  # fmt: skip
    """A whole unit beside a run, from `start` along it: straight on before and beyond it, on a chord of its curve."""
    x0, y0 = _at(line, start, length, closed)
    x1, y1 = _at(line, start + long, length, closed)
    turned = math.atan2(y1 - y0, x1 - x0)
    box = shapely.box(0.0, off, long, off + broad)
    return affinity.translate(affinity.rotate(box, turned, origin=(0, 0), use_radians=True), x0, y0)


def _at(line: shapely.LineString, along: float, length: float, closed: bool) -> Point:
    if closed:
        along %= length
    if 0 <= along <= length:
        at = line.interpolate(along)
        return at.x, at.y
    one, other = (line.coords[0], line.coords[1]) if along < 0 else (line.coords[-2], line.coords[-1])
    step = math.dist(one, other)
    beyond = along if along < 0 else along - length
    near = one if along < 0 else other
    return near[0] + (other[0] - one[0]) / step * beyond, near[1] + (other[1] - one[1]) / step * beyond
