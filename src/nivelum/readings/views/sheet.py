"""What a device takes along of Ground, so that it can judge readings where there is no signal."""

from django.http import HttpResponse
from django.views.decorators.http import require_GET

from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import snapshot
from nivelum.readings.hand import hand
from nivelum.readings.sheet import field_sheet


@require_GET
@job_view(Verb.SEE)
def sheet(request: Request, visit: Visit) -> HttpResponse:
    """Targets and verdicts of every station and surface, as data; pieces that the device `has` are left out."""
    shot = snapshot(visit.job)
    held = hand(request, visit, shot.assessment)
    made = field_sheet(shot.assessment, shot.number, held, visit.job.crew.unit)
    return HttpResponse(made.text(set(request.GET.get("has", "").split(","))), content_type="application/json")
