"""What was ordered, what came of it, how long was worked? Entries of orders and of hours."""

from groundwork.orderwork.kinds import (
    FIRST_LINE,
    MOST_ORDERED,
    Hired,
    HireEnded,
    HoursWorked,
    Measure,
    OrderCome,
    OrderMade,
    OrderMoved,
    OrderState,
    OrderWork,
)

__all__ = [
    "FIRST_LINE",
    "MOST_ORDERED",
    "HireEnded",
    "Hired",
    "HoursWorked",
    "Measure",
    "OrderCome",
    "OrderMade",
    "OrderMoved",
    "OrderState",
    "OrderWork",
]
