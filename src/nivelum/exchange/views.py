"""Open formats out."""

import json

from django.http import Http404, HttpRequest, HttpResponse
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from groundwork.jobfile import dumps
from nivelum.crews.policy import Verb
from nivelum.exchange.outlines import to_csv, to_dxf, to_geojson
from nivelum.exchange.services import record_data
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import snapshot


@require_GET
@job_view(Verb.SEE)
def record(request: HttpRequest, visit: Visit) -> HttpResponse:
    """The record with its chain, as JSON; `bin/nivelum verify` proves it."""
    text = json.dumps(record_data(visit.job), indent=1, ensure_ascii=False)
    return _download(text, visit, "record")


@require_GET
@job_view(Verb.SEE)
def job_file(request: HttpRequest, visit: Visit) -> HttpResponse:
    """The job as an open job file; `bin/nivelum assess` reads it."""
    return _download(dumps(snapshot(visit.job).assessment.job), visit, "job")


@require_GET
@job_view(Verb.SEE)
def outline(request: HttpRequest, visit: Visit, ending: str) -> HttpResponse:
    """The outline of the paved area as GeoJSON, DXF or CSV."""
    job = snapshot(visit.job).assessment.job
    written = {
        "geojson": lambda: (to_geojson(job.name, job.outline), "application/geo+json"),
        "dxf": lambda: (to_dxf(job.outline), "image/vnd.dxf"),
        "csv": lambda: (to_csv(job.outline), "text/csv"),
    }
    if ending not in written:
        raise Http404
    text, kind = written[ending]()
    return _download(text, visit, "outline", ending, kind)


def _download(
    text: str, visit: Visit, what: str, ending: str = "json", kind: str = "application/json"
) -> HttpResponse:
    name = f"{slugify(visit.job.name) or 'job'}-{what}.{ending}"
    response = HttpResponse(text, content_type=f"{kind}; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
