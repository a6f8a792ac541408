"""Money: exact in every currency and rounding, an estimate against a sum by hand, what was spent against it."""

from datetime import date
from decimal import Decimal
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.groundwork.test_stages import job as staged

from groundwork.assess import assess
from groundwork.costing import Spent, hires, hours, lines_to_come, materials, spent_lines
from groundwork.labour import OnHire, hired, planned_days
from groundwork.layerwork import Delivered
from groundwork.measures import Said, Words
from groundwork.money import (
    Cost,
    Item,
    Price,
    PriceBook,
    Terms,
    against,
    estimate_data,
    estimate_of,
    estimated,
    read_amount,
)
from groundwork.money.estimate import ROUNDINGS
from groundwork.orders import Need
from groundwork.orders.needs import Reckoned
from groundwork.orders.supply import supplies
from groundwork.orderwork import Measure, OrderMade

DAY = date(2026, 3, 2)
D = Decimal


def price(cost: Cost, what: str, unit: str, amount: str, since: date = DAY) -> Price:
    return Price(cost, what, unit, D(amount), since)


BOOK = PriceBook([
    price(Cost.MATERIAL, "graded-sub-base", "tonne", "38.50"), price(Cost.MATERIAL, "kerb", "piece", "7.85"),
    price(Cost.LABOUR, "crew", "hour", "42.00"), price(Cost.HIRE, "plate", "day", "65.00"),
    price(Cost.DISPOSAL, "spoil", "load taken away", "180.00"),
])  # fmt: skip
ITEMS = [
    Item("excavation", Cost.DISPOSAL, "spoil", "load taken away", D(1)),
    Item("early-edges", Cost.MATERIAL, "kerb", "piece", D(17)),
    Item("base-lifts", Cost.MATERIAL, "graded-sub-base", "tonne", D("9.0")),
    Item("base-lifts", Cost.LABOUR, "crew", "hour", D("2.4")),
    Item("base-lifts", Cost.HIRE, "plate", "day", D(2)),
]


def test_an_estimate_is_the_sum_by_hand() -> None:
    """Load 180.00; 17 × 7.85 = 133.45; 9.0 × 38.50 = 346.50, 2.4 × 42.00 = 100.80, 2 × 65.00 = 130.00: 577.30.
    Tenths of each stage, half up: 18.00, 13.35, 57.73: 89.08. 890.75 + 89.08 = 979.83, and a fifth of it in tax
    195.97."""
    of = estimated(ITEMS, BOOK, Terms(contingency=D("0.10"), tax=D("0.20")), DAY)
    assert [(s.stage, s.net, s.contingency) for s in of.stages] == [
        ("excavation", D("180.00"), D("18.00")), ("early-edges", D("133.45"), D("13.35")),
        ("base-lifts", D("577.30"), D("57.73")),
    ]  # fmt: skip
    assert (of.net, of.contingency, of.tax, of.total) == (D("890.75"), D("89.08"), D("195.97"), D("1175.80"))
    assert of.of(Cost.MATERIAL) == D("479.95") and of.of(Cost.LABOUR) == D("100.80")
    assert not of.unpriced


def test_what_has_no_price_is_named_and_adds_nothing() -> None:
    of = estimated([*ITEMS, Item("laying", Cost.MATERIAL, "gold", "bag", D(3))], BOOK, Terms(), DAY)
    assert [line.item.what for line in of.unpriced] == ["gold"] and of.net == D("890.75")


def test_a_price_holds_from_its_day_until_the_next() -> None:
    book = PriceBook(
        [price(Cost.HIRE, "saw", "day", "40", date(2026, 6, 1)), price(Cost.HIRE, "saw", "day", "35", DAY)]
    )
    at = {
        on: book.at(Cost.HIRE, "saw", "day", on)
        for on in (date(2026, 1, 1), DAY, date(2026, 5, 31), date(2026, 6, 1))
    }
    assert [p and p.amount for p in at.values()] == [35, 35, 35, 40]
    assert book.at(Cost.HIRE, "saw", "week", DAY) is None


