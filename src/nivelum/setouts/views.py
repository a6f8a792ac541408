"""Set-out: are the pegs where the plan has them, and may anyone dig?"""

from typing import Any

from django.http import HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from groundwork.assess import Assessment
from groundwork.levels import LineOfSight
from groundwork.measures import FOOT, Unit, format_place, in_words
from groundwork.setout import (
    Impossible,
    angle,
    chord_offsets,
    curved_sides,
    off_line,
    radius_of,
    square_across,
    square_triangle,
    string_table,
)
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.pegs import peg_plan
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.readings.hand import hand
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.forms import EntryForm, StrikeForm
from nivelum.recording.services import may_strike
from nivelum.setouts.forms import (
    CurveForm,
    LengthForm,
    MarginForm,
    MoveForm,
    ServicesForm,
    StringTableForm,
    TriangleForm,
)


@require_GET
@job_view(Verb.SEE)
def set_out(request: Request, visit: Visit) -> HttpResponse:
    """The pegs, the lengths between them, how each must move."""
    return shown(request, _pegs(visit), _peg_context(request, visit, snapshot(visit.job)))


@require_GET
@job_view(Verb.SEE)
def set_out_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed; what is being typed is left alone."""
    return render(request, "setout/now.html", _peg_context(request, visit, snapshot(visit.job)))


@require_POST
@job_view(Verb.MEASURE)
def length(request: Request, visit: Visit) -> HttpResponse:
    """Records a taped side or diagonal."""
    return _kept(request, visit, LengthForm(request.POST, unit=visit.job.crew.unit), "length", "length_form")


@require_POST
@job_view(Verb.MEASURE)
def peg_move(request: Request, visit: Visit) -> HttpResponse:
    """Records that a peg was moved: its lengths are to be taped again."""
    return _kept(request, visit, MoveForm(request.POST), "peg", "move_form")


@require_POST
@job_view(Verb.MEASURE)
def margin(request: Request, visit: Visit) -> HttpResponse:
    """Records how far the dig passes the edge on one side."""
    return _kept(request, visit, MarginForm(request.POST, unit=visit.job.crew.unit), "width", "margin_form")


@require_POST
@job_view(Verb.MEASURE)
def drop_length(request: Request, visit: Visit) -> HttpResponse:
    """Strikes out a taped length."""
    return _kept(request, visit, StrikeForm(request.POST), "strikes", "strike_form")


@require_http_methods(["GET", "HEAD", "POST"])
@job_view(Verb.SEE)
def services(request: Request, visit: Visit) -> HttpResponse:
    """The location that stands; who measures may log a new one."""
    form = ServicesForm(today=timezone.localdate(), initial={"located_on": timezone.localdate()})
    if request.method == "POST" and visit.may(Verb.MEASURE):
        form = ServicesForm(request.POST, today=timezone.localdate())
        if recorded(visit, form, "ticket"):
            return HttpResponseRedirect(reverse("services", args=[visit.job.id]))
    shot = snapshot(visit.job)
    location = shot.assessment.setting_out.location
    context = _screen(visit, shot, "services") | {
        "form": form,
        "location": location,
        "made": shot.made[location.entry.id] if location else None,
    }
    return render(request, "setout/services.html", context, status=422 if form.errors else 200)


@require_GET
@job_view(Verb.SEE)
def strings(request: Request, visit: Visit) -> HttpResponse:
    """The string table: where to tie at each peg, and how far down a surface lies."""
    shot = snapshot(visit.job)
    assessment, unit = shot.assessment, visit.job.crew.unit
    usual = {"height": "200" if unit.is_metric else "8", "surface": assessment.surface_in_hand}
    form = StringTableForm({**usual, **request.GET.dict()}, assessment=assessment)
    context = _screen(visit, shot, "strings") | {"form": form}
    if form.is_valid():
        surface = assessment.job.specification.surface(form.cleaned_data["surface"])
        held = hand(request, visit, assessment).reference
        level = held if isinstance(held, LineOfSight) else None
        height = form.cleaned_data["height"].metres
        pegs, sides = string_table(assessment.job, surface.depth, height, level)
        context |= {"pegs": pegs, "sides": sides, "surface": surface, "height": height, "level": level}
    return render(request, "setout/strings.html", context, status=422 if form.errors else 200)


@require_GET
@job_view(Verb.SEE)
def square(request: Request, visit: Visit) -> HttpResponse:
    """A corner by any triangle, and curves by offsets."""
    shot = snapshot(visit.job)
    unit, sides = visit.job.crew.unit, shot.assessment.setting_out.pegs
    asked = request.GET
    triangle = TriangleForm(asked if "across" in asked else None, unit=unit)
    curve = CurveForm(asked if "chord" in asked else None, unit=unit)
    lengths = [sides.planned(*pair) for pair in _sides(shot.assessment)]
    longest = max(zip(lengths, (*lengths[1:], lengths[0]), strict=True), key=min)
    context = _screen(visit, shot, "square") | {
        "triangle": triangle,
        "curve": curve,
        "usual": square_triangle(longest[0], longest[1], 0.1 if unit.is_metric else FOOT),
        "longest": max(lengths),
        "curves": list(curved_sides(shot.assessment.job.ring, 0.5 if unit.is_metric else 2 * FOOT)),
    }
    if triangle.is_bound and triangle.is_valid():
        context |= _corner(triangle, max(lengths), unit)
    if curve.is_bound and curve.is_valid():
        context |= _curve(curve, unit)
    wrong = triangle.errors or curve.errors
    return render(request, "setout/square.html", context, status=422 if wrong else 200)


def _sides(assessment: Assessment) -> list[tuple[str, str]]:
    names = assessment.setting_out.pegs.names
    return list(zip(names, (*names[1:], names[0]), strict=True))


def _corner(form: TriangleForm, longest: float, unit: Unit) -> dict[str, Any]:
    a, b, c = (form.cleaned_data[name].metres for name in ("side_a", "side_b", "across"))
    try:
        corner = angle(a, b, c)
    except Impossible as error:
        form.add_error("across", in_words(error, unit, gettext))
        return {}
    return {"corner": corner, "out": off_line(corner, longest), "should": square_across(a, b)}


def _curve(form: CurveForm, unit: Unit) -> dict[str, Any]:
    data = form.cleaned_data
    chord = data["chord"].metres
    radius = data["radius"].metres if data["radius"] else radius_of(chord, data["rise"].metres)
    try:
        return {"offsets": chord_offsets(radius, chord, data["step"].metres), "radius": radius}
    except ValueError as error:
        form.add_error("chord", in_words(error, unit, gettext))
        return {}


def _kept(request: Request, visit: Visit, form: EntryForm, field: str, name: str) -> HttpResponse:
    """Records what `form` holds; the pegs as they then stand."""
    done = recorded(visit, form, field)
    wrong = {} if done else {name: form}
    return answered(request, done, _pegs(visit), lambda: _peg_context(request, visit, snapshot(visit.job)) | wrong)


def _screen(visit: Visit, shot: Snapshot, leaf: str) -> dict[str, Any]:
    return job_screen(visit, shot, "set-out") | {"leaf": leaf, "may_measure": visit.may(Verb.MEASURE)}


def _pegs(visit: Visit) -> RecordedAt:
    return RecordedAt("setout/pegs.html", "setout/now.html", reverse("set-out", args=[visit.job.id]))


def _peg_context(request: Request, visit: Visit, shot: Snapshot) -> dict[str, Any]:
    assessment, unit = shot.assessment, visit.job.crew.unit
    pegs = assessment.setting_out.pegs
    still = pegs.still_to_tape
    asked = (request.GET.get("start", ""), request.GET.get("end", ""))
    next_pair = (
        asked
        if set(asked) <= set(pegs.names) and asked[0] != asked[1]
        else (still or [(pegs.names[0], pegs.names[1])])[0]
    )
    specification, margins = assessment.job.specification, assessment.setting_out.margins
    return _screen(visit, shot, "pegs") | {
        "set_out": pegs,
        "plan": peg_plan(assessment, unit),
        "lengths": [
            (x, pegs.planned(x.start, x.end), x.length.metres - pegs.planned(x.start, x.end),
             may_strike(visit, shot.made[x.id].by_id))
            for x in pegs.lengths
        ],
        "next_pair": next_pair,
        "next_planned": format_place(pegs.planned(*next_pair), unit),
        "findings": assessment.setting_out.findings,
        "length_form": LengthForm(unit=unit, initial={"start": next_pair[0], "end": next_pair[1]}),
        "move_form": MoveForm(),
        "strike_form": StrikeForm(),
        "margin_form": MarginForm(unit=unit),
        "sides": [(n, one, other, margins.get(n)) for n, (one, other) in enumerate(_sides(assessment))],
        "margin": specification.details.margin,
        "margin_findings": assessment.setting_out.margin_findings,
    }  # fmt: skip
