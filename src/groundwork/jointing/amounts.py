"""How much goes into joints: their share of the area, how deep they are, what that weighs."""

from dataclasses import dataclass

import numpy as np

from groundwork.jointing.fills import JointFill
from groundwork.pattern import PavingPattern, PavingUnit

RISE = 0.015
"""Bed sand rises so far into joints when units are seated, metres (common practice, no published source)."""
OVERFILL = 0.0125
"""Pebbles stand so far over their cells, metres: the middle of 10 to 15 mm (common practice)."""


def joint_share(pattern: PavingPattern, unit: PavingUnit) -> float:
    """The share of joints of a pattern that goes on for ever: of courses 1 − LW/((L + j)(W + j)), of herringbone and
    basket weave 1 − LW/2p², of a mix by its own sizes (geometry)."""
    cell = abs(float(np.linalg.det(np.array(pattern.cell(unit)))))
    return 1 - sum(long * wide for long, wide in (pattern.sides(slot, unit) for slot in pattern.slots)) / cell


@dataclass(frozen=True)
class FillAmount:
    """What the joints take: their `share` of the area, how `deep` they are filled, metres, and how heavy the filling
    is, kg/m³."""

    share: float
    deep: float
    density: float

    @property
    def per_square_metre(self) -> float:
        """kg/m²."""
        return self.share * self.deep * self.density


def fill_amount(fill: JointFill, share: float, thickness: float, *, on_sand: bool) -> FillAmount:
    """What joints of units so thick take, metres; on a bed of sand what rises into them is there already. Cells are
    filled whole and over their rims."""
    if fill.cells:
        return FillAmount(1.0, thickness + OVERFILL, fill.density)
    return FillAmount(share, max(thickness - (RISE if on_sand else 0.0), 0.0), fill.density)
