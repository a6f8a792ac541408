"""What others have done to the design while a leaf of Base stays open."""

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from groundwork.job import Design
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.models import Entry
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import snapshot


@require_GET
@job_view(Verb.SEE)
def news(request: Request, visit: Visit) -> HttpResponse:
    """The line of stages as it stands, and whether the design is newer than the `version` on the screen: what someone
    is typing is left alone."""
    shot = snapshot(visit.job)
    seen, version = request.GET.get("version", ""), shot.assessment.job.version
    newest = None
    if seen.isascii() and seen.isdigit() and len(seen) < 10 and int(seen) < version:
        newest = Entry.objects.filter(job=visit.job, kind=Design.KIND).order_by("-number").first()
    context = job_screen(visit, shot, "base") | {"newest": newest, "version": version}
    return render(request, "base/news.html", context)
