"""A surface as built, on one sheet: the plan in several views, a cut, what was found, what was laid."""

from typing import Any

from django.http import HttpResponse, QueryDict
from django.shortcuts import render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from groundwork.assess import Assessment
from groundwork.job import across
from groundwork.measures import Unit
from groundwork.surfaces import NoSurface
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.surfacecut import surface_cut
from nivelum.drawing.surfaces import VIEW_WORDS, View, surface_plan
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import snapshot
from nivelum.jobs.templatetags.measures import surface_word
from nivelum.readings.place import chosen, spot

ENDINGS = {"svg": "SVG", "csv": "CSV", "geojson": "GeoJSON", "dxf": "DXF", "xml": "LandXML"}
"""What the sheet can be taken along as."""


@require_GET
@job_view(Verb.SEE)
def surface(request: Request, visit: Visit) -> HttpResponse:
    """The sheet, or with htmx what follows the cut."""
    shot = snapshot(visit.job)
    assessment, unit = shot.assessment, visit.job.crew.unit
    here = chosen(request.GET, assessment)
    asked = request.GET.get("show", "")
    view = View(asked) if asked in set(View) else View.LEVELS
    look = _look(assessment, here.surface, request.GET, unit)
    built = assessment.surfaces.built(here.surface)
    laid = [row for row in assessment.surfaces.laid if here.surface in (row.upper.key, row.lower.key)]
    context = job_screen(visit, shot, "ground") | {"leaf": "surface"} | look | {
        "place": here,
        "survey": assessment.surveys.of(here.surface),
        "surfaces": [(s, assessment.surveys.of(s.key)) for s in assessment.surveys.levelled],
        "view": view,
        "view_word": VIEW_WORDS[view],
        "views": VIEW_WORDS,
        "endings": ENDINGS,
        "seen": surface_plan(assessment, here.surface, view, unit, look["line"]),
        "built": None if isinstance(built, NoSurface) else built,
        "found": [] if isinstance(built, NoSurface) else built.findings,
        "laid": laid,
        "dug": assessment.surfaces.dug,
    }  # fmt: skip
    return render(request, "ground/surface_now.html" if request.htmx else "ground/surface.html", context)


def _look(assessment: Assessment, key: str, query: QueryDict, unit: Unit) -> dict[str, Any]:
    """The line of the cut as asked for, or down the fall through the middle, and what it shows."""
    job = assessment.job
    wrong: dict[str, str] = {}
    middle = job.area.representative_point()
    default = across(job, spot(job, query.get("at", ""), (middle.x, middle.y), wrong, "at"))
    line = default
    if query.get("start") and query.get("end"):
        line = (
            spot(job, query.get("start", ""), default[0], wrong, "start"),
            spot(job, query.get("end", ""), default[1], wrong, "end"),
        )
    keys = [s.key for s in assessment.surveys.levelled]
    order = [key, *reversed(keys[: keys.index(key)])]
    shown = []
    for each in order:
        built, survey = assessment.surfaces.built(each), assessment.surveys.of(each)
        if not isinstance(built, NoSurface) and not survey.surface.is_covered:
            shown.append((surface_word(survey.surface), built, survey.tolerance))
    drawing = surface_cut(tuple(shown), *line, unit) if shown else ""
    if shown and not drawing:
        wrong["start"] = _("The cut misses what was shot.")
    asked = {name: query.get(name, "") for name in ("at", "start", "end")}
    return {"line": line, "cut": drawing, "wrong": wrong} | asked
