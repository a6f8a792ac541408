"""Orders: what is to order still, what is on its way, what came; sheets for a supplier."""

import csv
import hashlib
import io
from dataclasses import dataclass, replace
from datetime import timedelta
from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.views.decorators.http import require_GET, require_POST
from icalendar import Calendar, Event

from groundwork.base import catalogue
from groundwork.measures import Unit
from groundwork.orders import Order, OrderStanding, Supply, WayToOrder, in_units, usual_way, ways_to_order
from groundwork.orderwork import FIRST_LINE, Measure, OrderMade
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.exchange.cells import harmless
from nivelum.exchange.printed import pdf_answer
from nivelum.exchange.views import download
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.money.things import measured, numbered, thing
from nivelum.orders.forms import OrderComeForm, OrderForm, OrderMovedForm, TicketForm
from nivelum.orders.kinds import day_words, order_words
from nivelum.orders.screens import order_screen
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.forms import EntryForm
from nivelum.workshop.printing import Sheet, page_font, printed
from nivelum.workshop.shelf import PRINTED

STANDS = {
    OrderStanding.ORDERED: gettext_lazy("ordered"),
    OrderStanding.PROMISED: gettext_lazy("promised"),
    OrderStanding.PART_COME: gettext_lazy("part of it came"),
    OrderStanding.COME: gettext_lazy("came"),
    OrderStanding.OFF: gettext_lazy("called off"),
}


@dataclass(frozen=True)
class OrderRow:
    """An order as it is shown, with the form for what comes of it."""

    order: Order
    says: str
    stands: str
    day: str
    came: str
    form: EntryForm
    by_weight: bool


@dataclass(frozen=True)
class SupplyRow:
    """A thing as it is shown: what is wanted of it, there, on its way; what to order still, short or over, in what
    one orders in; its orders, and the form to order more."""

    supply: Supply
    title: str
    wanted: str
    come: str
    on_its_way: str
    says: str
    is_short: bool
    after: str
    form: EntryForm
    held_in: str
    orders: list[OrderRow]

    @property
    def is_taken_away(self) -> bool:
        return self.supply.measure is Measure.LOOSE


def _way(supply: Supply, unit: Unit) -> WayToOrder:
    """What one orders a thing in: as it was ordered last, else the usual way for all of it."""
    ways = ways_to_order(supply.measure, metric=unit.is_metric)
    if supply.orders:
        last = supply.orders[-1].made
        known = {way.key: way for way in ways}.get(last.way)
        return replace(known, holds=last.holds) if known else WayToOrder(last.way, last.measure, last.holds)
    return usual_way(max(supply.wanted, supply.to_order), ways)


def _says(supply: Supply, unit: Unit) -> str:
    """What is short or over, in the unit one orders in."""
    way = _way(supply, unit)
    if supply.to_order:
        return _("to order: {amount}").format(amount=numbered(in_units(supply.to_order, way).number, way.key))
    if supply.over > 0.02 * max(supply.wanted, 1e-9):
        return _("over: {amount}").format(amount=_in_ways(supply.over, way, unit))
    return _("all of it ordered") if supply.on_its_way else _("all of it here")


def _held_in(measure: Measure, unit: Unit) -> str:
    """What is asked of a bag or a pallet that is not as they usually are."""
    if measure is Measure.PIECES:
        return _("on a pallet")
    metric = {
        Measure.MASS: _("one holds, kg"), Measure.LENGTH: _("one holds, m"), Measure.AREA: _("one holds, m²"),
    }  # fmt: skip
    feet = {
        Measure.MASS: _("one holds, lb"), Measure.LENGTH: _("one holds, feet"),
        Measure.AREA: _("one holds, square feet"),
    }  # fmt: skip
    cubic = _("one holds, m³") if unit.is_metric else _("one holds, cubic yards")
    return (metric if unit.is_metric else feet).get(measure, cubic)


def _in_ways(amount: float, way: WayToOrder, unit: Unit) -> str:
    """An amount in what one orders in, to a quarter of one; by weight or measure where it is less than that."""
    number = round(amount / way.holds * 4) / 4
    return numbered(number, way.key) if number else measured(amount, way.measure, unit)


