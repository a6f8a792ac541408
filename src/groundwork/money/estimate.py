"""An estimate by stage: lines rounded one by one, so that what is added up is what is shown."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import ROUND_DOWN, ROUND_HALF_EVEN, ROUND_HALF_UP, ROUND_UP, Decimal
from functools import cached_property

from groundwork.money.prices import Cost, PriceBook

ROUNDINGS = {"half up": ROUND_HALF_UP, "half even": ROUND_HALF_EVEN, "up": ROUND_UP, "down": ROUND_DOWN}
HUNDRED = Decimal(100)


@dataclass(frozen=True)
class Terms:
    """How a crew reckons: its currency with so many `digits` after the point; contingency and tax, shares; how it
    rounds."""

    currency: str = "EUR"
    digits: int = 2
    contingency: Decimal = Decimal("0.10")
    tax: Decimal = Decimal("0")
    rounding: str = "half up"

    def rounded(self, amount: Decimal) -> Decimal:
        """To the currency's least coin that is reckoned in."""
        return amount.quantize(Decimal(1).scaleb(-self.digits), rounding=ROUNDINGS[self.rounding])


@dataclass(frozen=True)
class Item:
    """So many of a `unit` of something that a stage takes and somebody pays for."""

    stage: str
    cost: Cost
    what: str
    unit: str
    number: Decimal


@dataclass(frozen=True)
class Line:
    """An item with its price and what it comes to; None where it has no price yet."""

    item: Item
    price: Decimal | None
    sum: Decimal | None


@dataclass(frozen=True)
class StageSum:
    """A stage's lines, what they come to, and the contingency on that."""

    stage: str
    lines: tuple[Line, ...]
    net: Decimal
    contingency: Decimal

    @property
    def total(self) -> Decimal:
        return self.net + self.contingency


@dataclass(frozen=True)
class Estimate:
    """What a job comes to by the prices of a day."""

    terms: Terms
    on: date
    lines: tuple[Line, ...]

    @cached_property
    def stages(self) -> tuple[StageSum, ...]:
        found = []
        for stage in dict.fromkeys(line.item.stage for line in self.lines):
            lines = tuple(line for line in self.lines if line.item.stage == stage)
            net = sum((line.sum for line in lines if line.sum is not None), Decimal(0))
            found.append(StageSum(stage, lines, net, self.terms.rounded(net * self.terms.contingency)))
        return tuple(found)

    @property
    def unpriced(self) -> tuple[Line, ...]:
        """What has no price: the estimate is short by it."""
        return tuple(line for line in self.lines if line.sum is None)

    def of(self, cost: Cost) -> Decimal:
        """What all of one kind comes to, without contingency."""
        return sum((x.sum for x in self.lines if x.item.cost is cost and x.sum is not None), Decimal(0))

    @property
    def net(self) -> Decimal:
        return sum((stage.net for stage in self.stages), Decimal(0))

    @property
    def contingency(self) -> Decimal:
        """The sum of the stages' own."""
        return sum((stage.contingency for stage in self.stages), Decimal(0))

    @property
    def before_tax(self) -> Decimal:
        return self.net + self.contingency

    @property
    def tax(self) -> Decimal:
        """On the whole, rounded once."""
        return self.terms.rounded(self.before_tax * self.terms.tax)

    @property
    def total(self) -> Decimal:
        return self.before_tax + self.tax


def estimated(items: Iterable[Item], book: PriceBook, terms: Terms, on: date) -> Estimate:
    """Every item by the price that holds on a day."""
    return Estimate(terms, on, tuple(priced(item, book, terms, on) for item in items))


def priced(item: Item, book: PriceBook, terms: Terms, on: date) -> Line:
    """An item by the price that holds on a day."""
    price = book.at(item.cost, item.what, item.unit, on)
    if price is None:
        return Line(item, None, None)
    return Line(item, price.amount, terms.rounded(price.amount * item.number))


def number(amount: float, places: int = 2) -> Decimal:
    """A quantity as it is shown and reckoned with, to so many places: price times number can be done by hand."""
    return Decimal(repr(round(amount, places)))


def summed(lines: Sequence[Line]) -> Decimal:
    """What lines come to that have a price."""
    return sum((line.sum for line in lines if line.sum is not None), Decimal(0))
