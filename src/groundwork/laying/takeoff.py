"""What a layout takes: units by size with spares, packs, pallets, weight; which packs to open together."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from groundwork.laywork import PackEmptied, PackOpened
from groundwork.pattern import Sides

SPARES = 0.02
"""Kept for what breaks later, a share (common practice: 1 to 2 %)."""
OPEN_TOGETHER = 3
"""At least so many packs are open at once, and units taken from all (common practice, no published source)."""
DENSITY = 2300.0
"""kg/m³ of a paving unit where its material's own is not known (common practice)."""


@dataclass(frozen=True)
class TakenOff:
    """Units of one size: those laid, and those to order with spares; m² and kg of what is ordered."""

    size: Sides
    laid: int
    ordered: int
    area: float
    mass: float


def taken_off(units: Mapping[Sides, int], thickness: float, density: float = DENSITY) -> tuple[TakenOff, ...]:
    """Units by size, longest first, from how many are laid of each; thickness in metres."""
    found = []
    for (long, wide), number in units.items():
        ordered = math.ceil(number * (1 + SPARES) - 1e-9)
        area = ordered * long * wide
        found.append(TakenOff((long, wide), number, ordered, area, area * thickness * density))
    return tuple(found)


def packs(square_metres: float, a_pack: float) -> float:
    """Packs or pallets of so many m² each that so much comes to. Raises `ZeroDivisionError` for none."""
    return square_metres / a_pack


@dataclass(frozen=True)
class Packs:
    """Packs as they were opened and used up."""

    opened: tuple[PackOpened, ...] = ()
    emptied: frozenset[str] = frozenset()

    @property
    def open_now(self) -> tuple[PackOpened, ...]:
        return tuple(pack for pack in self.opened if pack.id not in self.emptied)

    @property
    def codes(self) -> dict[str, int]:
        """Batch codes in the order they came, each with how many units came with it."""
        found: dict[str, int] = {}
        for pack in self.opened:
            found[pack.code] = found.get(pack.code, 0) + pack.units
        return found

    @property
    def others(self) -> tuple[PackOpened, ...]:
        """Those open now whose code differs from the first that came."""
        first = next(iter(self.codes), "")
        return tuple(pack for pack in self.open_now if pack.code != first)

    @property
    def units(self) -> int:
        return sum(pack.units for pack in self.opened)


def packs_of(opened: Mapping[str, PackOpened], emptied: Mapping[str, PackEmptied]) -> Packs:
    return Packs(tuple(opened.values()), frozenset(each.pack for each in emptied.values()))
