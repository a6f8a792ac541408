"""What of a job somebody pays for: materials as they are sold, hours, what is hired, what is carted away."""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from groundwork.labour import Hire, OnHire, Task
from groundwork.money import Cost, Item, Line, PriceBook, Terms, number, priced
from groundwork.orders import Supply, WayToOrder, in_units, usual_way, ways_to_order
from groundwork.orderwork import Measure

DRIVER, CREW = "driver", "crew"
"""Whose hours have a price: at a machine, and any other's."""
HOUR, DAY = "hour", "day"


def cost_of(measure: Measure) -> Cost:
    """What is carted away is paid for as that."""
    return Cost.DISPOSAL if measure is Measure.LOOSE else Cost.MATERIAL


def way_bought(supply: Supply, book: PriceBook, on: date, *, metric: bool) -> WayToOrder:
    """The way of buying all of it that is cheapest by the crew's prices; the usual one where none has a price."""
    ways, cost = ways_to_order(supply.measure, metric=metric), cost_of(supply.measure)
    priced = [
        (price.amount * number(in_units(supply.wanted, way).number), way)
        for way in ways
        if (price := book.at(cost, supply.what, way.key, on))
    ]
    return min(priced, key=lambda each: each[0])[1] if priced else usual_way(supply.wanted, ways)


def materials(supplies: Iterable[Supply], book: PriceBook, on: date, *, metric: bool) -> Iterator[Item]:
    """Each thing rounded up once for the job, what each stage takes of that beside it."""
    for supply in supplies:
        way = way_bought(supply, book, on, metric=metric)
        if supply.measure is Measure.WATER and not book.units(Cost.MATERIAL, supply.what):
            continue  # from the tap, unless the crew pays for it
        so_far, bought = 0.0, 0.0
        for need in supply.needs:
            so_far += need.with_waste
            upto = in_units(so_far, way).number
            if upto > bought:
                yield Item(need.stage, cost_of(supply.measure), supply.what, way.key, number(upto - bought))
                bought = upto


def hours(tasks: Iterable[Task]) -> Iterator[Item]:
    """Person-hours by stage, those at a machine apart."""
    found: dict[tuple[str, str], float] = {}
    for task in tasks:
        key = task.stage, DRIVER if task.done.rate.machine == "excavator" else CREW
        found[key] = found.get(key, 0.0) + task.hours
    for (stage, who), amount in found.items():
        yield Item(stage, Cost.LABOUR, who, HOUR, number(amount, 1))


def hires(found: Iterable[Hire], stages: dict[str, str]) -> Iterator[Item]:
    """Days on hire, at the stage each is first needed at."""
    for hire in found:
        yield Item(stages.get(hire.what, "excavation"), Cost.HIRE, hire.what, DAY, Decimal(hire.days))


@dataclass(frozen=True)
class Spent:
    """What a job has had so far: its supplies, person-hours by stage, those of them at a machine, what was on hire,
    and at which stage each thing is."""

    supplies: Sequence[Supply]
    worked: dict[str, float]
    ran: dict[str, float]
    on_hire: Sequence[OnHire]
    hired_at: dict[str, str]


def spent_lines(of: Spent, book: PriceBook, terms: Terms, today: date, *, metric: bool) -> Iterator[Line]:
    """What came by its tickets, at the price on the day it was to come; hours and hire at today's."""
    for supply in of.supplies:
        stage = supply.needs[0].stage if supply.needs else "handover"
        for order in supply.orders:
            if order.has_come:
                bought = WayToOrder(order.made.way, supply.measure, order.made.holds)
                if bought.key not in book.units(cost_of(supply.measure), supply.what):
                    bought = way_bought(supply, book, order.day, metric=metric)
                came = number(order.has_come / bought.holds)
                item = Item(stage, cost_of(supply.measure), supply.what, bought.key, came)
                yield priced(item, book, terms, order.day)
        if supply.loose:
            way = way_bought(supply, book, today, metric=metric)
            came = number(sum(each.amount for each in supply.loose) / way.holds)
            yield priced(Item(stage, cost_of(supply.measure), supply.what, way.key, came), book, terms, today)
    for stage, amount in of.worked.items():
        driven = min(of.ran.get(stage, 0.0), amount)
        for who, hours_of in ((DRIVER, driven), (CREW, amount - driven)):
            if hours_of > 0:
                yield priced(Item(stage, Cost.LABOUR, who, HOUR, number(hours_of, 1)), book, terms, today)
    for hire in of.on_hire:
        stage = of.hired_at.get(hire.what, "excavation")
        yield priced(Item(stage, Cost.HIRE, hire.what, DAY, Decimal(hire.days(today))), book, terms, today)


def lines_to_come(
    of: Spent, tasks: Iterable[Task], planned: Iterable[Hire], ended: frozenset[str], book: PriceBook, terms: Terms,
    today: date, *, metric: bool,
) -> Iterator[Line]:  # fmt: skip
    """What is to be bought, worked and hired still: nothing at stages that have `ended`."""
    for supply in of.supplies:
        stages = [need.stage for need in supply.needs]
        left = supply.on_its_way + (0.0 if stages and all(s in ended for s in stages) else supply.to_order)
        if left > 0:
            way = way_bought(supply, book, today, metric=metric)
            stage = next((s for s in stages if s not in ended), stages[0] if stages else "handover")
            more = number(in_units(left, way).number)
            yield priced(Item(stage, cost_of(supply.measure), supply.what, way.key, more), book, terms, today)
    planned_hours = list(hours(tasks))
    for item in planned_hours:
        whole = sum(float(each.number) for each in planned_hours if each.stage == item.stage)
        left = float(item.number) * max(1 - of.worked.get(item.stage, 0.0) / whole, 0.0)
        if item.stage not in ended and left >= 0.05:
            yield priced(Item(item.stage, Cost.LABOUR, item.what, HOUR, number(left, 1)), book, terms, today)
    had: dict[str, int] = {}
    for each in of.on_hire:
        had[each.what] = had.get(each.what, 0) + each.days(today)
    for item in hires(planned, of.hired_at):
        days = int(item.number) - had.get(item.what, 0)
        had[item.what] = max(had.get(item.what, 0) - int(item.number), 0)
        if days > 0 and item.stage not in ended:
            yield priced(Item(item.stage, Cost.HIRE, item.what, DAY, Decimal(days)), book, terms, today)
