"""Open formats out."""

from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpResponse
from django.utils.text import slugify
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from groundwork.base import SurfaceKey
from groundwork.files import dumps
from groundwork.surfaces import NoSurface
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.alone import standing_alone
from nivelum.drawing.surfaces import VIEW_WORDS, View, surface_plan
from nivelum.exchange import landxml, surfaces
from nivelum.exchange.outlines import to_csv, to_dxf, to_geojson
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import snapshot
from nivelum.jobs.templatetags.measures import surface_word
from nivelum.readings.views.surface import ENDINGS
from nivelum.workshop.bench import QUICK


@require_GET
@job_view(Verb.SEE)
def job_file(request: Request, visit: Visit) -> HttpResponse:
    """The job as an open job file; `bin/nivelum assess` reads it."""
    text = dumps(snapshot(visit.job).assessment.job)
    return download(text, "application/json", visit.job.name, "job", "json")


@require_GET
@job_view(Verb.SEE)
def outline(request: Request, visit: Visit, ending: str) -> HttpResponse:
    """The outline of the paved area as GeoJSON, DXF, CSV or LandXML."""
    job = snapshot(visit.job).assessment.job
    written: dict[str, Callable[[], tuple[Any, str]]] = {
        "geojson": lambda: (to_geojson(job.name, job.ring, job.islands), "application/geo+json"),
        "dxf": lambda: (to_dxf(job.ring, job.islands), "image/vnd.dxf"),
        "csv": lambda: (to_csv(job.ring, job.islands), "text/csv"),
        "xml": lambda: (landxml.to_landxml(job.name, job.ring, job.islands), "application/xml"),
    }
    if ending not in written:
        raise Http404
    text, kind = written[ending]()
    return download(text, kind, visit.job.name, "outline", ending)


@require_GET
@job_view(Verb.SEE)
def surface(request: Request, visit: Visit, ending: str) -> HttpResponse:
    """A surface as built: points and triangles as CSV, GeoJSON, DXF or LandXML, or its plan as SVG."""
    assessment = snapshot(visit.job).assessment
    key = request.GET.get("surface", SurfaceKey.FORMATION)
    if ending not in ENDINGS or key not in {s.key for s in assessment.surveys.levelled}:
        raise Http404
    view = request.GET.get("show", View.LEVELS)
    what = f"{slugify(key)}-{view}" if ending == "svg" else slugify(key)
    if ending == "svg":
        if view not in set(View):
            raise Http404
        seen = surface_plan(assessment, key, View(view), visit.job.crew.unit)
        name = surface_word(assessment.job.specification.surface(key))
        title = f"{assessment.job.name}: {name}, {VIEW_WORDS[View(view)]}"
        drawing = standing_alone(seen.drawing, title, [(line.css, line.says) for line in seen.keys])
        return download(drawing, "image/svg+xml", visit.job.name, what, ending)
    built = assessment.surfaces.built(key)
    if isinstance(built, NoSurface):
        return HttpResponse(
            _("Nothing to take along yet: {why}.").format(why=built),
            status=409,
            content_type="text/plain; charset=utf-8",
        )
    name, found = f"{assessment.job.name}: {key}", surfaces.of(built)
    written: dict[str, Callable[[], tuple[Any, str]]] = {
        "csv": lambda: (surfaces.to_csv(built), "text/csv"),
        "geojson": lambda: (QUICK.done(surfaces.to_geojson, name, found), "application/geo+json"),
        "dxf": lambda: (QUICK.done(surfaces.to_dxf, found), "image/vnd.dxf"),
        "xml": lambda: (QUICK.done(surfaces.to_landxml, name, found), "application/xml"),
    }
    text, kind = written[ending]()
    return download(text, kind, visit.job.name, what, ending)


def download(content: str | bytes, kind: str, of: str, what: str, ending: str) -> HttpResponse:
    """A file to keep, named after the job it is `of` and what it holds."""
    charset = "" if isinstance(content, bytes) else "; charset=utf-8"
    response = HttpResponse(content, content_type=f"{kind}{charset}")
    response["Content-Disposition"] = f'attachment; filename="{slugify(of) or "job"}-{what}.{ending}"'
    return response
