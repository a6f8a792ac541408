"""Patterns as data: the units of a cell and the two translations that repeat it, one file a pattern in `data`."""

import json
import math
import tomllib
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cache, cached_property, lru_cache, partial
from importlib import resources
from typing import Any

import numpy as np

from groundwork.pattern.mixes import COURSES, FIELD, LONGEST, PERIOD, coursed, mixed
from groundwork.pattern.placed import Bounds, common_step, within
from groundwork.pattern.units import PavingUnit, Vector
from groundwork.surfaces import Floats

LEAST_ROW = 0.2
"""Lines nearer each other than this share of a unit's width are no rows."""
STRAIGHT, ENDS_APART = 1.5, 0.040
"""Metres: no straight joint of a random mix is longer, no ends of units of two courses nearer each other (common
practice, no published source)."""


@dataclass(frozen=True)
class CellUnit:
    """A unit's place in a cell, in modules; `turned` across; `size` in modules where it is one of several."""

    at: Vector
    turned: bool = False
    size: Vector | None = None


@dataclass(frozen=True)
class PavingPattern:
    """A pattern: its cell and how that repeats, counted in modules along and across: a `unit`'s own length and width
    with their joints, or both its `short` side's. `four_corners` where corners of four units meet by design; `wheels`
    where it locks in both directions; with `two_to_one` a unit's length with the joints it needs is two widths. Of a
    random one the longest `straight` joint in modules, or how far ends of units keep apart in the unit's length.
    `drawing` draws what is in the cell, of a random one the draw of a `seed`."""

    key: str
    title: str
    module: str
    drawing: Callable[[], tuple[CellUnit, ...]] = field(compare=False, repr=False)
    translations: tuple[Vector, Vector]
    four_corners: bool
    wheels: bool
    two_to_one: bool
    straight: int = 0
    ends_apart: float = 0.0
    seed: int = 1

    @cached_property
    def slots(self) -> tuple[CellUnit, ...]:
        """The units of a cell, drawn as they are first asked for: a mix takes a second."""
        return self.drawing()

    def step(self, unit: PavingUnit) -> Vector:
        """The modules along and across, metres."""
        across = unit.width + unit.joint
        return (across if self.module == "short" else unit.length + unit.joint), across

    def sides(self, slot: CellUnit, unit: PavingUnit) -> Vector:
        """How long and wide the unit in a place is, along and across the pattern, metres."""
        if slot.size is not None:
            along, across = self.step(unit)
            return slot.size[0] * along - unit.joint, slot.size[1] * across - unit.joint
        return (unit.width, unit.length) if slot.turned else (unit.length, unit.width)

    def cell(self, unit: PavingUnit) -> tuple[Vector, Vector]:
        """The two translations, metres."""
        along, across = self.step(unit)
        one, other = self.translations
        return (one[0] * along, one[1] * across), (other[0] * along, other[1] * across)

    def reach(self, unit: PavingUnit) -> float:
        """The longest diagonal of a unit as laid, metres."""
        return max(math.hypot(*self.sides(slot, unit)) for slot in self.slots)

    def placed(self, unit: PavingUnit, bounds: Bounds) -> Iterator[tuple[Vector, Floats]]:
        """For every size and way round the sides of units and the near corners (n, 2) of all that can meet `bounds`,
        metres."""
        step, (one, other) = np.array(self.step(unit)), map(np.array, self.cell(unit))
        basis = np.column_stack([one, other])
        x0, y0, x1, y1 = bounds
        by_sides: dict[Vector, list[Vector]] = {}
        for slot in self.slots:
            by_sides.setdefault(self.sides(slot, unit), []).append(slot.at)
        for sides, places in by_sides.items():
            at = np.array(places) * step
            box = np.array([(x, y) for x in (x0 - sides[0], x1) for y in (y0 - sides[1], y1)])
            low, high = (np.array([spot - corner for spot in box for corner in (at.min(axis=0), at.max(axis=0))])
                         @ np.linalg.inv(basis).T for _end in "ab")  # fmt: skip
            least, most = np.floor(low.min(axis=0)) - 1, np.ceil(high.max(axis=0)) + 1
            m, n = (np.arange(least[axis], most[axis] + 1) for axis in (0, 1))
            x, y = (at[:, None, None, axis] + m[:, None] * one[axis] + n * other[axis] for axis in (0, 1))
            yield sides, within(x, y, sides, bounds)

    def pitch(self, unit: PavingUnit, turned: float) -> float:
        """How far rows lie apart, seen from a string the pattern is `turned` against, radians to the left, metres;
        where its units form none on a line, as far as a unit is broad with its joint."""
        cos, sin = math.cos(turned), math.sin(turned)
        if self.straight or self.ends_apart:
            return self.step(unit)[1 if abs(cos) > abs(sin) else 0]
        found = common_step(tuple(sin * x + cos * y for x, y in self.cell(unit)))
        return found if found > unit.width * LEAST_ROW else unit.width + unit.joint

    def has_rows(self, unit: PavingUnit, turned: float) -> bool:
        """Whether faces of units, or their points, lie on lines along such a string: what is drawn by lot, or stands
        askew, has none."""
        cos, sin = math.cos(turned), math.sin(turned)
        if self.straight or self.ends_apart:
            return abs(cos * sin) < 1e-6
        return common_step(tuple(sin * x + cos * y for x, y in self.cell(unit))) > unit.width * LEAST_ROW

    def end_joint(self, unit: PavingUnit) -> float:
        """How wide joints at a unit's ends come out, metres."""
        return 2 * (unit.width + unit.joint) - unit.length if self.two_to_one else unit.joint

    def wrong(self, unit: PavingUnit) -> str:
        """Why such a unit cannot be laid so; nothing where it can."""
        if self.two_to_one and self.end_joint(unit) < 0:
            return "longer than two widths and their joints"
        if self.straight * (unit.width + unit.joint) > STRAIGHT + 1e-9:
            return "too large for a random mix: its straight joints would be too long"
        if self.ends_apart and self.ends_apart * (unit.length + unit.joint) < ENDS_APART - 1e-9:
            return "too short for courses of random lengths: ends of units would come too near each other"
        return ""