def exactly(amount: Fraction, digits: int, how: str) -> Fraction:
    """Rounding as one would do it on paper, in whole coins (independent of the decimal library)."""
    coins = amount * 10**digits
    low = coins.numerator // coins.denominator
    rest = coins - low
    if how == "up":
        more = rest > 0
    elif how == "down":
        more = False
    else:
        more = rest > Fraction(1, 2) or (rest == Fraction(1, 2) and (how == "half up" or low % 2 == 1))
    return Fraction(low + more, 10**digits)


amounts = st.decimals(min_value=0, max_value=100_000, places=3, allow_nan=False, allow_infinity=False)
items = st.builds(
    Item, st.sampled_from(["a", "b", "c"]), st.sampled_from(Cost), st.sampled_from(["x", "y", "z"]), st.just("bag"),
    st.decimals(min_value=0, max_value=5000, places=2, allow_nan=False, allow_infinity=False),
)  # fmt: skip


@given(
    st.lists(items, max_size=12),
    st.lists(st.tuples(st.sampled_from(Cost), st.sampled_from("xyz"), amounts), max_size=9),
    st.sampled_from([0, 2, 3]), st.sampled_from(sorted(ROUNDINGS)),
    st.decimals(min_value=0, max_value=1, places=4), st.decimals(min_value=0, max_value=1, places=4),
)  # fmt: skip
def test_sums_of_lines_equal_totals_to_the_coin_in_every_rounding(rows, prices, digits, rounding, extra, tax) -> None:
    terms = Terms("EUR", digits, extra, tax, rounding)
    book = PriceBook([Price(cost, what, "bag", amount, DAY) for cost, what, amount in prices])
    of = estimated(rows, book, terms, DAY)
    lines = [line for line in of.lines if line.sum is not None]
    for line in lines:
        exact = Fraction(line.price) * Fraction(line.item.number)
        assert Fraction(line.sum) == exactly(exact, digits, rounding)
    assert of.net == sum((line.sum for line in lines), D(0)) == sum((of.of(c) for c in Cost), D(0))
    for stage in of.stages:
        assert stage.net == sum((line.sum for line in stage.lines if line.sum is not None), D(0))
        assert Fraction(stage.contingency) == exactly(Fraction(stage.net) * Fraction(extra), digits, rounding)
    assert of.total == of.net + sum((s.contingency for s in of.stages), D(0)) + of.tax
    assert Fraction(of.tax) == exactly(Fraction(of.before_tax) * Fraction(tax), digits, rounding)
    assert len(of.unpriced) + len(lines) == len(rows)
    assert estimate_of(estimate_data(of)) == of


@pytest.mark.parametrize(
    ("typed", "digits", "amount"),
    [("12.5", 2, "12.50"), ("1 234,50", 2, "1234.50"), ("1,234.50", 2, "1234.50"), ("1.234,50", 2, "1234.50"),
     ("0", 2, "0.00"), ("38", 0, "38"), ("1.125", 3, "1.125"), ("1'234.5", 2, "1234.50")],
)  # fmt: skip
def test_money_as_people_type_it(typed: str, digits: int, amount: str) -> None:
    assert read_amount(typed, digits) == D(amount)


@pytest.mark.parametrize(
    "typed", ["", "a", "-3", "1,2,3", "1.2.3", "nan", "inf", "1e5", "12.345", "99999999999", "٣", "1.2,3.4", "+4"]
)
def test_what_is_no_amount_of_money(typed: str) -> None:
    with pytest.raises(Said):
        read_amount(typed, 2)


def test_a_job_is_priced_by_what_it_takes() -> None:
    """Kerbed pad: 8.85 t of stone are 9.0 by the half tonne, 17 kerbs, a load away, water from the tap."""
    job = assess(staged("kerbed"))
    found = {(i.stage, i.what): (i.unit, i.number) for i in materials(job.orders.supplies, BOOK, DAY, metric=True)}
    assert found["base-lifts", "graded-sub-base"] == ("tonne", D("9.0"))
    assert found["early-edges", "kerb"] == ("piece", D(17))
    assert found["excavation", "spoil"] == ("load taken away", D(1))
    assert not any(what == "water" for _stage, what in found)
    worked = {(i.stage, i.what): i.number for i in hours(job.labour.tasks({}))}
    assert worked["laying", "crew"] == D("6.0") and worked["excavation", "driver"] == D("1.0")


