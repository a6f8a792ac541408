"""What was ordered against what is needed: tickets settle orders, short or over is known, none counts twice."""

import math
from dataclasses import replace
from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.groundwork.test_stages import job as staged

from groundwork.assess import assess
from groundwork.entries import Strike
from groundwork.layerwork import Delivered
from groundwork.measures import Words
from groundwork.orders import Need, OrderStanding, Supply
from groundwork.orders.needs import Reckoned
from groundwork.orders.supply import supplies
from groundwork.orderwork import (
    FIRST_LINE,
    Measure,
    OrderCome,
    OrderMade,
    OrderMoved,
    OrderState,
)
from groundwork.orderwork.kinds import ORDERED_MEANWHILE

DAY = date(2026, 3, 2)
STONE = (Need("base-lifts", "dense-graded", Measure.MASS, (Reckoned(Words("stone"), 16_000.0),)),)


def order(key: str, tonnes: float, days: int = 0, what: str = "dense-graded") -> OrderMade:
    return OrderMade(key, what, Measure.MASS, "tonne", 1000.0, tonnes, DAY + timedelta(days=days))


def ticket(key: str, kilograms: float, of: str = "") -> Delivered:
    return Delivered(key, key, "dense-graded", kilograms, order=of)


def supply(orders=(), moved=(), come=(), tickets=(), needs=STONE) -> Supply:
    return supplies(needs, orders, moved, come, tickets)[0]


def test_nothing_ordered_is_all_to_order() -> None:
    found = supply()
    assert (found.wanted, found.to_order, found.on_its_way, found.over) == (16_000.0, 16_000.0, 0.0, 0.0)


def test_two_loads_settle_an_order_of_sixteen_tonnes_though_one_weighs_a_little_less() -> None:
    """8 200 and 7 600 kg are 15.8 t of 16: 1.25 % less than asked is all of it, and 0.2 t are short of what is
    needed."""
    found = supply([order("o1", 16)], tickets=[ticket("a", 8200)])
    assert found.orders[0].standing is OrderStanding.PART_COME
    assert found.on_its_way == 7800.0 and found.to_order == 0.0
    found = supply([order("o1", 16)], tickets=[ticket("a", 8200), ticket("b", 7600)])
    assert found.orders[0].standing is OrderStanding.COME and found.on_its_way == 0.0
    assert found.to_order == pytest.approx(200.0) and found.over == 0.0


def test_a_ticket_goes_to_the_order_it_names_else_to_the_oldest_that_waits_and_the_rest_of_it_on() -> None:
    orders = [order("o1", 4), order("o2", 12, days=2)]
    found = supply(orders, tickets=[ticket("a", 6000, of="o2")])
    assert [o.has_come for o in found.orders] == [0.0, 6000.0]
    found = supply(orders, tickets=[ticket("a", 10_000)])
    assert [o.has_come for o in found.orders] == [4000.0, 6000.0]
    assert [o.standing for o in found.orders] == [OrderStanding.COME, OrderStanding.PART_COME]


def test_what_comes_without_an_order_counts_as_there() -> None:
    found = supply(tickets=[ticket("a", 18_500)])
    assert found.has_come == 18_500.0 and found.to_order == 0.0 and found.over == 2500.0
    assert [c.ticket for c in found.loose] == ["a"]


def test_what_is_called_off_or_was_all_is_to_be_ordered_again() -> None:
    off = supply([order("o1", 16)], moved=[OrderMoved("m", "o1", OrderState.OFF)])
    assert off.orders[0].standing is OrderStanding.OFF and off.to_order == 16_000.0
    closed = supply([order("o1", 16)], [OrderMoved("m", "o1", OrderState.CLOSED)], tickets=[ticket("a", 9000, "o1")])
    assert closed.orders[0].standing is OrderStanding.COME and closed.on_its_way == 0.0 and closed.to_order == 7000.0
    again = OrderMoved("n", "o1", OrderState.PROMISED, DAY + timedelta(days=5))
    back = supply([order("o1", 16)], [OrderMoved("m", "o1", OrderState.OFF), again])
    assert back.orders[0].standing is OrderStanding.PROMISED and back.orders[0].day == DAY + timedelta(days=5)
    assert back.to_order == 0.0


