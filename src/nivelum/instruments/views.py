"""What the level in hand reads, for the pad; whatever the device does, one may go on typing."""

from django.http import HttpRequest, JsonResponse
from django.utils.translation import gettext_lazy as _
from django.views.decorators.http import require_GET

from groundwork.assess import Assessment
from groundwork.measure import Unit, as_typed
from nivelum.crews.policy import Verb
from nivelum.instruments.driver import DeviceError, Rod, Trouble, level_named
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import snapshot
from nivelum.readings.hand import Hand, hand
from nivelum.readings.place import chosen

SAYS = {
    Trouble.SILENT: _("The level does not answer. Type what you read."),
    Trouble.GARBLED: _("The level cannot be understood. Type what you read."),
    Trouble.UNSTEADY: _("The level is unsteady: let it settle, or type what you read."),
    Trouble.STUCK: _("The level repeats itself: switch it off and on, or type what you read."),
    Trouble.IMPOSSIBLE: _("The level says what no rod can read. Type what you read."),
    Trouble.NO_ROD: _("The level does not see the rod. Turn it to the level, or type what you read."),
}


@require_GET
@job_view(Verb.MEASURE)
def level(request: HttpRequest, visit: Visit) -> JsonResponse:
    """What it reads now, as it would be typed, or why it reads nothing."""
    assessment = snapshot(visit.job).assessment
    held = hand(request, visit, assessment)
    try:
        reading = level_named(held.tool.driver).read(_rod(request, visit, assessment, held))
    except DeviceError as error:
        return JsonResponse({"trouble": str(SAYS[error.trouble])})
    unit: Unit = visit.job.crew.unit
    return JsonResponse({"typed": as_typed(reading, unit)})


def _rod(request: HttpRequest, visit: Visit, assessment: Assessment, held: Hand) -> Rod:
    """Where the rod stands by what the pad asks: on a mark to look back on, on a point, or at the station."""
    world, query = f"{visit.job.id}/{held.tool.id}", request.GET
    for asked in ("mark", "point"):
        if name := query.get(asked):
            known = assessment.runs.level_of(name)
            about = assessment.job.design.level(assessment.stations[0].at) if known is None else known
            return Rod(world, about, point="".join(name.split())[:30], moved=asked == "mark")
    place = chosen(query, assessment)
    answer = assessment.survey(place.surface).answers[place.station]
    return Rod(world, answer.design, at=answer.station.at)
