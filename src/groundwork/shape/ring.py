"""Closed lines of straight sides and arcs, kept as what they are: their areas and lengths are the curves' own.

An arc is given by its bulge, the tangent of a quarter of the angle it turns through; a positive one turns to the left
from its first corner to its second, and stands out of a ring that goes round to the left.
"""

import math
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import shapely

from groundwork.plan import FARTHEST, LARGEST, MOST_CORNERS, SMALLEST, OutlineError, at_fault
from groundwork.surfaces import Point

SAGITTA = 0.001
"""A curve is followed by straight pieces no further from it than this, metres."""
MOST_PIECES = 20_000
"""A circle of the largest area there is takes a thousand; more is a slip, and would fill the memory."""
FLAT = 1e-7
"""A bulge smaller than this is none."""
KINK = 0.002
"""Radians: two headings that differ by less, a tenth of a degree, are one."""
FACETED = math.radians(45)
"""Where planes are laid along a curve, a straight piece turns by no more than this."""
ROUNDEST = math.tan(math.radians(340) / 4)
"""An arc turns through no more than this: what is nearly all of a circle is a circle, or a slip."""


@dataclass(frozen=True)
class Arc:
    """Round a `centre` with a `radius`, metres, from the angle `start`, radians from east, through `turn`, positive
    to the left."""

    centre: Point
    radius: float
    start: float
    turn: float

    @property
    def length(self) -> float:
        return self.radius * abs(self.turn)

    @property
    def rise(self) -> float:
        """How far it stands from the middle of its chord."""
        return self.radius * (1 - math.cos(self.turn / 2))

    def at(self, share: float, radius: float | None = None) -> Point:
        """The place a share of the way along it, or on another `radius` there."""
        angle, out = self.start + share * self.turn, self.radius if radius is None else radius
        return self.centre[0] + out * math.cos(angle), self.centre[1] + out * math.sin(angle)

    @property
    def pieces(self) -> int:
        """How many straight pieces follow it within `SAGITTA`; four at least."""
        step = 2 * math.acos(max(1 - SAGITTA / self.radius, -1.0))
        return max(4, math.ceil(abs(self.turn) / step - 1e-9))


def bulge_by_rise(chord: float, rise: float) -> float:
    """The bulge of an arc that stands `rise` out of the middle of its chord."""
    return 2 * rise / chord


def bulge_by_radius(chord: float, radius: float, *, long_way: bool = False) -> float:
    """The bulge of an arc by its radius, negative for one that stands in; the shorter of the two that a chord has, or
    the longer. Raises `OutlineError` where the chord is longer than the circle is wide."""
    if abs(radius) < chord / 2 - 1e-9:
        raise OutlineError(
            "a radius of {radius} spans no side of {chord}: at least half of it",
            distances={"radius": abs(radius), "chord": chord},
        )
    half = math.asin(min(chord / 2 / abs(radius), 1.0))
    return math.copysign(math.tan((math.pi - half if long_way else half) / 2), radius)


def bulge_through(start: Point, middle: Point, end: Point) -> float:
    """The bulge of the arc from `start` to `end` through `middle`: 0 where they lie in a line. Raises `OutlineError`
    where two of them are one place, or the middle lies on the line beyond the ends."""
    one, other = _way(middle, start), _way(middle, end)
    if min(abs(one), abs(other), abs(_way(start, end))) < 1e-9:
        raise OutlineError("an arc goes through three places: two of them are one place")
    # The angle at the middle is half of what is left of the circle (Euclid III.20).
    seen = math.atan2((one.conjugate() * other).imag, (one.conjugate() * other).real)
    if abs(seen) < 1e-9:
        raise OutlineError("the middle of an arc lies between its ends: here it lies beyond them")
    return math.copysign(math.tan((math.pi - abs(seen)) / 2), -seen) if abs(abs(seen) - math.pi) > FLAT else 0.0


def _way(start: Point, end: Point) -> complex:
    return complex(end[0] - start[0], end[1] - start[1])


