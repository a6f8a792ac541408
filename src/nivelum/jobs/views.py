"""The Yard."""

from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET

from nivelum.crews.policy import Verb, roles_that_may
from nivelum.crews.requests import Request
from nivelum.jobs import summaries
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.photos import PHOTO_NAME, kept, shown


@require_GET
def yard(request: Request) -> HttpResponse:
    """The jobs of one's crews, those that need someone first; those that are finished rest by themselves."""
    return render(request, "yard/yard.html", _yard(request))


@require_GET
def yard_now(request: Request) -> HttpResponse:
    return render(request, "yard/jobs.html", _yard(request))


@require_GET
@job_view(Verb.SEE)
def photo(request: Request, visit: Visit, photo: str) -> HttpResponseBase:
    """A photo that an entry of the job names."""
    found = kept(visit.job, photo) if PHOTO_NAME.fullmatch(photo) else None
    if found is None:
        raise Http404
    return shown(request, found, photo)


def _yard(request: Request) -> dict[str, Any]:
    asked, finished = request.GET.get("q", "").strip()[:LONGEST_ASKED], request.GET.get("which") == "finished"
    found = summaries.yard(request.user, request.GET.get("page", "1"), asked, finished=finished)
    may_start = request.user.memberships.filter(role__in=roles_that_may(Verb.DESIGN)).exists()
    around = urlencode(
        {name: said for name, said in (("q", asked), ("which", "finished" if finished else "")) if said}
    )
    return {
        "yard": found, "number": found.number, "room": "yard", "may_start": may_start, "asked": asked,
        "finished": finished, "around": around,
    }  # fmt: skip


LONGEST_ASKED = 80


@require_GET
@job_view(Verb.SEE)
def open_job(request: Request, visit: Visit) -> HttpResponse:
    """A job opens where the work is."""
    return redirect("ground", job_id=visit.job.id)
