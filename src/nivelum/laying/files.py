"""The layout to take along: a sheet to print, SVG and DXF to open in drawing programs, the cut list as rows."""

import base64
import csv
import io
import json

import ezdxf
from django.http import Http404, HttpResponse
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import get_language
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET
from ezdxf import units

from groundwork.pattern import Paving
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.alone import standing_alone
from nivelum.drawing.paving import layout_sheet, rings
from nivelum.exchange.printed import pdf_answer
from nivelum.exchange.views import download
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.laying.cuts import cut_words
from nivelum.laying.kinds import pattern_words
from nivelum.workshop.printing import Sheet, page_font, printed
from nivelum.workshop.shelf import PRINTED, Found

NUMBERED = 120
"""Of so many cut pieces each has its number on the sheet."""


@require_GET
@job_view(Verb.SEE)
def layout_file(request: Request, visit: Visit, ending: str) -> HttpResponse:
    """The layout that was chosen as `pdf`, `svg`, `dxf` or its cut list as `csv`."""
    shot = snapshot(visit.job)
    paving = shot.assessment.laying.paving
    if paving is None or ending not in ("pdf", "svg", "dxf", "csv"):
        raise Http404
    if ending == "pdf":
        return _pdf(request, visit, shot)
    name = visit.job.name
    if ending == "dxf":
        return download(to_dxf(paving), "image/vnd.dxf", name, "layout", "dxf")
    if ending == "svg":
        return download(_svg(shot, paving), "image/svg+xml", name, "layout", "svg")
    return download(_csv(shot), "text/csv", name, "cuts", "csv")


def to_dxf(paving: Paving) -> str:
    """A drawing in metres: every unit a closed polyline, on layers for those whole, cut and of the border."""
    drawing = ezdxf.new("R2010", units=units.M)
    for found, layer in rings(paving):
        for ring in found:
            drawing.modelspace().add_lwpolyline(ring.tolist(), close=True, dxfattribs={"layer": layer})
    stream = io.StringIO()
    drawing.write(stream)
    return stream.getvalue()


def _svg(shot: Snapshot, paving: Paving) -> str:
    drawn = layout_sheet(shot.assessment.site, paving, shot.assessment.site.unit, _numbers(shot))
    legend = [("unit cut", _("cut")), ("unit sliver", _("too small")), ("string", _("the string"))]
    return standing_alone(drawn, shot.assessment.site.name, legend)


def _numbers(shot: Snapshot) -> list[tuple[str, int]]:
    cuts = shot.assessment.laying.cuts
    return [(cut.piece.name, cut.number) for cut in cuts] if len(cuts) <= NUMBERED else []


def _csv(shot: Snapshot) -> str:
    """One piece a line in walking order."""
    stream = io.StringIO()
    rows = csv.writer(stream, lineterminator="\n")
    rows.writerow(["number", "row", "how", "size_mm", "other_mm", "done"])
    there = shot.assessment.laying
    for cut in there.cuts:
        sizes = [f"{size * 1000:.1f}" for size in cut.sizes]
        rows.writerow([cut.number, cut.piece.row or "border", cut.how, *(sizes + [""])[:2],
                       "yes" if cut.piece.name in there.done else ""])  # fmt: skip
    return stream.getvalue()


def _pdf(request: Request, visit: Visit, shot: Snapshot) -> HttpResponse:
    whose, begun = json.dumps(["layout", str(visit.job.id)]), request.GET.get("begun", "")
    of = json.dumps([shot.head, str(timezone.localdate()), visit.job.crew.rod, get_language()])

    def made() -> Found:
        known = PRINTED.again(whose, begun) if begun else None
        return known or PRINTED.get(whose, of, lambda: _sheet(visit, shot), printed)

    return pdf_answer(request, visit.job, reverse("layout", args=[visit.job.id]), "layout", made)


def _sheet(visit: Visit, shot: Snapshot) -> Sheet:
    """The sheet to print: the layout to scale with its rows numbered, row by row what to tape, and the cut list."""
    there, unit = shot.assessment.laying, visit.job.crew.unit
    paving = there.paving
    if paving is None or there.chosen is None:
        raise Http404
    drawn = _svg(shot, paving)
    data = base64.b64encode(drawn.encode()).decode()
    html = render_to_string("laying/print.html", {
        "job": visit.job, "unit": unit, "there": there, "paving": paving, "font": page_font(),
        "drawing": f"data:image/svg+xml;base64,{data}", "pattern": pattern_words(there.chosen.pattern),
        "targets": there.targets.items(), "cuts": [(cut, cut_words(cut, unit)) for cut in there.cuts],
        "today": timezone.localdate(), "rows": _rows(paving),
    })  # fmt: skip
    return Sheet(html)


def _rows(paving: Paving) -> list[tuple[int, list[tuple[str, float]]]]:
    """Row by row what lies in it from the left: how long each unit is along the row, metres; of patterns by lot."""
    if not (paving.design.pattern.straight or paving.design.pattern.ends_apart):
        return []
    found: dict[int, list[tuple[str, float]]] = {}
    for piece in paving.pieces.values():
        if piece.row:
            x0, y0, x1, y1 = piece.shape.bounds
            found.setdefault(piece.row, []).append((f"{(x1 - x0) * 1000:.0f} × {(y1 - y0) * 1000:.0f}", x1 - x0))
    return sorted(found.items())
