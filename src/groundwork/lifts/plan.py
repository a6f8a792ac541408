"""How a course is laid and compacted with the machine at hand: lifts, loose thickness, passes, time, mass, water."""

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from groundwork.base import GREATEST_LIFT, Course, Family, Material
from groundwork.laboratory import WATER, water_to_add
from groundwork.tools import (
    DEPTHS,
    Machine,
    Would,
    greatest_thickness,
    lifts_for,
    passes_needed,
    time_on_machine,
    what_would,
)

BIG_LIFT = {Family.DENSE: 0.100}
"""The thickest lift planned with a machine that compacts the table's second thickness at once (common practice)."""
LOAD = 8000.0
"""A small tipper's load, kg (common practice, no published source)."""
TABLE_COUNTS_AS = 2
"""The table's bulking factor counts as so many of the job's own measurements (common practice)."""
FEWEST_FOR_SPREAD = 2
A_POINT = 0.01
"""A point of moisture, a share of the dry mass."""


@dataclass(frozen=True)
class Bulking:
    """Loose over compacted thickness: `usual` by the table, `mean` with what this job measured, `spread` the standard
    deviation of those `number` measurements, None for fewer than two."""

    usual: float
    mean: float
    spread: float | None
    number: int


def bulking(material: Material, measured: Sequence[float]) -> Bulking:
    """The table's factor, drawn towards the job's own ratios of loose to compacted thickness the more there are."""
    mean = (TABLE_COUNTS_AS * material.bulking + sum(measured)) / (TABLE_COUNTS_AS + len(measured))
    spread = statistics.stdev(measured) if len(measured) >= FEWEST_FOR_SPREAD else None
    return Bulking(material.bulking, mean, spread, len(measured))


def greatest_planned(family: Family, machine: Machine | None) -> float:
    """The thickest lift planned in a material with a machine: the trade's usual, more for dense stone under a big
    machine, never more than the machine compacts at once, metres."""
    usual = GREATEST_LIFT.get(family, math.inf)
    if machine is None:
        return usual
    able = greatest_thickness(machine)
    return min(BIG_LIFT.get(family, usual) if able >= DEPTHS[1] else usual, able)


@dataclass(frozen=True)
class CoursePlan:
    """One lift as planned over `area`, m², with `edge` metres of its sides tamped by hand."""

    course: Course
    machine: Machine | None
    bulking: Bulking
    area: float
    edge: float

    @property
    def material(self) -> Material:
        return self.course.layer.made_of

    @property
    def compacted(self) -> float:
        return self.course.thickness

    @property
    def loose(self) -> float:
        """How thick it is spread, metres."""
        return self.compacted * self.bulking.mean

    @cached_property
    def passes(self) -> int | None:
        """How often the machine goes over it; None where it is too light, or none is known."""
        return passes_needed(self.machine, self.compacted) if self.machine else None

    @property
    def too_light(self) -> bool:
        return self.machine is not None and self.passes is None

    @cached_property
    def layer_lifts(self) -> int | None:
        """How many its layer would want with this machine; None where no machine is known."""
        if self.machine is None:
            return None
        whole = self.course.thickness * self.course.lifts
        return lifts_for(whole, greatest_planned(self.material.family, self.machine))

    @property
    def wants_other_lifts(self) -> bool:
        """Whether the machine would want another number of lifts than are planned."""
        return self.layer_lifts not in (None, self.course.lifts)

    @cached_property
    def would(self) -> tuple[Would, ...]:
        """What would compact this lift at once."""
        return what_would(self.compacted)

    @property
    def volume(self) -> float:
        """Compacted, m³."""
        return self.area * self.compacted

    @property
    def mass(self) -> float:
        """Dry, kg."""
        return self.volume * self.material.density

    @property
    def loads(self) -> int:
        return math.ceil(self.mass / LOAD - 1e-9)

    @cached_property
    def seconds(self) -> float | None:
        """Time on the machine."""
        if self.machine is None or self.passes is None:
            return None
        return time_on_machine(self.area, self.passes, self.machine)

    def water(self, moisture: float, optimum: float | None = None) -> float | None:
        """Litres that bring the whole lift from `moisture` to its optimum, negative where it is too wet; None for a
        material that water is no matter to."""
        best = self.material.optimum if optimum is None else optimum
        return None if best is None else water_to_add(self.volume, self.material.density, moisture, best)

    @property
    def water_a_point(self) -> float:
        """m³ of water for one point of moisture over the whole lift."""
        return water_to_add(self.volume, self.material.density, 0.0, A_POINT) / WATER
