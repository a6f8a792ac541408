"""A PDF that the workshop makes, handed over or waited for: the same from every room."""

from collections.abc import Callable

from django.http import HttpResponse
from django.shortcuts import render
from django_htmx.http import trigger_client_event

from nivelum.crews.requests import Request
from nivelum.exchange.views import download
from nivelum.jobs.models import Job
from nivelum.workshop.bench import TooMuch
from nivelum.workshop.shelf import Found, InTheMaking


def pdf_answer(request: Request, job: Job, back: str, what: str, make: Callable[[], Found]) -> HttpResponse:
    """The PDF that `make` makes, named after the job and `what` it holds; while it is being made, a page that says
    so, asks again and leads `back`, and 202."""
    try:
        made = make()
    except TooMuch:
        return render(request, "record/too_much.html", {"job": job}, status=500)
    if not isinstance(made, InTheMaking):
        if request.htmx:  # the page that waits goes on to the file
            ready = render(request, "record/made.html", {"where": request.get_full_path()})
            return trigger_client_event(ready, "made", {"where": request.get_full_path()})
        return download(made, "application/pdf", job.name, what, "pdf")
    asked = request.GET.copy()
    asked["begun"] = made.name
    where = f"{request.path}?{asked.urlencode()}"
    template = "record/making_now.html" if request.htmx else "record/making.html"
    context = {"job": job, "making": made, "where": where, "back": back, "what": what}
    response = render(request, template, context, status=202)
    response["Retry-After"] = "2"
    return response
