"""Order: what do we need? Every figure follows from the design, the layout, the edges and what was shot."""

import csv
import io
from dataclasses import dataclass
from itertools import groupby

from django.http import HttpResponse
from django.shortcuts import render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from groundwork.measures import Unit, Words, format_distance, format_volume
from groundwork.orders import Need, heaps, in_units, usual_way, ways_to_order
from groundwork.orderwork import Measure
from groundwork.schools import stagebook
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.heaps import heaps_drawing
from nivelum.exchange.views import download
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.money.things import measured, numbered, thing
from nivelum.orders.screens import order_screen


@dataclass(frozen=True)
class SoldIn:
    """So many of what it is sold in, in words, and what is over then; nothing where nothing is."""

    says: str
    over: str


@dataclass(frozen=True)
class NeedRow:
    """A need as it is shown: what it is called, the usual way to order it and the others, its reckoning."""

    need: Need
    unit: Unit
    title: str
    usual: SoldIn
    others: tuple[SoldIn, ...]

    def said(self, amount: float) -> str:
        return measured(amount, self.need.measure, self.unit)

    @property
    def now(self) -> str:
        return self.said(self.need.now)

    @property
    def with_waste(self) -> str:
        return self.said(self.need.with_waste)

    @property
    def lines(self) -> list[tuple[Words, str]]:
        return [(line.says, self.said(line.amount)) for line in self.need.lines]

    @property
    def changes(self) -> list[tuple[Words, str]]:
        signed = ((line.says, "+" if line.amount > 0 else "−", abs(line.amount)) for line in self.need.changes)
        return [(says, f"{sign}{self.said(amount)}") for says, sign, amount in signed]


def _sold(need: Need, unit: Unit) -> list[SoldIn]:
    """The usual way first."""
    ways = ways_to_order(need.measure, metric=unit.is_metric)
    usual = usual_way(need.with_waste, ways)
    found = []
    for way in (usual, *(way for way in ways if way is not usual)):
        ordered = in_units(need.with_waste, way)
        over = ordered.over if ordered.over > 0.005 * need.with_waste else 0.0
        said = measured(over, need.measure, unit) if over and need.measure is not Measure.PIECES else ""
        found.append(SoldIn(numbered(ordered.number, way.key), said))
    return found


def _rows(shot: Snapshot, unit: Unit) -> list[NeedRow]:
    found = []
    for need in shot.assessment.orders.needs:
        usual, *others = _sold(need, unit)
        found.append(NeedRow(need, unit, thing(need.what, unit), usual, tuple(others)))
    return found


def _shown(visit: Visit) -> dict[str, object]:
    shot = snapshot(visit.job)
    rows = _rows(shot, visit.job.crew.unit)
    titles = {key: stage.title for key, stage in stagebook().items()}
    stages = [(titles[key], list(of)) for key, of in groupby(rows, key=lambda row: row.need.stage)]
    changed = sum(bool(row.need.changes) for row in rows)
    return order_screen(visit, shot, "needs") | {
        "stages": stages, "changed": changed, **_heaped(shot, visit.job.crew.unit),
    }  # fmt: skip


def _heaped(shot: Snapshot, unit: Unit) -> dict[str, object]:
    """What comes loose, drawn and in words."""
    site, found = shot.assessment.job, heaps(shot.assessment.orders.needs)
    x0, y0, x1, y1 = site.area.bounds
    said = [
        (thing(heap.what, unit), format_volume(heap.volume, unit), format_distance(heap.across, unit),
         format_distance(heap.high, unit))
        for heap in found
    ]  # fmt: skip
    return {
        "heaps": said,
        "drawing": heaps_drawing(found, site.specification, min(x1 - x0, y1 - y0)) if found else "",
    }


@require_GET
@job_view(Verb.SEE)
def order(request: Request, visit: Visit) -> HttpResponse:
    """The room."""
    return render(request, "orders/order.html", _shown(visit))


@require_GET
@job_view(Verb.SEE)
def order_now(request: Request, visit: Visit) -> HttpResponse:
    """What of the room changes by what anybody records."""
    return render(request, "orders/order_now.html", _shown(visit))


@require_GET
@job_view(Verb.SEE)
def order_csv(request: Request, visit: Visit) -> HttpResponse:
    """What the job takes as rows: amounts in kg, m³, m², metres and pieces."""
    stream = io.StringIO()
    rows = csv.writer(stream)
    rows.writerow([_("stage"), _("what"), _("in"), _("as designed"), _("as it is"), _("with waste"), _("order")])
    said = {Measure.MASS: "kg", Measure.VOLUME: "m3", Measure.LOOSE: "m3", Measure.AREA: "m2", Measure.LENGTH: "m",
            Measure.PIECES: "", Measure.WATER: "m3"}  # fmt: skip
    for row in _rows(snapshot(visit.job), visit.job.crew.unit):
        need = row.need
        amounts = [f"{amount:.3f}" for amount in (need.designed, need.now, need.with_waste)]
        rows.writerow([need.stage, row.title, said[need.measure], *amounts, row.usual.says])
    return download(stream.getvalue(), "text/csv", visit.job.name, "order", "csv")
