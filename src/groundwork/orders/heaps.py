"""How much room loose material takes, tipped on one heap."""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from groundwork.base import catalogue
from groundwork.orders.needs import Need
from groundwork.orderwork import Measure

REPOSE = math.tan(math.radians(35))
"""How steep loose stone, sand and soil stand (common practice: 33 to 37°)."""
LEAST = 0.2
"""m³: less is a few barrows, and no heap."""


@dataclass(frozen=True)
class Heap:
    """A cone of loose material: m³, and metres `across` and `high`."""

    stage: str
    what: str
    volume: float

    @property
    def across(self) -> float:
        return 2 * math.cbrt(3 * self.volume / (math.pi * REPOSE))

    @property
    def high(self) -> float:
        return self.across / 2 * REPOSE


def heaps(needs: Iterable[Need]) -> tuple[Heap, ...]:
    """What would lie on a heap if all of it came at once, in the order of the work."""
    found = []
    for need in needs:
        made_of = catalogue().get(need.what)
        if need.measure is Measure.LOOSE:
            volume = need.now
        elif need.measure is Measure.MASS and made_of:
            volume = need.with_waste / made_of.density * made_of.bulking
        else:
            continue
        if volume >= LEAST:
            found.append(Heap(need.stage, need.what, volume))
    return tuple(found)
