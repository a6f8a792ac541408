"""Orders, hours and hire on their pages: made, settled by tickets, asked about where two order the same at once."""

import csv
import io
import re
import uuid
from datetime import date, timedelta

import pytest
from icalendar import Calendar
from tests.conftest import World, made, make_world
from tests.nivelum.test_instruments import url

from groundwork.orderwork import FIRST_LINE, Hired, Measure, OrderMade
from nivelum.jobs.models import Entry

STONE = "dense-graded"


def send(world: World, leaf: str, role: str = "crew", away: bool = False, **fields: str):
    headers = {"accept": "application/json"} if away else {}
    data = {"entry_id": str(uuid.uuid4()), **fields}
    return world.client(role).post(url(world, leaf), data, headers=headers)


def order(world: World, number: str = "8.5", what: str = STONE, after: str = FIRST_LINE, **more: str):
    fields = {
        "what": what,
        "measure": "mass",
        "way": "tonne",
        "number": number,
        "wanted": "2026-12-04",
        "newest": after,
    }
    return send(world, "order/placed/made/", **fields | more)


def supply(world: World, what: str = STONE):
    return next(s for s in world.assessment().orders.supplies if s.what == what)


def page(world: World, leaf: str = "order/placed/", role: str = "crew") -> str:
    answer = world.client(role).get(url(world, leaf))
    assert answer.status_code == 200
    return " ".join(re.sub(r"<[^>]*>", " ", answer.content.decode()).split())


def test_an_order_is_made_promised_and_settled_by_its_tickets(world: World) -> None:
    """8 316 kg are wanted: 8.5 t ordered; 8 200 kg come by one ticket, 300 by another."""
    assert "to order: 8.5 tonnes" in page(world)
    assert order(world, "8,5", supplier="the quarry").status_code == 302
    shown = page(world)
    assert "8.5 tonnes · ordered, 4 Dec · the quarry" in shown
    made_id = supply(world).orders[0].made.id
    assert (
        send(world, "order/placed/moved/", order=made_id, state="promised", promised="2026-12-07").status_code == 302
    )
    assert "promised, 7 Dec" in page(world)
    assert send(world, "order/placed/come/", order=made_id, number="8.2", ticket="A-1").status_code == 302
    assert Entry.objects.filter(job=world.job, kind="delivered", body__ticket="A-1", body__mass_kg=8200.0).exists()
    tally = next(t for t in world.assessment().works.tallies if t.material == STONE)
    assert tally.delivered == 8200.0  # the same ticket that the base is held against
    there = supply(world)
    assert there.on_its_way == pytest.approx(300.0) and not there.to_order
    assert send(world, "order/placed/come/", order=made_id, number="0.3", ticket="A-2").status_code == 302
    assert "came, 7 Dec" in page(world) and supply(world).on_its_way == 0.0


def test_a_ticket_that_lifts_logged_settles_the_oldest_order(world: World) -> None:
    order(world)
    data = {"ticket": "B-1", "material": STONE, "mass": "8.5"}
    assert send(world, "lifts/delivered/", **data).status_code in (200, 302)
    assert supply(world).orders[0].has_come == 8500.0


def test_a_bag_or_a_pallet_holds_what_its_supplier_says(world: World) -> None:
    pallet = {"what": "concrete-block", "measure": "pieces", "way": "pallet", "number": "3"}
    refused = order(world, **pallet)
    assert refused.status_code == 422 and "How many are on one?" in refused.content.decode()
    assert order(world, **pallet, holds="488").status_code == 302
    assert supply(world, "concrete-block").on_its_way == 1464.0
    assert order(world, "4", "concrete-sand", way="bag", holds="20").status_code == 302
    assert supply(world, "concrete-sand").on_its_way == 80.0


def test_pieces_come_by_count(world: World) -> None:
    order(world, "17", "kerb", measure="pieces", way="piece")
    made_id = supply(world, "kerb").orders[0].made.id
    assert send(world, "order/placed/come/", order=made_id, number="15", ticket="K").status_code == 302
    assert supply(world, "kerb").on_its_way == 2.0
    assert send(world, "order/placed/moved/", order=made_id, state="closed").status_code == 302
    assert "to order: 2" in page(world)


@pytest.mark.parametrize(
    ("harm", "says"),
    [({"number": "0"}, "greater than or equal"), ({"number": "a lot"}, "number"), ({"wanted": "soon"}, "date"),
     ({"way": "pallet"}, "valid choice"), ({"wanted": "1999-01-01"}, "ay of this century"),
     ({"number": "nan"}, "number"), ({"number": "1e9"}, "less than or equal")],
)  # fmt: skip
def test_what_cannot_be_ordered_is_said_beside_its_field_and_nothing_typed_is_lost(world: World, harm, says) -> None:
    answer = order(world, **{"supplier": "the old quarry"} | harm)
    shown = answer.content.decode()
    assert answer.status_code == 422 and says in shown and "the old quarry" in shown
    assert not Entry.objects.filter(job=world.job, kind="order").exists()


def test_what_a_file_brought_of_odd_things_breaks_no_page(world: World) -> None:
    odd = [("100% <b>x</b> y", "cartload", 3.5), ("concrete-block 9 x a", "piece", 1e5), ("=1+1", "bag", 0.01)]
    for n, (what, way, number) in enumerate(odd):
        world.record(
            OrderMade(str(uuid.uuid4()), what, list(Measure)[n], way, 7.0, number, date(2026, 12, 4), "=x" * 40)
        )
    world.record(Hired(str(uuid.uuid4()), "a %s dragon", date(2026, 12, 1)))
    for leaf in (
        "order/",
        "order/placed/",
        "order/work/",
        "order/costs/",
        "order/sheet.csv",
        "order/placed.ics",
        "record/",
    ):
        answer = world.client("lead").get(url(world, leaf))
        assert answer.status_code == 200, leaf
        assert leaf.endswith((".csv", ".ics")) or b"<b>x</b>" not in answer.content, leaf
    rows = world.client("lead").get(url(world, "order/sheet.csv")).content.decode("utf-8-sig")
    assert "3.5 × cartload" in rows and not re.search(r"(?:^|,)=", rows, re.M)