def test_pieces_come_by_count() -> None:
    """17 kerbs are needed, 20 were ordered, 15 came and then 5: three over."""
    kerbs = (Need("early-edges", "kerb", Measure.PIECES, (Reckoned(Words("kerbs"), 17.0),)),)
    made = OrderMade("k", "kerb", Measure.PIECES, "piece", 1.0, 20.0, DAY)
    part = supply([made], come=[OrderCome("c", "k", 15.0)], needs=kerbs)
    assert part.on_its_way == 5.0 and part.over == 3.0
    all_of_it = supply([made], come=[OrderCome("c", "k", 15.0), OrderCome("d", "k", 5.0)], needs=kerbs)
    assert all_of_it.orders[0].standing is OrderStanding.COME and all_of_it.over == 3.0


def test_what_was_ordered_and_is_not_needed_any_more_stays_in_sight() -> None:
    found = supplies((), [order("o1", 2, what="chip")], (), (), ())
    assert [s.what for s in found] == ["chip"] and found[0].over == 2000.0


@given(
    st.lists(st.tuples(st.floats(0.5, 20), st.booleans()), max_size=5),
    st.lists(st.tuples(st.floats(50, 20_000), st.sampled_from(["", "o0", "o1", "o9"])), max_size=8),
)
def test_every_kilogram_that_came_counts_once(asked, came) -> None:
    orders = [order(f"o{n}", round(tonnes, 2)) for n, (tonnes, _off) in enumerate(asked)]
    moved = [OrderMoved(f"m{n}", f"o{n}", OrderState.OFF) for n, (_t, off) in enumerate(asked) if off]
    tickets = [ticket(f"t{n}", kilograms, of) for n, (kilograms, of) in enumerate(came)]
    found = supply(orders, moved, tickets=tickets)
    assert found.has_come == pytest.approx(math.fsum(t.mass for t in tickets))
    assert found.to_order == 0.0 or found.over == 0.0
    assert found.wanted - found.to_order + found.over == pytest.approx(found.has_come + found.on_its_way, rel=1e-5)


def there(*entries):
    return assess(replace(staged("dense"), entries=entries)).standing


def test_two_who_order_the_same_at_once_are_told_of_each_other() -> None:
    """Ines and Odo both saw nothing ordered; what comes second is asked about, sent again it may stand."""
    first = replace(order("o1", 8.5), after=FIRST_LINE)
    second = replace(order("o2", 8.5), after=FIRST_LINE)
    assert first.wrong(there()) is None
    wrong = second.wrong(there(first))
    assert wrong and (wrong.field, wrong.code) == ("number", ORDERED_MEANWHILE)
    assert replace(second, after="o1").wrong(there(first)) is None
    assert replace(order("o3", 2, what="chip"), after=FIRST_LINE).wrong(there(first)) is None
    assert second.wrong(there(first, Strike("x", "o1"))) is None


@pytest.mark.parametrize(
    ("entry", "field"),
    [
        (OrderMoved("m", "nobody", OrderState.OFF), "order"),
        (OrderMoved("m", "o1", OrderState.PROMISED), "promised"),
        (OrderCome("c", "nobody", 1.0), "order"),
        (replace(order("o2", 1), wanted=date(1999, 1, 1)), "wanted"),
    ],
)
def test_what_cannot_stand(entry, field: str) -> None:
    wrong = entry.wrong(there(order("o1", 8)))
    assert wrong and wrong.field == field


def test_a_job_has_its_orders_beside_its_needs() -> None:
    """8 627.9 kg and 5 % are 9 059 kg: of 8.5 t ordered, 559 kg are to order still."""
    job = replace(staged("dense"), entries=(order("o1", 8.5), ticket("a", 8500)))
    stone = next(s for s in assess(job).orders.supplies if s.what == "dense-graded")
    assert stone.to_order == pytest.approx(26.145 * 0.15 * 2200 * 1.05 - 8500, rel=1e-4)
    assert stone.orders[0].standing is OrderStanding.COME
