"""The best layouts of a job to choose from."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import shapely

from groundwork.pattern import Paving, PavingDesign, best_layouts

LAYING_RATE = 4.0
"""m² a person-hour (common practice, no published source)."""
CUTS_AN_HOUR = 15
"""Pieces a person cuts and lays in an hour (common practice, no published source)."""
Tell = Callable[[float], None]


@dataclass(frozen=True)
class Choice:
    """A layout to choose: how it is begun, and what it comes to: cuts and slivers, units, waste as a share, and the
    person-hours of laying and cutting."""

    turned: int
    over: float
    ahead: float
    whole: int
    cuts: int
    slivers: int
    units: int
    waste: float
    hours: float


def choice(paving: Paving) -> Choice:
    """What a paving comes to."""
    design, cuts = paving.design, len(paving.cut)
    return Choice(
        round(math.degrees(design.turned)) % 180, round(design.over, 4), round(design.ahead, 4), paving.whole, cuts,
        len(paving.slivers), sum(paving.units.values()), paving.waste,
        paving.covered / LAYING_RATE + cuts / CUTS_AN_HOUR,
    )  # fmt: skip


def searched(
    area: shapely.Polygon, design: PavingDesign, steps: int = 14, number: int = 3, tell: Tell = lambda _share: None
) -> tuple[Choice, ...]:  # fmt: skip
    """The best starts of a design over an area, as it is turned and across that, the best first, each as it comes out
    with its border. Raises `ValueError` for a unit that cannot be laid so, or a border without room."""
    field = Paving(area, design).field
    inset = design.border.breadth(design.unit)
    plain = replace(design, over=inset, ahead=inset)
    found = best_layouts(
        field, design.pattern, design.unit, plain.start.at,
        (design.along + design.turned, design.along + design.turned + math.pi / 2), steps, number, tell,
    )  # fmt: skip
    return tuple(choice(Paving(area, plain.begun(each.layout.start), known=each.layout)) for each in found)
