"""The best starts of a pattern over an area: no slivers, few cuts, few units."""

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from groundwork.pattern.clipped import clipped
from groundwork.pattern.layout import (
    LEAST_AREA,
    Area,
    PatternLaid,
    Start,
    are_slivers,
    extents,
    lay,
    parted,
    to_frame,
)
from groundwork.pattern.offcuts import units_of
from groundwork.pattern.patterns import PavingPattern
from groundwork.pattern.units import PavingUnit
from groundwork.surfaces import Floats, Point

FINE = 0.75
"""The area is sorted by squares this share of a unit's width: what lies well inside is whole without being cut."""


MOST_SQUARES = 1_000_000
MOST_UNITS = 200_000
"""Of so many units starts are compared: 4 000 m² of 200 × 100."""
OUTSIDE, INSIDE, MANY = -2, -1, -3
"""Squares by what of the area's edge is near: none, outside or inside; or more than one side of it."""
ALIKE = 0.2
"""Starts less than a fifth of a cell apart are one choice."""
Tell = Callable[[float], None]
"""Told the share of the work that is done."""


class Worth(NamedTuple):
    """What counts of a layout, in this order, the less the better."""

    slivers: int
    cuts: int
    units: int


@dataclass(frozen=True)
class Found:
    """A layout and what it is worth."""

    layout: PatternLaid

    @cached_property
    def worth(self) -> Worth:
        return Worth(self.layout.slivers, self.layout.cut, self.layout.units)


class Try(NamedTuple):
    """A pattern turned so far, begun at shares of its two steps."""

    turned: float
    one: float
    other: float

    def start(self, pattern: PavingPattern, unit: PavingUnit, at: Point) -> Start:
        one, other = pattern.cell(unit)
        shift = (self.one * one[0] + self.other * other[0], self.one * one[1] + self.other * other[1])
        x, y = _turned_by(shift, self.turned)
        return Start((at[0] + float(x), at[1] + float(y)), self.turned)

    def is_like(self, other: "Try") -> bool:
        """Whether it looks alike: begun less than a fifth of a cell apart."""
        if self.turned != other.turned:
            return False
        apart = (abs(a - b) % 1.0 for a, b in zip(self[1:], other[1:], strict=True))
        return max(min(share, 1 - share) for share in apart) < ALIKE - 1e-9


def tries(turns: Sequence[float], steps: int) -> Iterator[Try]:
    """All that is tried, `steps` over one cell each way, the plain one first."""
    for turned in turns:
        yield from (Try(turned, m / steps, n / steps) for m in range(steps) for n in range(steps))


def best_layouts(
    area: Area, pattern: PavingPattern, unit: PavingUnit, at: Point, turns: Sequence[float] = (0.0, math.pi / 2),
    steps: int = 10, number: int = 3, tell: Tell = lambda _share: None,
) -> tuple[Found, ...]:  # fmt: skip
    """The best of all starts tried, `steps` each way for each turn in radians, the best first; of the same worth the
    one tried first, so never worse than the plain start; beside it such as do not look alike. Raises `ValueError` for
    a unit that cannot be laid so."""
    if why := pattern.wrong(unit):
        raise ValueError(why)
    if area.area / unit.area > MOST_UNITS:
        raise ValueError("more units than starts are compared for")
    turned = {each: Turned(area, pattern, unit, each) for each in turns}
    every = list(tries(turns, steps))
    worth = []
    for n, each in enumerate(every):
        worth.append((turned[each.turned].worth(each.start(pattern, unit, at)), n))
        if n % 20 == 0:
            tell(n / len(every))

    def laid(each: Try) -> Found:
        return Found(lay(area, pattern, unit, each.start(pattern, unit, at)))

    # Looked at quickly; the first of them, and the plain start, are laid exactly.
    order = [every[n] for _worth, n in sorted(worth)]
    likely = {each: laid(each) for each in dict.fromkeys((*order[:1], every[0]))}
    best = min(likely, key=lambda each: likely[each].worth)
    taken = [best]
    for each in order:
        if len(taken) < number and not any(each.is_like(other) for other in taken):
            taken.append(each)
    beside = [likely.get(each) or laid(each) for each in taken[1:]]
    return (likely[best], *sorted(beside, key=lambda each: each.worth))


