"""What do we need? Every material of a job by stage, from design and ground as it is, and how it is sold."""

from groundwork.orders.data import (
    orders_data,
)
from groundwork.orders.heaps import (
    Heap,
    heaps,
)
from groundwork.orders.needs import (
    Need,
)
from groundwork.orders.orders import (
    Orders,
)
from groundwork.orders.selling import (
    WayToOrder,
    in_units,
    usual_way,
    ways_to_order,
)
from groundwork.orders.supply import (
    Order,
    OrderStanding,
    Supply,
)

__all__ = [
    "Heap",
    "Need",
    "Order",
    "OrderStanding",
    "Orders",
    "Supply",
    "WayToOrder",
    "heaps",
    "in_units",
    "orders_data",
    "usual_way",
    "ways_to_order",
]
