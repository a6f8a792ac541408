"""Open formats out."""

import json

from django.http import HttpRequest, HttpResponse
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from groundwork.jobfile import dumps
from nivelum.crews.policy import Verb
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


def _download(text: str, visit: Visit, kind: str) -> HttpResponse:
    name = f"{slugify(visit.job.name) or 'job'}-{kind}.json"
    response = HttpResponse(text, content_type="application/json; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
