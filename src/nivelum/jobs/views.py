"""The Yard."""

from contextlib import nullcontext
from urllib.parse import urlencode

from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET

from nivelum.crews.policy import Verb, may
from nivelum.crews.requests import Request
from nivelum.jobs import summaries
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.photos import PHOTO_NAME, kept, shown


@require_GET
def yard(request: Request) -> HttpResponse:
    """The jobs of one's crews, those that need someone first; those that are finished rest by themselves."""
    return _yard(request, "yard/yard.html")


@require_GET
def yard_now(request: Request) -> HttpResponse:
    return _yard(request, "yard/jobs.html")


@require_GET
@job_view(Verb.SEE)
def photo(request: Request, visit: Visit, photo: str) -> HttpResponseBase:
    """A photo that an entry of the job names."""
    found = kept(visit.job, photo) if PHOTO_NAME.fullmatch(photo) else None
    if found is None:
        raise Http404
    return shown(request, found, photo)


def _yard(request: Request, template: str) -> HttpResponse:
    """In the words of the crew, or of one's crews where they all speak the same; else in the reader's own."""
    asked, finished = request.GET.get("q", "").strip()[:LONGEST_ASKED], request.GET.get("which") == "finished"
    found = summaries.yard(request.user, request.GET.get("page", "1"), asked, finished=finished)
    own = list(request.user.memberships.select_related("crew"))
    may_start = any(may(each.role, Verb.DESIGN) for each in own)
    regions = {each.crew.region for each in own}
    around = urlencode(
        {name: said for name, said in (("q", asked), ("which", "finished" if finished else "")) if said}
    )
    context = {
        "yard": found, "number": found.number, "room": "yard", "may_start": may_start, "asked": asked,
        "finished": finished, "around": around, "own": own,
    }  # fmt: skip
    with own[0].crew.in_its_words() if len(regions) == 1 else nullcontext():
        return render(request, template, context)


LONGEST_ASKED = 80


@require_GET
@job_view(Verb.SEE)
def open_job(request: Request, visit: Visit) -> HttpResponse:
    """A job opens where the work is."""
    return redirect("ground", job_id=visit.job.id)
