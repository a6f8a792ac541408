"""A crew's own prices, each with the day it was set."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from decimal import Decimal, InvalidOperation
from enum import StrEnum

from groundwork.measures import Said

MOST = Decimal(10_000_000)
"""No single price, and no hand-typed sum, is higher."""


class Cost(StrEnum):
    """What one pays for."""

    MATERIAL = "material"
    LABOUR = "labour"
    HIRE = "hire"
    DISPOSAL = "disposal"


@dataclass(frozen=True)
class Price:
    """What one `unit` of something costs from a day on, without tax: a bag of sand, an hour of somebody, a day of a
    plate."""

    cost: Cost
    what: str
    unit: str
    amount: Decimal
    since: date


class PriceBook:
    """Prices as they were set; the newest on a day holds."""

    def __init__(self, prices: Iterable[Price]) -> None:
        self._known: dict[tuple[Cost, str, str], list[Price]] = {}
        for price in sorted(prices, key=lambda each: each.since):
            self._known.setdefault((price.cost, price.what, price.unit), []).append(price)

    def at(self, cost: Cost, what: str, unit: str, on: date) -> Price | None:
        """The price that held on a day; the first there is before any was set; None where there is none."""
        known = self._known.get((cost, what, unit), [])
        return next((price for price in reversed(known) if price.since <= on), known[0] if known else None)

    def units(self, cost: Cost, what: str) -> tuple[str, ...]:
        """The units a thing has a price in."""
        return tuple(unit for kind, name, unit in self._known if (kind, name) == (cost, what))


def read_amount(text: str, digits: int) -> Decimal:
    """An amount of money as people type it: 1234.5, 1 234,50, 1,234.50. Raises `ValueError` saying what is wrong."""
    bare = "".join(text.split()).replace("\u2019", "").replace("'", "")
    if "," in bare and "." in bare:
        thousands = "," if bare.rindex(".") > bare.rindex(",") else "."
        bare = bare.replace(thousands, "")
    elif bare.count(",") > 1 or bare.count(".") > 1:
        raise Said("which of these is the decimal point? Type it like 1234.50")
    bare = bare.replace(",", ".")
    try:
        amount = Decimal(bare)
    except InvalidOperation:
        raise Said("an amount of money, like 12.50") from None
    if not bare.replace(".", "", 1).isdigit() or not bare.isascii():
        raise Said("an amount of money, like 12.50")
    if amount > MOST:
        raise Said("that is more than any one thing costs")
    if -int(amount.as_tuple().exponent) > digits and amount != round(amount, digits):
        raise Said("at most {n} digits after the point", n=digits)
    return round(amount, digits)