class Turned:
    """An area as a pattern turned one way sees it, sorted into what lies well inside and what may be cut."""

    def __init__(self, area: Area, pattern: PavingPattern, unit: PavingUnit, turned: float) -> None:
        self.pattern, self.unit = pattern, unit
        self.area: Area = to_frame(area, Start((0.0, 0.0), turned))  # type: ignore[assignment]
        self.turned = turned
        x0, y0, x1, y1 = self.area.bounds
        self.fine = max(unit.width * FINE, math.sqrt((x1 - x0) * (y1 - y0) / MOST_SQUARES))
        self.margin = 2 * self.fine + pattern.reach(unit)
        self.low = np.array(self.area.bounds[:2]) - self.margin
        self.edges = _edges(self.area)
        lengths = np.hypot(*(self.edges[:, 1] - self.edges[:, 0]).T)
        self.ways = (self.edges[:, 1] - self.edges[:, 0]) / lengths[:, None]
        self.squares = self._sorted()

    def _sorted(self) -> NDArray[np.int_]:
        """By squares from the lower left, (across, up): what of the edge a unit with its middle there may meet."""
        high = np.array(self.area.bounds[2:]) + self.margin
        across, up = (np.arange(low, top, self.fine) + self.fine / 2 for low, top in zip(self.low, high, strict=True))
        x, y = np.meshgrid(across, up, indexing="ij")
        middles = np.asarray(shapely.points(x.ravel(), y.ravel()))
        reach = self.pattern.reach(self.unit) / 2 + self.fine
        found = np.full(len(middles), OUTSIDE)
        shapely.prepare(self.area)
        found[shapely.contains_properly(self.area, middles)] = INSIDE
        lines = shapely.linestrings(self.edges)
        edge, square = shapely.STRtree(middles).query(lines, predicate="dwithin", distance=reach)
        found[square] = edge
        found[np.flatnonzero(np.bincount(square, minlength=len(middles)) > 1)] = MANY
        return found.reshape(len(across), len(up))

    def worth(self, start: Start) -> Worth:
        """What a start is worth: what its layout comes to, but for what is missed in plain floating point."""
        whole = slivers = cuts = 0
        pieces = []
        shift = _turned_by(start.at, -self.turned)
        x0, y0, x1, y1 = self.area.bounds
        bounds = x0 - shift[0], y0 - shift[1], x1 - shift[0], y1 - shift[1]
        for sides, places in self.pattern.placed(self.unit, bounds):
            near, full = places + shift, sides[0] * sides[1]
            squares = ((near + (np.array(sides) / 2 - self.low)) * (1 / self.fine)).astype(int)
            what = self.squares.take(squares[:, 0] * self.squares.shape[1] + squares[:, 1], mode="clip")
            by_one, by_many = np.flatnonzero(what >= 0), np.flatnonzero(what == MANY)
            edge = what[by_one]
            areas, reach = clipped(near[by_one], sides, self.edges[edge, 0], self.ways[edge])
            more, areas, reach = self._by_many(near[by_many], sides, areas, reach)
            is_whole, is_cut = full - areas < LEAST_AREA, areas >= LEAST_AREA
            is_cut &= ~is_whole
            whole += int((what == INSIDE).sum() + is_whole.sum()) + more
            cuts += int(is_cut.sum())
            slivers += int(are_slivers(areas[is_cut] / full, reach[is_cut]).sum())
            pieces.append((sides, reach[is_cut], areas[is_cut]))
        return Worth(slivers, cuts, whole + units_of(pieces))

    def _by_many(
        self, near: Floats, sides: tuple[float, float], areas: Floats, reach: Floats
    ) -> tuple[int, Floats, Floats]:
        """How many of those at a corner are whole, and what stays of the others, after what is known."""
        boxes = shapely.box(near[:, 0], near[:, 1], near[:, 0] + sides[0], near[:, 1] + sides[1])
        found = parted(boxes, self.area, sides[0] * sides[1], None)
        areas = np.concatenate([areas, shapely.area(found.cut)])
        return len(found.whole), areas, np.concatenate([reach, extents(found.cut)])


def _edges(area: Area) -> Floats:
    """The straight sides of an area and its holes, (n, 2, 2), the area to the left of each."""
    sides = []
    for part in shapely.get_parts(area):
        whole = shapely.geometry.polygon.orient(part)
        for ring in (whole.exterior, *whole.interiors):
            at = shapely.get_coordinates(ring)
            sides.append(np.stack([at[:-1], at[1:]], axis=1))
    found = np.concatenate(sides)
    return np.asarray(found[np.hypot(*(found[:, 1] - found[:, 0]).T) > 0])


def _turned_by(at: Point, radians: float) -> Floats:
    cos, sin = math.cos(radians), math.sin(radians)
    return np.array([cos * at[0] - sin * at[1], sin * at[0] + cos * at[1]])
