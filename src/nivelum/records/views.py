"""Record: what was done, by whom, on what evidence?"""

import json
from collections.abc import Callable, Iterable
from uuid import UUID

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.views.decorators.http import require_GET

from nivelum.crews.models import Crew
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.exchange.printed import pdf_answer
from nivelum.exchange.services import record_data
from nivelum.exchange.views import download
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.models import Job
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import snapshot
from nivelum.records.company import company_line
from nivelum.records.exports import bundle, calendar, record_csv, record_pdf
from nivelum.records.heads import heads_of, page_of_heads
from nivelum.records.page import Part, diary_portion, handed_over, record_page, signed_drawing


@require_GET
@job_view(Verb.SEE)
def record(request: Request, visit: Visit) -> HttpResponse:
    """The record to read, its diary from the end; what is before a portion of it comes when it is asked for."""
    asked = request.GET.get("before", "")
    last = int(asked) - 1 if asked.isdecimal() and len(asked) < LONGEST_NUMBER else 0
    last = min(last, snapshot(visit.job).number)
    if last > 0 and request.htmx:
        return render(
            request, "record/diary.html", {"job": visit.job, "links": True} | diary_portion(visit.job, last)
        )
    page = record_page(visit.job, whole=False)
    if last > 0:
        page |= diary_portion(visit.job, last)
    more = {"may_share": visit.may(Verb.SHARE), "photos_at": reverse("job", args=[visit.job.id]) + "photos/"}
    more["drawings_at"] = reverse("record-page", args=[visit.job.id]) + "signed-"
    return render(request, "record/record.html", job_screen(visit, snapshot(visit.job), "record") | page | more)


LONGEST_NUMBER = 10


@require_GET
@job_view(Verb.SEE)
def taken_along(request: Request, visit: Visit, ending: str) -> HttpResponse:
    """The record as JSON or as a bundle with its photos, which prove themselves; as PDF; as CSV."""
    job = visit.job
    if ending == "pdf":
        return pdf_of(request, job, reverse("record-page", args=[job.id]))
    written: dict[str, Callable[[], tuple[str | bytes, str]]] = {
        "json": lambda: (json.dumps(record_data(job), indent=1, ensure_ascii=False), "application/json"),
        "zip": lambda: (bundle(job), "application/zip"),
        "csv": lambda: (record_csv(job), "text/csv"),
    }
    if ending not in written:
        raise Http404
    return download(*written[ending](), job.name, "record", ending)


def pdf_of(request: Request, job: Job, back: str, parts: Iterable[Part] = tuple(Part)) -> HttpResponse:
    """The PDF of a record; while it is being made, a page that says so, asks again and leads `back`, and 202."""
    return pdf_answer(request, job, back, "record", lambda: record_pdf(job, parts, request.GET.get("begun", "")))


@require_GET
def heads(request: Request, crew_id: UUID) -> HttpResponse:
    """The heads of all of a crew's records as a page of text, to print or to mail."""
    crew = get_object_or_404(Crew, id=crew_id, memberships__person=request.user)
    with crew.in_its_words():
        return HttpResponse(page_of_heads(crew, heads_of(crew)), content_type="text/plain; charset=utf-8")


@require_GET
@job_view(Verb.SEE)
def company(_request: Request, visit: Visit) -> HttpResponse:
    """Who is on the job now, and what has just happened."""
    return HttpResponse(company_line(visit.job))


@require_GET
@job_view(Verb.SEE)
def drawing(request: Request, visit: Visit, number: int) -> HttpResponse:
    """A surface as it was signed."""
    return drawing_of(signed_drawing(visit.job, number))


def drawing_of(drawn: str | None) -> HttpResponse:
    """A drawing that never changes, as long as who asks may see it."""
    if drawn is None:
        raise Http404
    response = HttpResponse(drawn, content_type="image/svg+xml")
    response["Cache-Control"] = "private, no-cache"
    return response


@require_GET
@job_view(Verb.SEE)
def handover_calendar(request: Request, visit: Visit) -> HttpResponse:
    """From when it may be used, and what is looked at again, for a calendar."""
    given, _counted = handed_over(snapshot(visit.job))
    return download(calendar(visit.job, given), "text/calendar", visit.job.name, "handover", "ics")