def _slot(row: dict[str, Any]) -> CellUnit:
    size = tuple(row["size"]) if "size" in row else None
    return CellUnit(tuple(row["at"]), row.get("turned", False), size)


def _mixed(key: str, rows: list[dict[str, Any]], seed: int) -> tuple[CellUnit, ...]:
    """The first draw, which every job begins with, is kept beside the pattern: `data/KEY.json`."""
    if seed == 1:
        text = resources.files("groundwork.pattern").joinpath("data", f"{key}.json").read_text("utf-8")
        return tuple(CellUnit((x, y), size=(w, h)) for x, y, w, h in json.loads(text))
    sizes, shares = [(row["long"], row["wide"]) for row in rows], [row["share"] for row in rows]
    return tuple(CellUnit((x, y), size=(w, h)) for x, y, w, h in mixed(sizes, shares, seed))


def _coursed(lengths: list[float], apart: float, seed: int) -> tuple[CellUnit, ...]:
    return tuple(CellUnit((x, y), size=(long, 1)) for x, y, long in coursed(lengths, apart, seed))


def _listed(rows: list[dict[str, Any]]) -> tuple[CellUnit, ...]:
    return tuple(_slot(row) for row in rows)


def _pattern(key: str, data: dict[str, Any], seed: int) -> PavingPattern:
    translations, straight, ends = data.get("translations", ()), 0, 0.0
    drawing = partial(_listed, data.get("units", []))
    if "mix" in data:
        drawing = partial(_mixed, key, data["mix"], seed)
        translations, straight = ((FIELD, 0), (0, FIELD)), LONGEST
    if "lengths" in data:
        ends = data["ends_apart"]
        drawing = partial(_coursed, data["lengths"], ends, seed)
        translations = ((PERIOD, 0), (0, COURSES))
    one, other = (tuple(map(float, each)) for each in translations)
    return PavingPattern(
        key, data["title"], data["module"], drawing, ((one[0], one[1]), (other[0], other[1])),
        data["four_corners"], data["wheels"], data.get("two_to_one", False), straight, ends, seed,
    )  # fmt: skip


@cache
def _files() -> dict[str, dict[str, Any]]:
    files = sorted(resources.files("groundwork.pattern").joinpath("data").iterdir(), key=lambda file: file.name)
    return {
        f.name.removesuffix(".toml"): tomllib.loads(f.read_text("utf-8")) for f in files if f.name.endswith(".toml")
    }


def pattern_keys() -> tuple[str, ...]:
    """What every pattern there is is called in files."""
    return tuple(_files())


@lru_cache(maxsize=64)
def pattern(key: str, seed: int = 1) -> PavingPattern:
    """A pattern by key; of a random one the draw of a seed. Raises `KeyError`."""
    data = _files()[key]
    return _pattern(key, data, seed if is_random(key) else 1)


def is_random(key: str) -> bool:
    """Whether a pattern is drawn by lot. Raises `KeyError`."""
    return "mix" in _files()[key] or "lengths" in _files()[key]


def patterns() -> dict[str, PavingPattern]:
    """Every pattern there is, by key."""
    return {key: pattern(key) for key in pattern_keys()}
