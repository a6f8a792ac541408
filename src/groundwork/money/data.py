"""An estimate as JSON values, and back: amounts as text, so that no digit is lost."""

from datetime import date
from decimal import Decimal
from typing import Any

from groundwork.money.estimate import Estimate, Item, Line, Terms
from groundwork.money.prices import Cost


def estimate_data(of: Estimate) -> dict[str, Any]:
    """Its terms, its day, its lines, and what they come to."""
    terms = of.terms
    return {
        "currency": terms.currency, "digits": terms.digits, "contingency": str(terms.contingency),
        "tax": str(terms.tax), "rounding": terms.rounding, "on": of.on.isoformat(),
        "lines": [_line(line) for line in of.lines],
        "comes_to": {
            "net": str(of.net), "contingency": str(of.contingency), "tax": str(of.tax), "total": str(of.total),
        },
    }  # fmt: skip


def _line(line: Line) -> dict[str, Any]:
    item = line.item
    return {
        "stage": item.stage, "cost": str(item.cost), "what": item.what, "unit": item.unit, "number": str(item.number),
        "price": None if line.price is None else str(line.price), "sum": None if line.sum is None else str(line.sum),
    }  # fmt: skip


def estimate_of(data: dict[str, Any]) -> Estimate:
    """The estimate that was written so."""
    terms = Terms(
        data["currency"], data["digits"], Decimal(data["contingency"]), Decimal(data["tax"]), data["rounding"]
    )  # fmt: skip
    return Estimate(terms, date.fromisoformat(data["on"]), tuple(_read(row) for row in data["lines"]))


def _read(row: dict[str, Any]) -> Line:
    item = Item(row["stage"], Cost(row["cost"]), row["what"], row["unit"], Decimal(row["number"]))
    price, total = row["price"], row["sum"]
    return Line(item, None if price is None else Decimal(price), None if total is None else Decimal(total))