def test_two_who_order_the_same_at_once_are_asked_and_none_is_lost_or_made_twice(world: World) -> None:
    first = {"entry_id": str(uuid.uuid4())}
    assert order(world, **first).status_code == 302
    assert order(world, **first).status_code == 302  # sent again
    assert Entry.objects.filter(job=world.job, kind="order").count() == 1
    second = {"entry_id": str(uuid.uuid4())}
    answer = order(world, "4", **second)
    assert answer.status_code == 422 and "omebody ordered of it meanwhile" in answer.content.decode()
    assert f'name="newest" value="{first["entry_id"]}"' in answer.content.decode()  # pressed again, it stands
    away = order(world, "4", role="lead", away=True, **second) if False else send(
        world, "order/placed/made/", "lead", True, what=STONE, measure="mass", way="tonne", number="4",
        wanted="2026-12-04", newest=FIRST_LINE, **second,
    )  # fmt: skip
    refusal = away.json()
    assert refusal["refused"] == "ordered"
    (again,) = (way for way in refusal["ways"] if way["does"] == "again")
    assert again["sets"] == {"newest": first["entry_id"]}
    fields = {"what": STONE, "measure": "mass", "way": "tonne", "number": "4", "wanted": "2026-12-04"}
    sent = send(world, "order/placed/made/", "lead", True, **fields, **again["sets"], **second)
    assert sent.json()["written"] == second["entry_id"]
    assert [o.made.number for o in supply(world).orders] == [8.5, 4.0] and supply(world).over > 0


def test_who_only_looks_orders_nothing(world: World) -> None:
    assert send(world, "order/placed/made/", "viewer", what=STONE).status_code == 403
    assert "Order dense" not in page(world, role="viewer")


def test_sheets_for_a_supplier(world: World) -> None:
    order(world, supplier="=the quarry")
    order(world, "17", "kerb", measure="pieces", way="piece", supplier="Kerb & Co")
    rows = list(
        csv.DictReader(
            io.StringIO(world.client("crew").get(url(world, "order/sheet.csv")).content.decode("utf-8-sig"))
        )
    )
    assert [(r["order"], r["day"], r["supplier"]) for r in rows] == [
        ("17", "2026-12-04", "Kerb & Co"), ("8.5 tonnes", "2026-12-04", "'=the quarry"),
    ] or [r["order"] for r in rows] == ["8.5 tonnes", "17"]  # fmt: skip
    only = world.client("crew").get(url(world, "order/sheet.csv?supplier=Kerb %26 Co")).content.decode()
    assert "17" in only and "8.5 tonnes" not in only
    assert made(world.client("crew"), url(world, "order/sheet.pdf")).content.startswith(b"%PDF")
    calendar = Calendar.from_ical(world.client("crew").get(url(world, "order/placed.ics")).content)
    assert {str(e["summary"]).split(": ", 1)[1] for e in calendar.walk("VEVENT")} == {
        "kerb: 17", "dense-graded crushed stone, 20 to 40 mm to fines: 8.5 tonnes",
    }  # fmt: skip
    assert {e["dtstart"].dt for e in calendar.walk("VEVENT")} == {date(2026, 12, 4)}


def test_hours_and_hire_are_written_down_and_struck_out(world: World) -> None:
    today = date.today()
    data = {"stage": "excavation", "on": today.isoformat(), "people": "2", "hours": "6,5", "machine": ""}
    assert send(world, "order/work/worked/", **data).status_code == 302
    assert world.assessment().labour.worked == {"excavation": 13.0}
    assert "13.0 worked" in page(world, "order/work/")
    entry = Entry.objects.get(job=world.job, kind="hours")
    assert send(world, "order/work/strike/", strikes=str(entry.id)).status_code == 302
    assert world.assessment().labour.worked == {}
    assert send(world, "order/work/worked/", **data | {"hours": "25"}).status_code == 422
    assert send(world, "order/work/worked/", **data | {"stage": "party"}).status_code == 422
    assert send(world, "order/work/hire/", what="plate", first=today.isoformat()).status_code == 302
    (hire,) = world.assessment().labour.on_hire
    early = send(world, "order/work/back/", hire=hire.entry, last=(today - timedelta(days=3)).isoformat())
    assert early.status_code == 422 and "t came on" in early.content.decode()
    assert send(world, "order/work/back/", hire=hire.entry, last=today.isoformat()).status_code == 302
    assert world.assessment().labour.on_hire[0].days(today) == 1


@pytest.mark.parametrize("rod", ["ft-in", "ft"])
def test_in_feet_one_orders_in_short_tons_and_yards(db, rod: str) -> None:
    world = make_world(rod=rod)
    world.crew.region = "en-us"
    world.crew.save()
    assert "to order: 9.5 short tons" in page(world)
    assert send(world, "order/placed/made/", what=STONE, measure="mass", way="short ton", number="9.5",
                wanted="2026-12-04", newest=FIRST_LINE).status_code == 302  # fmt: skip
    entry = next(o.made for o in supply(world).orders)
    assert isinstance(entry, OrderMade) and entry.number * entry.holds == pytest.approx(9.5 * 907.18474)