def is_by_weight(made: OrderMade) -> bool:
    """What comes as a ticket that the base is held against."""
    return made.measure is Measure.MASS and made.what in catalogue()


def _come_form(made: OrderMade, data: Any = None, files: Any = None) -> EntryForm:
    named = {"auto_id": f"id_{made.id[:8]}_%s"}
    if is_by_weight(made):
        return TicketForm(data, files, made=made, **named)
    return OrderComeForm(data, files, **named)


def _ids(what: str) -> str:
    """How the fields of a thing's form are called: by nothing that somebody may have typed."""
    return f"id_{hashlib.sha256(what.encode()).hexdigest()[:10]}_%s"


def _row(supply: Supply, unit: Unit, sent: dict[str, EntryForm]) -> SupplyRow:
    way = _way(supply, unit)
    form = sent.get(supply.what) or OrderForm(
        metric=unit.is_metric, measure=supply.measure, auto_id=_ids(supply.what),
        initial={"number": f"{in_units(supply.to_order, way).number:g}" if supply.to_order else "", "way": way.key,
                 "wanted": (timezone.localdate() + timedelta(days=2)).isoformat()},
    )  # fmt: skip
    orders = [
        OrderRow(
            order, numbered(order.made.number, order.made.way), str(STANDS[order.standing]), day_words(order.day),
            measured(order.has_come, supply.measure, unit) if order.has_come else "",
            sent.get(order.made.id) or _come_form(order.made), is_by_weight(order.made),
        )
        for order in supply.orders
    ]  # fmt: skip
    return SupplyRow(
        supply, thing(supply.what, unit), measured(supply.wanted, supply.measure, unit),
        measured(supply.has_come, supply.measure, unit), measured(supply.on_its_way, supply.measure, unit),
        _says(supply, unit), supply.to_order > 0, supply.newest or FIRST_LINE, form,
        _held_in(supply.measure, unit), orders,
    )  # fmt: skip


def _placing(visit: Visit, shot: Snapshot, sent: dict[str, EntryForm] | None = None) -> dict[str, Any]:
    unit = visit.job.crew.unit
    rows = [
        _row(supply, unit, sent or {})
        for supply in shot.assessment.orders.supplies
        if supply.measure is not Measure.WATER or supply.orders
    ]
    first = next((row.supply.what for row in rows if row.is_short), "")
    return order_screen(visit, shot, "orders") | {
        "rows": rows, "first": first, "short": sum(row.is_short for row in rows), "sent": set(sent or ()),
        "coming": sorted((o for row in rows for o in row.supply.orders if o.on_its_way), key=lambda o: o.day)[:1],
        "suppliers": list(dict.fromkeys(o.made.supplier for o in _all(shot) if o.made.supplier)),
        "moved_form": OrderMovedForm(),
    }  # fmt: skip


def _all(shot: Snapshot) -> list[Order]:
    return [order for supply in shot.assessment.orders.supplies for order in supply.orders]


@require_GET
@job_view(Verb.SEE)
def orders(request: Request, visit: Visit) -> HttpResponse:
    """Thing by thing what is to order, on its way, here."""
    return shown(request, _at(visit), _placing(visit, snapshot(visit.job)))


@require_GET
@job_view(Verb.SEE)
def orders_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    return render(request, "orders/placed_now.html", _placing(visit, snapshot(visit.job)))


@require_POST
@job_view(Verb.MEASURE)
def make_order(request: Request, visit: Visit) -> HttpResponse:
    """Orders something."""
    what = request.POST.get("what", "")
    form = OrderForm(request.POST, metric=visit.job.crew.unit.is_metric, auto_id=_ids(what))
    done = recorded(visit, form, "number")
    return _answer(request, visit, done, {} if done else {what: form})


def _order_named(visit: Visit, request: Request) -> OrderMade:
    known = {order.made.id: order.made for order in _all(snapshot(visit.job))}
    made = known.get(request.POST.get("order", ""))
    if made is None:
        raise Http404
    return made


@require_POST
@job_view(Verb.MEASURE)
def order_come(request: Request, visit: Visit) -> HttpResponse:
    """Something of an order came."""
    made = _order_named(visit, request)
    form = _come_form(made, request.POST, request.FILES)
    done = recorded(visit, form, "number")
    return _answer(request, visit, done, {} if done else {made.id: form})


