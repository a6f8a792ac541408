"""What do we need? Every material of a job by stage, from design and ground as it is, and how it is sold."""

from groundwork.orders.data import (
    orders_data,
)
from groundwork.orders.needs import (
    Measure,
    Need,
)
from groundwork.orders.orders import (
    Orders,
)
from groundwork.orders.selling import (
    in_units,
    usual_way,
    ways_to_order,
)

__all__ = [
    "Measure",
    "Need",
    "Orders",
    "in_units",
    "orders_data",
    "usual_way",
    "ways_to_order",
]