@dataclass(frozen=True)
class Ring:
    """A closed line round `corners`; `bulges` are its sides', the side from each corner to the next, or none where
    all are straight."""

    corners: tuple[Point, ...]
    bulges: tuple[float, ...] = ()

    @property
    def curves(self) -> tuple[float, ...]:
        """A bulge for every side."""
        return self.bulges or (0.0,) * len(self.corners)

    @property
    def is_straight(self) -> bool:
        return all(abs(bulge) < FLAT for bulge in self.bulges)

    def ends(self, side: int) -> tuple[Point, Point]:
        return self.corners[side], self.corners[(side + 1) % len(self.corners)]

    def arc(self, side: int) -> Arc | None:
        """The arc a side is; None where it is straight."""
        if abs(bulge := self.curves[side]) < FLAT:
            return None
        start, end = self.ends(side)
        chord = _way(start, end)
        turn = 4 * math.atan(bulge)
        radius = abs(chord) * (1 + bulge * bulge) / (4 * abs(bulge))
        # From the middle of the chord to the left of it, where the arc turns to the left by less than half a circle.
        aside = chord * 1j * (1 - bulge * bulge) / (4 * bulge)
        centre = complex(*start) + chord / 2 + aside
        first = complex(*start) - centre
        return Arc((centre.real, centre.imag), radius, math.atan2(first.imag, first.real), turn)

    def side_length(self, side: int) -> float:
        """The length of a side along itself, metres."""
        arc = self.arc(side)
        return arc.length if arc else math.dist(*self.ends(side))

    def at(self, side: int, share: float) -> Point:
        """The place a share of the way along a side."""
        start, end = self.ends(side)
        arc = self.arc(side)
        if arc:
            return arc.at(share)
        return start[0] + share * (end[0] - start[0]), start[1] + share * (end[1] - start[1])

    def middle(self, side: int) -> Point:
        """The place half way along a side."""
        return self.at(side, 0.5)

    def along(self, side: int) -> tuple[Point, ...]:
        """A side as straight pieces from end to end, no further from it than `SAGITTA`."""
        start, end = self.ends(side)
        arc = self.arc(side)
        between = [arc.at(n / arc.pieces) for n in range(1, arc.pieces)] if arc else []
        return start, *between, end

    def along_arcs(self, spacing: float) -> tuple[Point, ...]:
        """Places along the arcs between their corners, no further apart than `spacing` or an eighth of a circle."""
        found: list[Point] = []
        for side in range(len(self.corners)):
            if arc := self.arc(side):
                count = math.ceil(max(arc.length / spacing, abs(arc.turn) / FACETED) - 1e-9)
                found += [arc.at(n / count) for n in range(1, count)]
        return tuple(found)

    @cached_property
    def area(self) -> float:
        """m², positive where it goes round to the left: the corners' polygon and the segments over its arcs."""
        corners = (*self.corners, self.corners[0])
        straight = math.fsum(x0 * y1 - x1 * y0 for (x0, y0), (x1, y1) in pairwise(corners)) / 2
        return straight + math.fsum(self._segment(side) for side in range(len(self.corners)))

    def _segment(self, side: int) -> float:
        arc = self.arc(side)
        return arc.radius**2 * (arc.turn - math.sin(arc.turn)) / 2 if arc else 0.0

    @cached_property
    def length(self) -> float:
        """All the way round, metres."""
        return math.fsum(self.side_length(side) for side in range(len(self.corners)))

    @property
    def counter_clockwise(self) -> "Ring":
        """The same line, going round to the left from the same first corner."""
        if self.area >= 0:
            return self
        first, *others = self.corners
        return Ring((first, *reversed(others)), tuple(-bulge for bulge in reversed(self.curves)))

    @cached_property
    def flat(self) -> tuple[Point, ...]:
        """Straight pieces with their ends on the line itself, for drawings and files that know no arcs."""
        return tuple(place for side in range(len(self.corners)) for place in self.along(side)[:-1])

    @cached_property
    def polygon(self) -> shapely.Polygon:
        """What is reckoned with: within `SAGITTA` of the line, and of exactly its area."""
        return shapely.Polygon([place for side in range(len(self.corners)) for place in self._worked(side)])

    def _worked(self, side: int) -> Iterator[Point]:
        """A side's first corner, and places just outside its arc, so that it encloses what the arc does."""
        yield self.corners[side]
        if arc := self.arc(side):
            count = arc.pieces
            step = arc.turn / count
            half, wanted = math.sin(abs(step)) / 2, arc.radius**2 * abs(arc.turn) / 2
            # Two triangles reach from the ends on the arc, the others lie between places further out.
            inner, ends = (count - 2) * half, half * arc.radius
            radius = (math.sqrt(ends * ends + inner * wanted) - ends) / inner
            for n in range(1, count):
                yield arc.at(n / count, radius)

    @cached_property
    def cover(self) -> tuple[Point, ...]:
        """Few straight pieces that enclose it, for planes to be laid by: along the tangents of arcs that stand out,
        along the chords of those that stand in."""
        if self.is_straight:
            return self.corners
        found: list[Point] = []
        for side, corner in enumerate(self.corners):
            found.append(corner)
            if arc := self.arc(side):
                count = max(2, math.ceil(abs(arc.turn) / FACETED))
                step = abs(arc.turn) / count
                if arc.turn > 0:
                    found += [arc.at((n + 0.5) / count, arc.radius / math.cos(step / 2)) for n in range(count)]
                else:
                    found += [arc.at(n / count) for n in range(1, count)]
        if (cover := shapely.Polygon(found)).is_valid and cover.covers(self.polygon.buffer(-SAGITTA)):
            return tuple(found)
        # Tangents that run into a neighbouring side: all round instead, as a band would lie.
        around = [
            (float(x), float(y)) for x, y in shapely.get_coordinates(shapely.MultiPoint(found).convex_hull)[:-1]
        ]
        return tuple(around if shapely.LinearRing(around).is_ccw else reversed(around))

    @property
    def pieces(self) -> int:
        """How many straight pieces follow it, without making them."""
        arcs = (self.arc(side) for side in range(len(self.corners)))
        return sum(arc.pieces if arc else 1 for arc in arcs)

    def checked(self, least: float = SMALLEST, most: float = LARGEST) -> "Ring":
        """The ring going round to the left. Raises `OutlineError` for what is no plain shape of between `least` and
        `most` m²."""
        if any(not math.isfinite(x) or abs(x) > FARTHEST for corner in self.corners for x in corner):
            raise OutlineError(
                "a corner lies further out than {most}, or has no finite place", distances={"most": FARTHEST}
            )
        if self.bulges and len(self.bulges) != len(self.corners):
            raise OutlineError("bulges are as many as corners, one a side; none for straight sides")
        if len(self.corners) > MOST_CORNERS:
            raise OutlineError("more than {most} corners: {number}", most=MOST_CORNERS, number=len(self.corners))
        for side, bulge in enumerate(self.bulges):
            if not math.isfinite(bulge):
                raise OutlineError("the bulge of side {side} is no finite number", side=side + 1)
            if abs(bulge) > ROUNDEST:
                raise OutlineError("side {side} is nearly all of a circle: give it as two arcs", side=side + 1)
        sides = range(len(self.corners))
        if len(self.corners) < 2 or any(math.dist(*self.ends(side)) < 2e-5 for side in sides):
            raise OutlineError("an outline encloses something: two corners are one place, or there is only one")
        if self.pieces > MOST_PIECES:
            raise OutlineError("its curves are longer than any paved area's")
        if len(self.flat) < 3 or (len(self.corners) == 2 and abs(self.area) < 1e-9):
            raise OutlineError("an outline encloses something: this one goes there and back")
        for shape in (shapely.Polygon(self.flat), self.polygon):
            if not shape.is_valid:
                raise OutlineError("the outline crosses or touches itself: {where}", where=at_fault(shape))
        if not least <= abs(self.area) <= most:
            raise OutlineError(
                "{area} is no paved area: between {least} and {most}",
                areas={"area": abs(self.area), "least": least, "most": most},
            )
        return self.counter_clockwise


