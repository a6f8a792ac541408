"""What was ordered and on what day it is wanted, what became of it, and the hours that were worked. No entry holds a
price: who may read a record need not see money."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from typing import Annotated

from annotated_types import Interval, Len, doc

from groundwork.kinds import PHOTO_IF_ANY, Circumstances, Entry, EntryId, Key, Line, Name, Wrong, no_day, not_called
from groundwork.measures import Words

MOST_ORDERED, MOST_HELD = 100_000.0, 1_000_000.0
ORDERED_MEANWHILE = "ordered"
"""The code of a refusal: somebody else has ordered of the same thing since."""
FIRST_LINE = "none"
"""In the place of the newest order, where nothing was ordered of it that whoever orders knew of."""


class Measure(StrEnum):
    """What a need is counted in: kilograms, m³, m³ of soil once it is loose, m², metres, pieces, m³ of water."""

    MASS = "mass"
    VOLUME = "volume"
    LOOSE = "loose volume"
    AREA = "area"
    LENGTH = "length"
    PIECES = "pieces"
    WATER = "water"


class OrderState(StrEnum):
    """What becomes of an order: a day was promised for it, that was all that comes, it was called off."""

    PROMISED = "promised"
    CLOSED = "closed"
    OFF = "called off"


class OrderWork(Entry):
    """Something ordered, or what became of it."""


def orders_of(what: str, there: Circumstances) -> Mapping[str, "OrderMade"]:
    """The orders of a thing that were made before, oldest first."""
    return {key: order for key, order in there.of_kind(OrderMade).items() if order.what == what}


@dataclass(frozen=True)
class OrderMade(OrderWork, kind="order"):
    """So many of what a thing is sold in, wanted on site on a day. `holds` is what one of them holds, in kg, m³, m²,
    metres or pieces. `after` is the newest order of the thing that whoever ordered knew of: two who order the same
    at once are told of each other."""

    what: Name
    measure: Measure
    way: Key
    holds: Annotated[float, Interval(gt=0, le=MOST_HELD)]
    number: Annotated[float, Interval(gt=0, le=MOST_ORDERED)]
    wanted: date
    supplier: Line = ""
    note: Line = ""
    after: Annotated[
        str, Len(0, 80), doc("The id of the newest order of it that was known; none where none was.")
    ] = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        if wrong := no_day("wanted", self.wanted):
            return wrong
        newest = next(reversed(list(orders_of(self.what, there))), FIRST_LINE)
        if not there.is_now or not self.after or self.after == newest:
            return None
        says = Words("somebody ordered of it meanwhile: look at what is left to order first")
        return Wrong("number", says, ORDERED_MEANWHILE)


@dataclass(frozen=True)
class OrderMoved(OrderWork, kind="order_moved"):
    """What became of an order; the day it was `promised` for, where one was."""

    order: EntryId
    state: OrderState
    promised: date | None = None

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.order not in there.of_kind(OrderMade):
            return not_called("order", "order before it", self.order)
        if self.state is OrderState.PROMISED and self.promised is None:
            return Wrong("promised", Words("on which day it is to come"))
        return no_day("promised", self.promised) if self.promised else None


@dataclass(frozen=True)
class OrderCome(OrderWork, kind="order_come"):
    """So many of an order came, by a ticket or as counted. What is ordered by weight comes as a ticket of its own
    kind, which the base is held against too."""

    order: EntryId
    number: Annotated[float, Interval(gt=0, le=MOST_ORDERED)]
    ticket: Line = ""
    photo: Annotated[str, PHOTO_IF_ANY, doc("SHA-256 of a photo kept beside the record.")] = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.order not in there.of_kind(OrderMade):
            return not_called("order", "order before it", self.order)
        return None


@dataclass(frozen=True)
class HoursWorked(OrderWork, kind="hours"):
    """Hours that so many `people` worked each at a stage on a day, and how long a `machine` ran with them."""

    stage: Key
    on: date
    people: Annotated[int, Interval(ge=1, le=50)]
    hours: Annotated[float, "each_hours", Interval(gt=0, le=24)]
    machine: Annotated[float, "machine_hours", Interval(ge=0, le=24)] = 0.0

    def wrong(self, there: Circumstances) -> Wrong | None:
        if there.asks(self.stage) is None:
            return not_called("stage", "stage of this job", self.stage)
        return no_day("on", self.on)


@dataclass(frozen=True)
class Hired(OrderWork, kind="hired"):
    """Something on hire, paid by the day, from a day on."""

    what: Key
    first: date

    def wrong(self, there: Circumstances) -> Wrong | None:
        return no_day("first", self.first)


@dataclass(frozen=True)
class HireEnded(OrderWork, kind="hire_ended"):
    """Something on hire went back, on its `last` day."""

    hire: EntryId
    last: date

    def wrong(self, there: Circumstances) -> Wrong | None:
        hired = there.of_kind(Hired).get(self.hire)
        if hired is None:
            return not_called("hire", "hire before it", self.hire)
        if self.last < hired.first:
            return Wrong("last", Words("it came on {first}", days={"first": hired.first}))
        return no_day("last", self.last)
