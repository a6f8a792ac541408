"""How things are sold: in bags, tonnes, loads, rolls; rounded up, with what is over."""

import math
import tomllib
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from groundwork.orderwork import Measure


@dataclass(frozen=True)
class WayToOrder:
    """What one orders in: what one `holds`, in the measure it is of; by what `step`, and from how many on;
    `is_asked` where nobody knows what one holds but who sells it."""

    key: str
    measure: Measure
    holds: float
    step: float = 1.0
    least: float = 0.0
    is_asked: bool = False


@dataclass(frozen=True)
class Rounded:
    """So many of what one orders in, and what is `over`, in the need's own measure."""

    number: float
    over: float


@cache
def _known() -> dict[str, dict[str, dict[str, float]]]:
    return tomllib.loads(Path(__file__).with_name("selling.toml").read_text(encoding="utf-8"))


def ways_to_order(measure: Measure, *, metric: bool, asked: bool = False) -> tuple[WayToOrder, ...]:
    """What things of a measure are sold in, the smallest first; those to ask about where they are `asked` for."""
    system = "metric" if metric else "feet"
    found = [
        WayToOrder(key, measure, row[system], row.get("step", 1.0), row.get("least", 0.0), bool(row.get("asked")))
        for key, row in _known()[measure].items()
        if system in row and (asked or not row.get("asked"))
    ]
    return tuple(sorted(found, key=lambda way: way.holds))


def usual_way(amount: float, ways: tuple[WayToOrder, ...]) -> WayToOrder:
    """The largest that is not more than what is wanted; the smallest where all are."""
    return next((way for way in reversed(ways) if way.holds <= amount + 1e-9), ways[0])


def in_units(amount: float, way: WayToOrder) -> Rounded:
    """An amount rounded up to what one can have.

    >>> in_units(1155.0, WayToOrder("bulk bag", Measure.MASS, 800.0))
    Rounded(number=2.0, over=445.0)
    """
    if amount <= 0:
        return Rounded(0.0, 0.0)
    number = max(math.ceil(amount / way.holds / way.step - 1e-9) * way.step, way.least)
    return Rounded(number, number * way.holds - amount)
