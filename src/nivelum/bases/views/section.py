"""The section: levels at a place, a cut, and every thickness to try."""

from dataclasses import replace
from typing import Any

from django.http import HttpResponse, QueryDict
from django.shortcuts import render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.assess import Assessment
from groundwork.base import SurfaceKey
from groundwork.job import Cut, Job, across, cut
from groundwork.measures import in_words
from groundwork.surfaces import Point
from nivelum.bases.forms import SpecificationForm
from nivelum.bases.sheet import place_text
from nivelum.bases.views.leaf import NotKeptBecause, as_typed, keep, leaf_screen, tried_on
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.cut import cut_drawing
from nivelum.drawing.kept import kept
from nivelum.drawing.section import section
from nivelum.drawing.site import SiteLayers, site_plan
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import snapshot
from nivelum.readings.place import spot


@require_GET
@job_view(Verb.SEE)
def base(request: Request, visit: Visit) -> HttpResponse:
    """The section with its levels at a place, a cut, the findings; with `paving-0-thickness` as it would be."""
    return _base(request, visit, request.GET)


@require_POST
@job_view(Verb.DESIGN)
def keep_base(request: Request, visit: Visit) -> HttpResponse:
    """Keeps the specification as it stands on the screen."""
    job = snapshot(visit.job).assessment.job
    form = SpecificationForm(request.POST, job=job)
    refusal: HttpResponse | NotKeptBecause = NotKeptBecause(_("Something is not right yet: see beside the field."))
    if form.is_valid():
        back = reverse("base", args=[visit.job.id])
        refusal = keep(
            request, visit, replace(job, specification=form.specification), back, as_typed(request.POST, form)
        )
    if isinstance(refusal, HttpResponse):
        return refusal
    return _base(request, visit, request.POST, refusal.message)


def _base(request: Request, visit: Visit, data: QueryDict, refusal: str = "") -> HttpResponse:
    shot = snapshot(visit.job)
    job = shot.assessment.job
    form = SpecificationForm(data if "paving-0-thickness" in data else None, job=job)
    tried = shot.assessment
    if form.is_bound and form.is_valid():
        tried = tried_on(shot, replace(job, specification=form.specification))
    usual = tried is shot.assessment and not any(data.get(name) for name in WHERE)
    look = _usual_look(tried) if usual else _look(tried.job, data)
    may_design = visit.may(Verb.DESIGN)
    specification = tried.job.specification
    context = leaf_screen(visit, shot, "base", tried) | look
    context |= {
        "form": form,
        "refusal": refusal,
        "specification": specification,
        "surfaces": [(s, look["finished"] - s.depth, s.key is SurfaceKey.FORMATION) for s in specification.surfaces],
        **(_usual_drawings(tried, may_design) if usual else _drawings(tried, look, may_design)),
        "quantities": tried.quantities,
        "before": job.specification,
    }
    template = "base/now.html" if request.htmx and request.method == "GET" else "base/base.html"
    status = 422 if refusal else 200
    return render(request, template, context, status=status)


WHERE = ("at", "station", "start", "end")
"""What asks for another place or cut than one sees at first."""


@kept
def _usual_look(assessment: Assessment) -> dict[str, Any]:
    return _look(assessment.job, QueryDict())


@kept
def _usual_drawings(assessment: Assessment, editable: bool) -> dict[str, Any]:
    return _drawings(assessment, _usual_look(assessment), editable)


def _drawings(tried: Assessment, look: dict[str, Any], editable: bool) -> dict[str, Any]:
    job = tried.job
    return {
        "section": section(job.specification, look["finished"], job.unit, editable=editable),
        "plan": site_plan(job, job.unit, SiteLayers(cut=look["line"], point=look["point"])),
        "cut": cut_drawing(job, look["cut"], job.unit) if look["cut"] else "",
    }


def _look(job: Job, data: QueryDict) -> dict[str, Any]:
    """The place to look at and the cut through it, as asked for or the middle of the area."""
    wrong: dict[str, str] = {}
    middle = job.area.representative_point()
    point = spot(job, data.get("at") or data.get("station") or "", (middle.x, middle.y), wrong, "at")
    line: tuple[Point, Point] = across(job, point)
    if data.get("start") and data.get("end"):
        line = (
            spot(job, data.get("start", ""), line[0], wrong, "start"),
            spot(job, data.get("end", ""), line[1], wrong, "end"),
        )
    found: Cut | None = None
    try:
        found = cut(job, *line)
    except ValueError as error:
        wrong["start"] = in_words(error, job.unit, _)
    asked = data.get("at") or data.get("station") or place_text(point, job.unit)
    return {
        "point": point,
        "line": line,
        "cut": found,
        "finished": job.design.level(point),
        "wrong": wrong,
        "at": asked,
        "start": data.get("start", ""),
        "end": data.get("end", ""),
    }