@require_POST
@job_view(Verb.MEASURE)
def order_moved(request: Request, visit: Visit) -> HttpResponse:
    """A day was promised, that was all, or it is called off."""
    made = _order_named(visit, request)
    form = OrderMovedForm(request.POST, auto_id=f"id_m{made.id[:8]}_%s")
    done = recorded(visit, form, "promised")
    return answered(
        request, done, _at(visit),
        lambda: _placing(visit, snapshot(visit.job)) | ({} if done else {"wrong_of": made.id, "wrong_form": form}),
    )  # fmt: skip


def _answer(request: Request, visit: Visit, done: object, sent: dict[str, EntryForm]) -> HttpResponse:
    return answered(request, done, _at(visit), lambda: _placing(visit, snapshot(visit.job), sent))


def _at(visit: Visit) -> RecordedAt:
    return RecordedAt("orders/placed.html", "orders/placed_now.html", reverse("orders", args=[visit.job.id]))


def _sheet_rows(shot: Snapshot, supplier: str) -> list[Order]:
    """Orders that wait, of a supplier or of all, by the day they are to come."""
    waiting = [o for o in _all(shot) if o.on_its_way and (not supplier or o.made.supplier == supplier)]
    return sorted(waiting, key=lambda order: order.day)


@require_GET
@job_view(Verb.SEE)
def order_sheet(request: Request, visit: Visit, ending: str) -> HttpResponse:
    """What is on order, for a supplier to read: PDF or CSV. No money is on it."""
    supplier, shot, unit = request.GET.get("supplier", "")[:80], snapshot(visit.job), visit.job.crew.unit
    rows = _sheet_rows(shot, supplier)
    if ending == "csv":
        stream = io.StringIO()
        out = csv.writer(stream)
        out.writerow([_("thing"), _("order"), _("day"), _("supplier"), _("note")])
        for order in rows:
            made = order.made
            cells = [
                thing(made.what, unit),
                numbered(made.number, made.way),
                order.day.isoformat(),
                made.supplier,
                made.note,
            ]
            out.writerow(map(harmless, cells))
        return download(stream.getvalue(), "text/csv", visit.job.name, "orders", "csv")
    if ending != "pdf":
        raise Http404

    def sheet() -> Sheet:
        context = {
            "job": visit.job, "supplier": supplier, "font": page_font(), "on": timezone.localdate(),
            "rows": [(o, thing(o.made.what, unit), numbered(o.made.number, o.made.way)) for o in rows],
        }  # fmt: skip
        return Sheet(render_to_string("orders/sheet_print.html", context))

    whose = f"{visit.job.id} orders {supplier}"
    of = f"{shot.head} {visit.job.crew.rod} {visit.job.crew.region} {timezone.localdate()}"
    begun = request.GET.get("begun", "")
    return pdf_answer(
        request, visit.job, reverse("orders", args=[visit.job.id]), "orders",
        lambda: (begun and PRINTED.again(whose, begun)) or PRINTED.get(whose, of, sheet, printed),
    )  # fmt: skip


@require_GET
@job_view(Verb.SEE)
def calendar_of_orders(_request: Request, visit: Visit) -> HttpResponse:
    """Deliveries that are to come, for a calendar (iCalendar, RFC 5545)."""
    shot, unit = snapshot(visit.job), visit.job.crew.unit
    found = Calendar()
    found.add("prodid", "-//Nivelum//deliveries//")
    found.add("version", "2.0")
    for order in _sheet_rows(shot, ""):
        event = Event()
        event.add("uid", f"{order.made.id}@nivelum")
        event.add("dtstamp", shot.made[order.made.id].at)
        event.add("dtstart", order.day)
        event.add("dtend", order.day + timedelta(days=1))
        event.add("summary", f"{visit.job.name}: {order_words(order.made, unit)}")
        if order.made.supplier:
            event.add("description", order.made.supplier)
        found.add_component(event)
    return download(found.to_ical().decode(), "text/calendar", visit.job.name, "deliveries", "ics")
