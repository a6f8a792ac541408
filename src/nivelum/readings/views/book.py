"""What is read on paper too: the level book, and what to read at every station of a surface."""

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from groundwork.files import books
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import snapshot
from nivelum.readings.hand import hand
from nivelum.readings.place import chosen


@require_GET
@job_view(Verb.SEE)
def book(request: Request, visit: Visit) -> HttpResponse:
    """Every run of the level, booked by height of instrument and by rise and fall."""
    shot = snapshot(visit.job)
    context = job_screen(visit, shot, "ground") | {
        "books": books(shot.assessment),
        "by_rise": request.GET.get("by") == "rise",
    }
    return render(request, "ground/book.html", context)


@require_GET
@job_view(Verb.SEE)
def targets(request: Request, visit: Visit) -> HttpResponse:
    """What should be read at every station of a surface with the tool in hand, to print or carry."""
    shot = snapshot(visit.job)
    assessment = shot.assessment
    held, survey = hand(request, visit, assessment), assessment.surveys.of(chosen(request.GET, assessment).surface)
    rows = [(answer, survey.target(answer.station, held.reference)) for answer in survey.answers.values()]
    context = job_screen(visit, shot, "ground") | {"survey": survey, "hand": held, "rows": rows}
    return render(request, "ground/targets.html", context)
