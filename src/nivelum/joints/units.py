"""Units to mend: found by a heel, walked to, mended; lips by straightedge and wedge."""

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from groundwork.measures import format_distance
from groundwork.seating import LIPS, ToMend
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.joints import mend_drawing
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.joints.forms import FACES, FAULTS, FaceForm, FaultForm, LipForm, MendedForm
from nivelum.joints.screens import joints_screen
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.forms import EntryForm

FIRST = {"fault": "fault", "lip": "lip", "mended": "found", "face": "face"}
"""Where what is wrong of a form as a whole is told."""


@require_GET
@job_view(Verb.SEE)
def units(request: Request, visit: Visit) -> HttpResponse:
    """Units to mend and lips, on the plan and in walking order."""
    return shown(request, _at(visit), _units(visit, snapshot(visit.job)))


@require_GET
@job_view(Verb.SEE)
def units_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    return render(request, "joints/units_now.html", _units(visit, snapshot(visit.job)))


@require_POST
@job_view(Verb.MEASURE)
def unit_work(request: Request, visit: Visit, what: str) -> HttpResponse:
    """A `fault` found, a `lip` taped, a unit `mended`, what the units' `face` is like."""
    unit = visit.job.crew.unit
    makes: dict[str, EntryForm] = {
        "fault": FaultForm(request.POST, unit=unit), "lip": LipForm(request.POST, unit=unit),
        "mended": MendedForm(request.POST), "face": FaceForm(request.POST),
    }  # fmt: skip
    if what not in makes:
        raise Http404
    form = makes[what]
    done = recorded(visit, form, FIRST[what])
    wrong = {} if done else {f"{what}_form": form}
    return answered(request, done, _at(visit), lambda: _units(visit, snapshot(visit.job)) | wrong)


def _units(visit: Visit, shot: Snapshot) -> dict[str, Any]:
    assessment, unit = shot.assessment, visit.job.crew.unit
    there = assessment.seating

    def told(each: ToMend) -> dict[str, Any]:
        fault = getattr(each.found, "fault", None)
        return {
            "id": each.found.id, "lip": each.lip, "what": FAULTS[fault] if fault else "",
            "words": getattr(each.found, "words", ""),
            "place": f"{format_distance(each.at[0], unit)} · {format_distance(each.at[1], unit)}",
        }  # fmt: skip

    first = there.to_mend[0].found.id if there.to_mend else ""
    return joints_screen(visit, shot, "units") | {
        "drawing": mend_drawing(assessment, unit, first), "to_mend": [told(each) for each in there.to_mend],
        "lips": there.lips, "most": LIPS[there.face], "face": there.face, "faces": FACES.items(),
        "greatest": max((each.lip.metres for each in there.lips), default=None),
        "findings": [f for f in there.findings if f.rule == "V06"],
        "fault_form": FaultForm(unit=unit), "lip_form": LipForm(unit=unit), "mended_form": MendedForm(),
        "face_form": FaceForm(),
    }  # fmt: skip


def _at(visit: Visit) -> RecordedAt:
    return RecordedAt("joints/units.html", "joints/units_now.html", reverse("units", args=[visit.job.id]))
