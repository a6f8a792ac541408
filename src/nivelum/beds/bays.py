"""Bays: screeded, level under a straightedge, covered before the night?"""

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_GET, require_POST

from groundwork.bedding import FLAT
from nivelum.beds.forms import CLOSED, CheckedForm, ClosedForm, ScreededForm
from nivelum.beds.screens import bed_screen
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.beds import bay_drawing
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.forms import EntryForm


@require_GET
@job_view(Verb.SEE)
def bays(request: Request, visit: Visit) -> HttpResponse:
    """Every bay as it stands; of the one in hand what comes next."""
    return shown(request, _at(visit), _bays(visit, snapshot(visit.job), request.GET.get("bay", "")))


@require_GET
@job_view(Verb.SEE)
def bays_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    return render(request, "bed/bays_now.html", _bays(visit, snapshot(visit.job), request.GET.get("bay", "")))


@require_POST
@job_view(Verb.MEASURE)
def bay_work(request: Request, visit: Visit, what: str) -> HttpResponse:
    """What was done in a bay: `screeded`, `checked` or `closed`."""
    unit = visit.job.crew.unit
    makes: dict[str, EntryForm] = {
        "screeded": ScreededForm(request.POST),
        "checked": CheckedForm(request.POST, unit=unit),
        "closed": ClosedForm(request.POST),
    }
    if what not in makes:
        raise Http404
    form = makes[what]
    done = recorded(visit, form, {"screeded": "at", "checked": "along", "closed": "how"}[what])
    wrong: dict[str, Any] = {} if done else {f"{what}_form": form}
    # The bay just worked on stays in hand: what it came to is what one wants to know.
    bay = request.POST.get("bay", "")
    return answered(request, done, _at(visit, bay), lambda: _bays(visit, snapshot(visit.job), bay) | wrong)


def _bays(visit: Visit, shot: Snapshot, asked: str) -> dict[str, Any]:
    bed, unit = shot.assessment.bedding, visit.job.crew.unit
    waiting = (name for name, each in bed.bays.items() if each.step)
    chosen = asked if asked in bed.bays else next(waiting, next(iter(bed.bays), ""))
    onward = next((name for name, each in bed.bays.items() if each.step and name != chosen), "")
    return bed_screen(visit, shot, "bays") | {
        "bays": bed.bays, "chosen": chosen, "in_hand": bed.bays.get(chosen), "onward": onward,
        "drawing": bay_drawing(shot.assessment, unit, chosen) if bed.bays else "",
        "findings": [f for f in bed.findings if f.rule in ("K08", "K09")],
        "screeded_form": ScreededForm(), "checked_form": CheckedForm(unit=unit), "closed_form": ClosedForm(),
        "closes": CLOSED.items(), "flat": FLAT,
    }  # fmt: skip


def _at(visit: Visit, bay: str = "") -> RecordedAt:
    way = reverse("bays", args=[visit.job.id])
    return RecordedAt("bed/bays.html", "bed/bays_now.html", f"{way}?{urlencode({'bay': bay})}" if bay else way)