def test_one_buys_the_way_that_is_cheapest_for_all_of_it() -> None:
    """1 386 kg of sand: two bulk bags at 55 are 110, 56 bags at 3.10 are 173.60, 1.5 tonnes at 80 are 120."""
    sand = [price(Cost.MATERIAL, "sharp-sand", unit, amount) for unit, amount in
            (("bulk bag", "55"), ("bag", "3.10"), ("tonne", "80"))]  # fmt: skip
    stock = assess(staged("kerbed")).orders.supplies
    (bought,) = (i for i in materials(stock, PriceBook(sand), DAY, metric=True) if i.what == "sharp-sand")
    assert (bought.unit, bought.number) == ("bulk bag", D("2"))


def test_a_thing_of_two_stages_is_rounded_up_once() -> None:
    """Cement 60 kg at one stage and 55 at another: five bags of 25, three and two, not three and three."""

    needs = [Need(stage, "cement", Measure.MASS, (Reckoned(Words("so"), kilograms),))
             for stage, kilograms in (("early-edges", 60.0), ("bedding", 55.0))]  # fmt: skip
    book = PriceBook([price(Cost.MATERIAL, "cement", "bag", "6.40")])
    found = list(materials(supplies(needs, (), (), (), ()), book, DAY, metric=True))
    assert [(i.stage, i.number) for i in found] == [("early-edges", D(3)), ("bedding", D(2))]


def test_then_against_now() -> None:
    """9.0 t were estimated; 10 t came (385.00) and nothing is to come: 38.50 over what was estimated for stone. The
    base took 4 h (168.00) of the 2.4 thought of."""
    job = assess(staged("kerbed"))
    stone = next(s for s in job.orders.supplies if s.what == "graded-sub-base")
    made = OrderMade("o", "graded-sub-base", Measure.MASS, "tonne", 1000.0, 10.0, DAY)
    come = [Delivered("t", "t", "graded-sub-base", 10_000.0, order="o")]
    (had,) = supplies(stone.needs, [made], (), (), come)
    of = Spent([had], {"base-lifts": 4.0}, {}, [OnHire("h", "plate", DAY, DAY)], {"plate": "base-lifts"})
    then = estimated([i for i in ITEMS if i.stage == "base-lifts"], BOOK, Terms(contingency=D("0.10")), DAY)
    spent = list(spent_lines(of, BOOK, Terms(), DAY, metric=True))
    assert [(x.item.what, x.sum) for x in spent] == [
        ("graded-sub-base", D("385.00")),
        ("crew", D("168.00")),
        ("plate", D("65.00")),
    ]
    tasks = [t for t in job.labour.tasks({}) if t.stage == "base-lifts"]
    left = list(lines_to_come(of, tasks, (), frozenset(), BOOK, Terms(), DAY, metric=True))
    assert left == []  # more hours than were thought of, all the stone there
    now = against(then, spent, left)
    (stage,) = now.stages
    assert (stage.estimated, stage.spent, stage.over) == (D("577.30"), D("618.00"), D("40.70"))
    assert now.contingency_left == D("57.73") - D("40.70")


def test_what_is_to_come_is_what_is_left_of_needs_hours_and_hire() -> None:
    job = assess(staged("kerbed"))
    of = Spent(job.orders.supplies, {"laying": 2.0}, {}, (), {"plate": "subgrade"})
    tasks = job.labour.tasks({})
    days = planned_days({t.stage: t.hours for t in tasks}, DAY, 2, 8.0)
    lines = list(
        lines_to_come(
            of, tasks, hired(job.labour.kit, days), frozenset({"early-edges"}), BOOK, Terms(), DAY, metric=True
        )
    )
    found = {(x.item.stage, x.item.what): x.item.number for x in lines}
    assert found["laying", "crew"] == D("4.0")  # 6 h less the two worked
    assert ("early-edges", "kerb") not in found and found["base-lifts", "graded-sub-base"] == D("9.0")
    assert [i.number for i in hires(hired(job.labour.kit, days), {"plate": "subgrade"}) if i.what == "plate"]
