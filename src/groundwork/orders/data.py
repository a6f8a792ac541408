"""What a job takes, as JSON values: amounts in kg, m³, m², metres and pieces."""

from typing import Any

from groundwork.measures import Unit
from groundwork.orders.needs import Need, Reckoned
from groundwork.orders.orders import Orders
from groundwork.orders.selling import in_units, ways_to_order
from groundwork.orders.supply import Order


def orders_data(orders: Orders, unit: Unit) -> dict[str, Any]:
    """Every need with how it was reckoned, what has changed since, and what it comes to in each way it is sold; every
    order as it stands."""
    return {
        "needs": [_need(need, unit) for need in orders.needs],
        "orders": [_order(order) for supply in orders.supplies for order in supply.orders],
    }


def _order(order: Order) -> dict[str, Any]:
    made = order.made
    return {
        "what": made.what,
        "number": made.number,
        "of": made.way,
        "day": order.day.isoformat(),
        "stands": str(order.standing),
        "asked": round(order.asked, 3),
        "come": round(order.has_come, 3),
        "on_its_way": round(order.on_its_way, 3),
    }


def _need(need: Need, unit: Unit) -> dict[str, Any]:
    sold = {}
    for way in ways_to_order(need.measure, metric=unit.is_metric):
        ordered = in_units(need.with_waste, way)
        sold[way.key] = {"number": ordered.number, "over": round(ordered.over, 3)}
    return {
        "stage": need.stage,
        "what": need.what,
        "measure": str(need.measure),
        "designed": round(need.designed, 3),
        "now": round(need.now, 3),
        "waste": need.waste,
        "to_order": round(need.with_waste, 3),
        "reckoned": [_line(line, unit) for line in need.lines],
        "changed": [_line(line, unit) for line in need.changes],
        "sold_in": sold,
    }


def _line(line: Reckoned, unit: Unit) -> dict[str, Any]:
    return {"says": line.says.text(unit), "amount": round(line.amount, 3)}