def circle(centre: Point, radius: float) -> Ring:
    """A circle as two halves, its corners east and west of the centre."""
    x, y = centre
    return Ring(((x + radius, y), (x - radius, y)), (1.0, 1.0))


def smoothed(ring: Ring, sides: Collection[int]) -> Ring:
    """The ring with some of its sides, each run of them a line without a kink through its corners: between two of
    them one arc or two, which leave and arrive as the circle through each corner and its two neighbours does (biarcs;
    any text on curves). A run of one side is none. Raises `OutlineError`."""
    places, count = [complex(*corner) for corner in ring.corners], len(ring.corners)
    headings: dict[int, complex] = {}
    for n in range(count):
        if {n, (n - 1) % count} <= set(sides):
            headings[n] = _heading(places[n - 1], places[n], places[(n + 1) % count])
    corners: list[complex] = []
    bulges: list[float] = []
    for n, start in enumerate(places):
        corners.append(start)
        if n not in sides:
            bulges.append(ring.curves[n])
            continue
        after = (n + 1) % count
        end = places[after]
        leaves, arrives = _both(headings.get(n), headings.get(after), (end - start) / abs(end - start))
        if abs(arrives - _as_one_arc(leaves, (end - start) / abs(end - start))) < KINK:
            bulges.append(_leaving(start, leaves, end))
            continue
        joint = _joint(start, leaves, end, arrives)
        corners.append(joint)
        bulges += [_leaving(start, leaves, joint), -_leaving(end, -arrives, joint)]
    return Ring(tuple((c.real, c.imag) for c in corners), tuple(bulges))


