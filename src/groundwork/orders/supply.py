"""What was ordered against what is needed: what came by which tickets, what is on its way, short or over.

A ticket that names no order is of the oldest order of that thing that still waits; what is over goes on to the next.
"""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date
from enum import StrEnum

from groundwork.layerwork import Delivered
from groundwork.orders.needs import Need
from groundwork.orderwork import Measure, OrderCome, OrderMade, OrderMoved, OrderState

AS_GOOD_AS_ALL = 0.03
"""A load may weigh so much less than what was ordered, as a share, and be all of it (common practice, no published
source)."""


class OrderStanding(StrEnum):
    """How an order stands."""

    ORDERED = "ordered"
    PROMISED = "promised"
    PART_COME = "part come"
    COME = "come"
    OFF = "called off"


@dataclass(frozen=True)
class Come:
    """What came by a ticket, in the measure of what was ordered."""

    entry: str
    ticket: str
    amount: float


@dataclass(frozen=True)
class Order:
    """An order as it stands: what came of it, the day it is to come, whether nothing more of it will."""

    made: OrderMade
    come: tuple[Come, ...]
    promised: date | None
    is_closed: bool
    is_off: bool

    @property
    def asked(self) -> float:
        """In the thing's own measure."""
        return self.made.number * self.made.holds

    @property
    def has_come(self) -> float:
        return math.fsum(each.amount for each in self.come)

    @property
    def on_its_way(self) -> float:
        """What is to come still."""
        if self.is_off or self.is_closed or self.has_come >= self.asked * (1 - AS_GOOD_AS_ALL) - 1e-9:
            return 0.0
        return self.asked - self.has_come

    @property
    def day(self) -> date:
        """The day it is to come: as promised, else as it is wanted."""
        return self.promised or self.made.wanted

    @property
    def standing(self) -> OrderStanding:
        if self.has_come and not self.on_its_way:
            return OrderStanding.COME
        if self.is_off:
            return OrderStanding.OFF
        if self.has_come:
            return OrderStanding.PART_COME
        if self.is_closed:
            return OrderStanding.OFF
        return OrderStanding.PROMISED if self.promised else OrderStanding.ORDERED


@dataclass(frozen=True)
class Supply:
    """One thing: all that needs it, its orders oldest first, and tickets that are of none."""

    what: str
    measure: Measure
    needs: tuple[Need, ...]
    orders: tuple[Order, ...] = ()
    loose: tuple[Come, ...] = field(default=())

    @property
    def wanted(self) -> float:
        """With what is lost on the way."""
        return math.fsum(need.with_waste for need in self.needs)

    @property
    def has_come(self) -> float:
        return math.fsum([*(order.has_come for order in self.orders), *(each.amount for each in self.loose)])

    @property
    def on_its_way(self) -> float:
        return math.fsum(order.on_its_way for order in self.orders)

    @property
    def to_order(self) -> float:
        """What nobody has ordered yet."""
        left = self.wanted - self.has_come - self.on_its_way
        return left if left > 1e-6 * max(self.wanted, 1.0) else 0.0

    @property
    def over(self) -> float:
        """What is there or on its way beyond what is needed."""
        more = self.has_come + self.on_its_way - self.wanted
        return more if more > 1e-6 * max(self.wanted, 1.0) else 0.0

    @property
    def newest(self) -> str:
        """The newest order of it, by its entry; nothing where none was made."""
        return self.orders[-1].made.id if self.orders else ""


def supplies(
    needs: Sequence[Need],
    made: Iterable[OrderMade],
    moved: Iterable[OrderMoved],
    come: Iterable[OrderCome],
    tickets: Iterable[Delivered],
) -> tuple[Supply, ...]:
    """Thing by thing, in the order they are needed; what was ordered and is not needed any more at the end."""
    orders = list(made)
    keys = dict.fromkeys([*((n.what, n.measure) for n in needs), *((o.what, o.measure) for o in orders)])
    last, closed = _moved(moved)
    counted: dict[str, list[Come]] = {order.id: [] for order in orders}
    for each in come:
        if order := next((o for o in orders if o.id == each.order), None):
            counted[order.id].append(Come(each.id, each.ticket, each.number * order.holds))
    loose = _settled(orders, counted, closed, list(tickets))
    found = []
    for what, measure in keys:
        of_it = tuple(
            Order(o, tuple(counted[o.id]), last.get(o.id), closed.get(o.id) is OrderState.CLOSED,
                  closed.get(o.id) is OrderState.OFF)
            for o in orders if (o.what, o.measure) == (what, measure)
        )  # fmt: skip
        rest = tuple(loose.get(what, ())) if measure is Measure.MASS else ()
        found.append(
            Supply(what, measure, tuple(n for n in needs if (n.what, n.measure) == (what, measure)), of_it, rest)
        )
    return tuple(found)


def _moved(moved: Iterable[OrderMoved]) -> tuple[dict[str, date], dict[str, OrderState]]:
    """The newest day promised for each order, and how each ended; one that is promised again has not ended."""
    last, ended = dict[str, date](), dict[str, OrderState]()
    for each in moved:
        if each.state is OrderState.PROMISED and each.promised:
            last[each.order] = each.promised
            ended.pop(each.order, None)
        else:
            ended[each.order] = each.state
    return last, ended


def _settled(
    orders: Sequence[OrderMade],
    counted: Mapping[str, list[Come]],
    ended: Mapping[str, OrderState],
    tickets: Sequence[Delivered],
) -> dict[str, list[Come]]:
    """Adds to `counted` what came by weight; hands back the tickets of each material that settle no order."""
    left: dict[str, list[Come]] = {}
    by_weight = [order for order in orders if order.measure is Measure.MASS]
    for ticket in tickets:
        named = next((o for o in by_weight if o.id == ticket.order and o.what == ticket.material), None)
        if named:
            counted[named.id].append(Come(ticket.id, ticket.ticket, ticket.mass))
    for ticket in tickets:
        if any(o.id == ticket.order and o.what == ticket.material for o in by_weight):
            continue
        rest = ticket.mass
        for order in by_weight:
            if order.what != ticket.material or order.id in ended or rest <= 0:
                continue
            room = order.number * order.holds - math.fsum(each.amount for each in counted[order.id])
            if room <= order.number * order.holds * AS_GOOD_AS_ALL:
                continue
            taken = rest if rest <= room * (1 + AS_GOOD_AS_ALL) else room
            counted[order.id].append(Come(ticket.id, ticket.ticket, taken))
            rest -= taken
        if rest > 1e-9:
            left.setdefault(ticket.material, []).append(Come(ticket.id, ticket.ticket, rest))
    return left
