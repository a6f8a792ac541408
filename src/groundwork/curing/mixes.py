"""What goes into mortar and semi-dry concrete, by volume."""

import math
from dataclasses import dataclass

CEMENT, SAND, ALL_IN = 1440.0, 1600.0, 1750.0
"""Loose densities, kg/m³ (common practice, no published source)."""
BULKING = {"mortar": 1.25, "semi-dry": 1.30}
"""Loose volume of what goes in over what comes out (common practice; a crew's own may take its place)."""
BAG_KG, BAG_LB = 25.0, 94 * 0.45359237
BARROW = 0.065
"""m³ in a barrow (common practice)."""


@dataclass(frozen=True)
class Mix:
    """What goes into a mix 1 to so many, by volume: m³ loose in all, and kilograms."""

    loose: float
    cement: float
    aggregate: float

    @property
    def bags(self) -> float:
        """Of 25 kg."""
        return self.cement / BAG_KG

    @property
    def us_bags(self) -> float:
        """Of 94 lb."""
        return self.cement / BAG_LB

    @property
    def barrows(self) -> int:
        return math.ceil(self.loose / BARROW - 1e-9)


def mix(volume: float, parts: float, *, kind: str = "mortar", aggregate: float = SAND) -> Mix:
    """What makes a volume of mortar or of semi-dry concrete, 1 part of cement to `parts`."""
    loose = volume * BULKING[kind]
    return Mix(loose, loose / (1 + parts) * CEMENT, loose * parts / (1 + parts) * aggregate)
