"""The cut list: piece by piece in walking order, what to set the saw or splitter to."""

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.laying import VIBRATION, PieceToCut, at_the_saw, until_action
from groundwork.measures import Unit, format_amount
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.paving import cut_drawing
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.laying.forms import CutForm, SawForm
from nivelum.laying.screens import laying_screen
from nivelum.recording.door import RecordedAt, answered, recorded, shown

LISTED = 120
"""So many pieces are listed at once, from the one in hand."""


@require_GET
@job_view(Verb.SEE)
def cuts(request: Request, visit: Visit) -> HttpResponse:
    """Every piece to cut; the one in hand and what is next."""
    return shown(request, _at(visit), _cuts(request, visit, snapshot(visit.job)))


@require_GET
@job_view(Verb.SEE)
def cuts_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    return render(request, "laying/cuts_now.html", _cuts(request, visit, snapshot(visit.job)))


@require_POST
@job_view(Verb.MEASURE)
def piece_cut(request: Request, visit: Visit) -> HttpResponse:
    """A piece that is cut and laid."""
    form = CutForm(request.POST)
    done = recorded(visit, form, "piece")
    return answered(
        request, done, _at(visit),
        lambda: _cuts(request, visit, snapshot(visit.job)) | ({} if done else {"cut_form": form}),
    )  # fmt: skip


def cut_words(cut: PieceToCut, unit: Unit) -> str:
    """What to set the saw or splitter to."""
    sizes = [format_amount(size, unit) for size in cut.sizes]
    match cut.how:
        case "square":
            return _("{long} long, square").format(long=sizes[0])
        case "rip":
            return _("{wide} wide, along it").format(wide=sizes[0])
        case "slant":
            return _("{one} on one side, {other} on the other").format(one=sizes[0], other=sizes[1])
        case "taper":
            return _("full length, {one} wide at one end, {other} at the other").format(one=sizes[0], other=sizes[1])
        case "corner":
            return _("a corner off: {long} along, {wide} across").format(long=sizes[0], wide=sizes[1])
    return _("by a template, within {long} × {wide}").format(long=sizes[0], wide=sizes[1])


def _cuts(request: Request, visit: Visit, shot: Snapshot) -> dict[str, Any]:
    assessment, unit = shot.assessment, visit.job.crew.unit
    there = assessment.laying
    left = [cut for cut in there.cuts if cut.piece.name not in there.done]
    by_name = {cut.piece.name: cut for cut in there.cuts}
    in_hand = by_name.get(request.GET.get("piece", "")) or next(iter(left), None)
    first = in_hand.number - 1 if in_hand and len(there.cuts) > LISTED else 0
    listed = there.cuts[max(0, first - 5) : first + LISTED]
    saw = SawForm(request.GET if "vibration" in request.GET else None)
    shakes = saw.cleaned_data["vibration"] if saw.is_bound and saw.is_valid() else VIBRATION
    return laying_screen(visit, shot, "cuts") | {
        "in_hand": in_hand, "in_hand_words": cut_words(in_hand, unit) if in_hand else "",
        "is_done": in_hand is not None and in_hand.piece.name in there.done,
        "left": len(left), "total": len(there.cuts), "hours": at_the_saw(len(left)),
        "cuts": [(cut, cut_words(cut, unit), cut.piece.name in there.done) for cut in listed],
        "drawing": cut_drawing(assessment, unit, in_hand.piece.name if in_hand else "") if there.paving else "",
        "cut_form": CutForm(), "saw_form": saw, "until": until_action(shakes),
    }  # fmt: skip


def _at(visit: Visit) -> RecordedAt:
    return RecordedAt("laying/cuts.html", "laying/cuts_now.html", reverse("cuts", args=[visit.job.id]))
