"""What does it cost? Prices with their days, an estimate by stage, what was spent against it. Decimal throughout."""

from groundwork.money.against import (
    Against,
    against,
)
from groundwork.money.data import (
    estimate_data,
    estimate_of,
)
from groundwork.money.estimate import (
    Estimate,
    Item,
    Line,
    Terms,
    estimated,
    number,
    priced,
)
from groundwork.money.prices import (
    Cost,
    Price,
    PriceBook,
    read_amount,
)

__all__ = [
    "Against",
    "Cost",
    "Estimate",
    "Item",
    "Line",
    "Price",
    "PriceBook",
    "Terms",
    "against",
    "estimate_data",
    "estimate_of",
    "estimated",
    "number",
    "priced",
    "read_amount",
]
