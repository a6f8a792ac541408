"""What the Order room records, and how it is told."""

from typing import Any

from django.utils.formats import date_format
from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork import orderwork as o
from groundwork.measures import Unit
from nivelum.jobs.access import Visit
from nivelum.jobs.outbox import Way
from nivelum.jobs.services import snapshot
from nivelum.money.shown import HIRED, stage_title
from nivelum.money.things import numbered, thing
from nivelum.recording.kinds import Face, show

PLACING, WORK = "orders", "work"
STATES = {
    o.OrderState.PROMISED: _("promised for {day}"), o.OrderState.CLOSED: _("that was all of it"),
    o.OrderState.OFF: _("called off"),
}  # fmt: skip


def day_words(day: Any) -> str:
    """A day as people say it."""
    return date_format(day, gettext("j M"))


def order_words(entry: o.OrderMade, unit: Unit) -> str:
    """So many of what."""
    return gettext("{what}: {number}").format(what=thing(entry.what, unit), number=numbered(entry.number, entry.way))


def _order(entry: o.OrderMade, unit: Unit) -> str:
    said = gettext("{order}, for {day}").format(order=order_words(entry, unit), day=day_words(entry.wanted))
    more = ", ".join(part for part in (entry.supplier, entry.note) if part)
    return f"{said}: {more}" if more else said


def _moved(entry: o.OrderMoved, _unit: Unit) -> str:
    return str(STATES[entry.state]).format(day=day_words(entry.promised) if entry.promised else "")


def _come(entry: o.OrderCome, _unit: Unit) -> str:
    return gettext("{n}, ticket {ticket}").format(n=f"{entry.number:g}", ticket=entry.ticket or "—")


def _hours(entry: o.HoursWorked, _unit: Unit) -> str:
    said = gettext("{stage}, {day}: {people} × {hours} h")
    return said.format(
        stage=stage_title(entry.stage), day=day_words(entry.on), people=entry.people, hours=f"{entry.hours:g}"
    )  # fmt: skip


def _hired(entry: o.Hired, _unit: Unit) -> str:
    return f"{HIRED.get(entry.what, entry.what)}, {day_words(entry.first)}"


def _again(visit: Visit, entry: o.OrderMade) -> Way:
    """Ordered all the same, beside what somebody else has ordered meanwhile."""
    supplies = snapshot(visit.job).assessment.orders.supplies
    newest = next((s.newest for s in supplies if s.what == entry.what), "")
    return Way("again", gettext("Order it all the same"), sets={"newest": newest or o.FIRST_LINE})


def _show(kind: type[o.OrderWork], title: Any, words: Any, leaf: str) -> None:
    show(kind, Face(title, words, leaf=leaf))


show(o.OrderMade, Face(_("Order"), _order, leaf=PLACING, again=_again))
_show(o.OrderMoved, _("Order"), _moved, PLACING)
_show(o.OrderCome, _("It came"), _come, PLACING)
_show(o.HoursWorked, _("Hours worked"), _hours, WORK)
_show(o.Hired, _("On hire from"), _hired, WORK)
_show(o.HireEnded, _("Back from hire"), lambda entry, _unit: day_words(entry.last), WORK)