def smooth(points: Sequence[Point]) -> Ring:
    """A closed line through three points or more, without a kink."""
    return smoothed(Ring(tuple(points)), range(len(points)))


def _both(leaves: complex | None, arrives: complex | None, chord: complex) -> tuple[complex, complex]:
    """The headings at both ends of a side; where a run begins or ends nothing says how: as one arc has it."""
    if leaves is not None and arrives is not None:
        return leaves, arrives
    if leaves is not None:
        return leaves, _as_one_arc(leaves, chord)
    if arrives is not None:
        return _as_one_arc(arrives, chord), arrives
    raise OutlineError("a smooth line goes through three corners at least: two sides, one behind the other")


def _as_one_arc(heading: complex, chord: complex) -> complex:
    """The heading at one end of an arc, of that at the other."""
    return chord * chord * heading.conjugate()


def _heading(before: complex, here: complex, after: complex) -> complex:
    """The way, of length one, in which the circle through three points goes through the middle one: the chords to it
    and from it, each weighed by the other's length squared."""
    comes, goes = here - before, after - here
    way = comes / abs(comes) ** 2 + goes / abs(goes) ** 2
    return way / abs(way) if abs(way) > 1e-12 else 1j * comes / abs(comes)


def _joint(start: complex, leaves: complex, end: complex, arrives: complex) -> complex:
    """Where two arcs of as long tangents meet without a kink."""
    chord, both = end - start, leaves + arrives
    dot = (chord.conjugate() * both).real
    bend = 2 * (1 - (leaves.conjugate() * arrives).real)
    square = abs(chord) ** 2
    if bend < 1e-9:
        along = (chord.conjugate() * arrives).real
        reach = square / (4 * along) if abs(along) > 1e-9 else abs(chord) / 4
    else:
        reach = (math.sqrt(dot * dot + bend * square) - dot) / bend
    return (start + end + reach * (leaves - arrives)) / 2


def _leaving(start: complex, heading: complex, end: complex) -> float:
    """The bulge of the arc that leaves a place along a heading and ends at another: it turns through twice the angle
    between the heading and the chord."""
    turned = (heading.conjugate() * (end - start)) / abs(end - start)
    return math.tan(math.atan2(turned.imag, turned.real) / 2)
