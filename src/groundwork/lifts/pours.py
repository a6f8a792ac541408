"""Bound bases: how much is poured, where it is jointed, what the ground under it gave, and when it carries what.

Limits are common practice, no published source; the mix's own data and the engineer come first.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cached_property

import numpy as np
import shapely

from groundwork.base import LEAST_OF_BASE, BaseSpecification, Family, Layer, Reinforcement, Role
from groundwork.built import Laid
from groundwork.layerwork import Poured
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.surfaces import Point

WASTE = 1.05
TRUCK = 6.0
"""A mixer's load, m³."""
THICKNESSES_APART = 30
"""Joints no further apart than so many times the thickness."""
APART = 4.5
GIVES = 0.005
"""The ground under a loaded truck gives no more than this, metres."""
COLD, WARM = 5.0, 15.0
"""Below the first °C nothing is poured without protection; below the second it hardens half as fast."""
BARS = "light bars or mesh at 300 mm both ways, on chairs, a third down"
FIBRE = "fibre in the mix where reinforcement is wanted; no steel, which rusts and bursts it"


@dataclass(frozen=True)
class May:
    """What may go on it, and from which day."""

    what: str
    day: date

    def waits(self, today: date | None) -> int:
        """Days still to wait, none once it may."""
        return 0 if today is None else max(0, (self.day - today).days)


@dataclass(frozen=True)
class PourPlan:
    """`area` m² at `thickness` metres; panels `columns` by `rows` of at most `apart` metres; `joints` are their lines
    within the area, ends in metres."""

    layer: Layer
    area: float
    apart: float
    columns: int
    rows: int
    panel: tuple[float, float]
    joints: tuple[tuple[Point, Point], ...]

    @property
    def thickness(self) -> float:
        return self.layer.thickness

    @property
    def volume(self) -> float:
        """To order, m³, waste included."""
        return self.area * self.thickness * WASTE

    @property
    def loads(self) -> int:
        return math.ceil(self.volume / TRUCK - 1e-9)

    @property
    def reinforcement(self) -> str:
        return FIBRE if self.layer.family is Family.PERVIOUS else BARS


def pour_plan(specification: BaseSpecification, wide: shapely.Polygon) -> PourPlan | None:
    """The pour of the bound base over its footprint, None where there is none. Joints stand as the specification
    says, at most 4.5 m and 30 thicknesses apart."""
    layer = specification.layer(Role.BOUND_BASE)
    if layer is None or layer.made_of.is_there:
        return None
    apart = min(specification.details.concrete_joints or APART, APART, THICKNESSES_APART * layer.thickness)
    corners = shapely.get_coordinates(shapely.minimum_rotated_rectangle(wide))
    long, short = corners[1] - corners[0], corners[3] - corners[0]
    if np.hypot(*long) < np.hypot(*short):
        long, short = short, long
    sides = [float(np.hypot(*long)), float(np.hypot(*short))]
    columns, rows = (max(1, math.ceil(side / apart - 1e-9)) for side in sides)
    ends = [(corners[0] + long * n / columns, short) for n in range(1, columns)]
    ends += [(corners[0] + short * n / rows, long) for n in range(1, rows)]
    lines = [shapely.LineString([start, start + way]).intersection(wide) for start, way in ends]
    joints = tuple(
        ((float(x1), float(y1)), (float(x2), float(y2)))
        for line in lines
        for part in shapely.get_parts(line)
        if part.length > 0
        for (x1, y1), (x2, y2) in [part.coords]
    )
    return PourPlan(layer, float(wide.area), apart, columns, rows, (sides[0] / columns, sides[1] / rows), joints)


@dataclass(frozen=True)
class Curing:
    """A pour and what may go on it when; half as fast again in the cold."""

    pour: Poured
    family: Family

    @cached_property
    def may(self) -> tuple[May, ...]:
        slow = 2 if self.pour.celsius < WARM else 1
        first = 7 if self.family is Family.PERVIOUS else 1
        days = (
            ("walked on", first * slow),
            ("bedding and paving", 7 * slow),
            ("cars", 10 * slow),
            ("loaded trucks", 28),
        )
        return tuple(May(what, self.pour.on + timedelta(days=n)) for what, n in days)


def pour_findings(
    plan: PourPlan,
    pours: Sequence[Poured],
    reinforcement: Reinforcement,
    today: date | None,
    laid: Laid | None = None,
) -> Iterator[Finding]:
    """What the pours come to against the plan, and how thick it came out where its top and what is under it were
    shot."""
    why = "A slab over ground that gives cracks where it gives."
    if soft := [p for p in pours if p.deflection.metres > GIVES + 1e-9]:
        worst = max(p.deflection.metres for p in soft)
        yield Finding(
            "B01", Severity.STOP, Words("the ground gave {worst} under the truck", {"worst": worst}),
            Words("at most {limit}", {"limit": GIVES}), why, "Find the soft ground, cure it, and show it again.",
            Source.PRACTICE, structural=True,
        )  # fmt: skip
    if cold := [p for p in pours if p.celsius < COLD]:
        yield Finding(
            "B02", Severity.STOP, Words("poured at {t}", celsius={"t": min(p.celsius for p in cold)}),
            Words("{least} and rising", celsius={"least": COLD}),
            "Concrete that freezes before it sets never gets strong.",
            "Ask the engineer what it came to.", Source.PRACTICE, structural=True,
        )  # fmt: skip
    total = math.fsum(p.volume for p in pours)
    least = plan.area * plan.thickness
    if pours and total < 0.95 * least:
        sizes = {"came": total, "least": least}
        yield Finding(
            "B03", Severity.WARNING, Words("{came} came", volumes=sizes), Words("{least} as drawn", volumes=sizes),
            "Less than the shape holds: it is thin somewhere, or not all of it is poured.",
            "Shoot its top, or enter the tickets that are missing.", Source.PRACTICE,
        )  # fmt: skip
    least_thick = plan.thickness - LEAST_OF_BASE
    if laid and (thin := [n for n, t in zip(laid.stations, laid.thickness, strict=True) if t < least_thick - 1e-9]):
        yield Finding(
            "B05", Severity.STOP,
            Words("too thin at {n}, down to {least}", {"least": laid.least[1]}, {"n": len(thin)}),
            Words("at least {limit}", {"limit": least_thick}), "A slab carries by the cube of its thickness.",
            "Ask the engineer: cut out and recast, or carry less over it.", Source.PRACTICE, tuple(thin),
            structural=True,
        )  # fmt: skip
    if plan.layer.family is Family.PERVIOUS and reinforcement is Reinforcement.STEEL:
        yield Finding("S13", Severity.STOP, Words("steel in pervious concrete"), Words("fibre, or none"),
                      "Rust bursts it.", "Leave the steel out.", Source.PRACTICE)  # fmt: skip
    if pours and today is not None:
        newest = max(pours, key=lambda p: p.on)
        ready = Curing(newest, plan.layer.family).may[1]
        if left := ready.waits(today):
            yield Finding(
                "B04", Severity.STOP, Words("days of curing left: {n}", counts={"n": left}),
                Words("bedding from {day}", days={"day": ready.day}),
                "Green concrete under a plate or a pallet of pavers cracks where nobody sees it.",
                "Keep it wet or covered, and wait.", Source.PRACTICE,
            )  # fmt: skip
