"""The Yard, and a job's Base."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET

from groundwork.base import SurfaceKey
from groundwork.stages import EXCAVATION, Gate
from nivelum.crews.policy import Verb
from nivelum.drawing.plan import thumbnail
from nivelum.drawing.section import section
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.models import Job
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import snapshot

WANTS_SOMEONE = [Gate.OVERTAKEN, Gate.READY, Gate.HELD, Gate.NOT_BEGUN, Gate.SIGNED]


@require_GET
def yard(request: HttpRequest) -> HttpResponse:
    """Every job of one's crews, those that need someone first. One query a job beside a fixed few."""
    return render(request, "yard/yard.html", _yard(request))


@require_GET
def yard_now(request: HttpRequest) -> HttpResponse:
    return render(request, "yard/jobs.html", _yard(request))


def _yard(request: HttpRequest) -> dict[str, Any]:
    jobs = Job.objects.filter(crew__memberships__person=request.user).select_related("crew").order_by("name")
    rows = []
    for job in jobs:
        shot = snapshot(job)
        newest = max(shot.made.values(), key=lambda made: made.at)
        dig = shot.assessment.stage(EXCAVATION.key)
        rows.append(
            {
                "job": job,
                "dig": dig,
                "number": shot.number,
                "thumbnail": thumbnail(shot.assessment),
                "line": shot.assessment.stage_line,
                "shot": shot.assessment.shot_count(),
                "stations": len(shot.assessment.stations),
                "newest": newest,
            }
        )
    rows.sort(key=lambda row: WANTS_SOMEONE.index(row["dig"].gate))
    number = sum(row["number"] for row in rows)
    return {"rows": rows, "number": number, "room": "yard"}


@require_GET
@job_view(Verb.SEE)
def open_job(request: HttpRequest, visit: Visit) -> HttpResponse:
    """A job opens where the work is."""
    return redirect("ground", job_id=visit.job.id)


@require_GET
@job_view(Verb.SEE)
def base(request: HttpRequest, visit: Visit) -> HttpResponse:
    """The base as a section to scale, with levels at a station."""
    shot = snapshot(visit.job)
    assessment, unit = shot.assessment, visit.job.crew.unit
    name = request.GET.get("station", "")
    answer = assessment.ground.get(name) or next(iter(assessment.ground.values()))
    specification = assessment.job.specification
    context = job_screen(visit, shot, "base") | {
        "answer": answer,
        "specification": specification,
        "layers": [(layer, specification.compacted(layer)) for layer in specification.layers],
        "surfaces": [(s, answer.finished - s.depth, s.key is SurfaceKey.FORMATION) for s in specification.surfaces],
        "section": section(assessment.job, answer.finished, unit),
    }
    return render(request, "base/base.html", context)
