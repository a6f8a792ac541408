"""The Yard."""

from typing import Any

from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET

from groundwork.stages import Gate
from nivelum.crews.policy import Verb, roles_that_may
from nivelum.crews.requests import Request
from nivelum.drawing.plan import thumbnail
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.models import Job
from nivelum.jobs.photos import PHOTO_NAME, kept, shown
from nivelum.jobs.services import snapshot

WANTS_SOMEONE = [
    Gate.OVERTAKEN,
    Gate.READY,
    Gate.HELD,
    Gate.READY_TO_CHECK,
    Gate.NOT_YET,
    Gate.SIGNED,
    Gate.SIGNED_ACCEPTED,
]


@require_GET
def yard(request: Request) -> HttpResponse:
    """Every job of one's crews, those that need someone first. One query a job beside a fixed few."""
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
    jobs = Job.objects.filter(crew__memberships__person=request.user).select_related("crew").order_by("name")
    rows: list[dict[str, Any]] = []
    for job in jobs:
        shot = snapshot(job)
        newest = max(shot.made.values(), key=lambda made: made.at)
        rows.append(
            {
                "job": job,
                "step": shot.assessment.stages.in_hand,
                "number": shot.number,
                "thumbnail": thumbnail(shot.assessment),
                "line": shot.assessment.stages.line,
                "shot": shot.assessment.surveys.formation.shot_count,
                "stations": len(shot.assessment.job.stations),
                "newest": newest,
            }
        )
    rows.sort(key=lambda row: WANTS_SOMEONE.index(row["step"].gate))
    number = sum(row["number"] for row in rows)
    may_start = request.user.memberships.filter(role__in=roles_that_may(Verb.DESIGN)).exists()
    return {"rows": rows, "number": number, "room": "yard", "may_start": may_start}


@require_GET
@job_view(Verb.SEE)
def open_job(request: Request, visit: Visit) -> HttpResponse:
    """A job opens where the work is."""
    return redirect("ground", job_id=visit.job.id)
