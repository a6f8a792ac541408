"""Filling: how much the joints take, dry enough or not, step by step, how deep they lie, from when it opens."""

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_GET, require_POST

from groundwork.jointing import Jointing
from groundwork.jointwork import MOST_SPOTS
from groundwork.stages import LessonKind
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.joints import fill_drawing
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.lessons import learnt
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.joints.forms import AirForm, DepthForm, StepForm, UsedForm
from nivelum.joints.screens import joints_screen
from nivelum.lifts.forms.amounts import degrees_words
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.forms import EntryForm, StrikeForm
from nivelum.recording.moments import minute_words, told_minute

FIRST = {"air": "air", "step": "at", "used": "mass", "depth": "below", "strike": "strikes"}


@require_GET
@job_view(Verb.SEE)
def fill(request: Request, visit: Visit) -> HttpResponse:
    """The joints as they stand, and what comes next."""
    return shown(request, _at(visit), _filling(visit, snapshot(visit.job), request.GET.get("patch", "")))


@require_GET
@job_view(Verb.SEE)
def fill_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    context = _filling(visit, snapshot(visit.job), request.GET.get("patch", ""))
    return render(request, "joints/filling_now.html", context)


@require_POST
@job_view(Verb.MEASURE)
def fill_work(request: Request, visit: Visit, what: str) -> HttpResponse:
    """How dry the `air` is, a `step` done, what was `used`, the `depth` of a joint; a `strike` of what was."""
    unit, joints = visit.job.crew.unit, snapshot(visit.job).assessment.jointing
    makes: dict[str, EntryForm] = {
        "air": AirForm(request.POST, unit=unit), "step": StepForm(request.POST, fill=joints.fill),
        "used": UsedForm(request.POST, unit=unit), "depth": DepthForm(request.POST, unit=unit),
        "strike": StrikeForm(request.POST),
    }  # fmt: skip
    if what not in makes:
        raise Http404
    form = makes[what]
    done = recorded(visit, form, FIRST[what])
    wrong = {} if done else {f"{what}_form": form}
    # A patch that is being filled stays in hand; the next joint to tape is the next.
    patch = request.POST.get("patch", "") if what in ("used", "step") else ""
    return answered(request, done, _at(visit, patch), lambda: _filling(visit, snapshot(visit.job), patch) | wrong)


def _filling(visit: Visit, shot: Snapshot, asked: str) -> dict[str, Any]:
    assessment, unit = shot.assessment, visit.job.crew.unit
    joints = assessment.jointing
    patch = asked if asked in joints.patches else ""
    place = _place(joints, patch)
    air, opens = joints.air, joints.opens
    return joints_screen(visit, shot, "filling") | {
        "learnt": learnt(visit.job, LessonKind.SAND, joints.fill.key),
        "fill": joints.fill, "amount": joints.amount, "patch": patch, "place": place,
        "drawing": fill_drawing(assessment, unit, patch or (place[0] if place else "")),
        "patches": list(joints.patches.items()),
        "went_in": joints.went_in, "strike_form": StrikeForm(),
        "steps": [(step, _done(joints, step.key)) for step in joints.fill.steps], "next_step": joints.next_step,
        "air": air, "dew": degrees_words(air.dew, unit) if air else "",
        "surface": degrees_words(air.read.surface, unit) if air else "",
        "read_at": told_minute(air.read.at) if air else "",
        "walk": opens and minute_words(opens[0]), "drive": minute_words(opens[1]) if opens and opens[1] else "",
        "not_before": minute_words(joints.not_before) if joints.not_before else "",
        "findings": [f for f in joints.findings if f.rule != "J05"],
        "air_form": AirForm(unit=unit), "step_form": StepForm(fill=joints.fill), "used_form": UsedForm(unit=unit),
        "depth_form": DepthForm(unit=unit),
    }  # fmt: skip


def _place(joints: Jointing, patch: str) -> tuple[str, int] | None:
    """The joint to tape next: the patch that was asked for, else the first that has too few."""
    if patch:
        return patch, min(len(joints.patches[patch].depths) + 1, MOST_SPOTS)
    return joints.next_depth


def _done(joints: Jointing, step: str) -> str:
    """When a step was done everywhere; nothing where it was not."""
    times = [each.done.get(step) for each in joints.patches.values()]
    known = [at for at in times if at is not None]
    return told_minute(max(known)) if known and len(known) == len(times) else ""


def _at(visit: Visit, patch: str = "") -> RecordedAt:
    way = reverse("filling", args=[visit.job.id])
    return RecordedAt(
        "joints/filling.html", "joints/filling_now.html", f"{way}?{urlencode({'patch': patch})}" if patch else way
    )  # fmt: skip
