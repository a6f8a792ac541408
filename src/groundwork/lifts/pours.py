"""Bound bases: how much is poured, where it is jointed, what the ground under it gave, and when it carries what.

Limits are common practice, no published source; the mix's own data and the engineer come first.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from functools import cached_property

import numpy as np
import shapely

from groundwork.base import LEAST_OF_BASE, BaseSpecification, Family, Layer, Reinforcement, Role
from groundwork.built import Laid
from groundwork.curing import DATUM, DRIVEN, WALKED, Warmth, days_of_setting, matured_at
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
COLD = 5.0
"""Below so many °C nothing is poured without protection."""
DONE_BY, TRUCKS = time(17), timedelta(days=28)
"""A pour of which nobody said when it was done was done by the end of the day; loaded trucks wait for the strength
the mix was ordered by."""
BARS = "light bars or mesh at 300 mm both ways, on chairs, a third down"
FIBRE = "fibre in the mix where reinforcement is wanted; no steel, which rusts and bursts it"


@dataclass(frozen=True)
class May:
    """What may go on it, and from which day, and which minute of it where that is known; no day where it does not
    set in the cold."""

    what: str
    day: date | None
    at: datetime | None = None

    def waits(self, today: date | None) -> int:
        """Days still to wait, none once it may."""
        return 0 if today is None or self.day is None else max(0, (self.day - today).days)


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
    """A pour and what may go on it when, by how warm it was; `days` of setting at 20 °C come before anything is built
    on it."""

    pour: Poured
    family: Family
    warm: Warmth
    days: float

    @property
    def since(self) -> datetime:
        """When it was placed."""
        return self.pour.at or datetime.combine(self.pour.on, DONE_BY)

    @property
    def matures(self) -> tuple[tuple[str, float, float], ...]:
        """What may go on it after how many °C·h over which datum."""
        built_on = days_of_setting(self.days)
        walked = built_on if self.family is Family.PERVIOUS else WALKED
        return ("walked on", walked, DATUM), ("bedding and paving", built_on, DATUM), ("cars", DRIVEN, 0.0)

    @cached_property
    def may(self) -> tuple[May, ...]:
        found = [
            May(what, at and at.date(), at)
            for what, needed, datum in self.matures
            for at in [matured_at(self.since, needed, self.warm, datum)]
        ]
        return (*found, May("loaded trucks", self.pour.on + TRUCKS))


def pour_findings(
    plan: PourPlan,
    pours: Sequence[Poured],
    reinforcement: Reinforcement,
    today: date | None,
    laid: Laid | None = None,
    curing: Curing | None = None,
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
    if curing and today is not None:
        yield from _green(curing.may[1], today)


def _green(ready: May, today: date) -> Iterator[Finding]:
    """B04: nothing is built on what has not set."""
    why = "Green concrete under a plate or a pallet of pavers cracks where nobody sees it."
    then = "Keep it wet or covered, and wait."
    if ready.day is None or ready.at is None:
        found, limit = Words("it does not set in this cold"), Words("hours above freezing")
    elif left := ready.waits(today):
        found = Words("days of curing left: {n}", counts={"n": left})
        limit = Words("bedding from {day}, {hour} on", days={"day": ready.day}, names={"hour": f"{ready.at:%H:%M}"})
    elif ready.day == today:
        found = Words("it cures until today")
        limit = Words("bedding from {day}, {hour} on", days={"day": ready.day}, names={"hour": f"{ready.at:%H:%M}"})
        yield Finding("B04", Severity.WARNING, found, limit, why, then, Source.PRACTICE)
        return
    else:
        return
    yield Finding("B04", Severity.STOP, found, limit, why, then, Source.PRACTICE)
