"""What the level in hand reads, for the pad; whatever the device does, one may go on typing."""

from django.core.exceptions import ValidationError
from django.http import JsonResponse
from django.utils.translation import gettext_lazy as _
from django.views.decorators.http import require_GET

from groundwork.assess import Assessment
from groundwork.measures import Unit, as_typed, format_density
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.instruments.driver import DeviceError, Rod, Trouble, level_named
from nivelum.instruments.probes import ProbePlace, probe_named
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import snapshot
from nivelum.lifts.forms.amounts import place_of
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


PROBE_SAYS = {
    Trouble.SILENT: _("The device does not answer. Type what it shows."),
    Trouble.GARBLED: _("The device cannot be understood. Type what it shows."),
    Trouble.STUCK: _("The device repeats itself: switch it off and on, or type what it shows."),
    Trouble.IMPOSSIBLE: _("The device says what cannot be. Type what it shows."),
}


@require_GET
@job_view(Verb.MEASURE)
def level(request: Request, visit: Visit) -> JsonResponse:
    """What it reads now, as it would be typed, or why it reads nothing."""
    assessment = snapshot(visit.job).assessment
    held = hand(request, visit, assessment)
    try:
        reading = level_named(held.tool.driver).read(_rod(request, visit, assessment, held))
    except DeviceError as error:
        return JsonResponse({"trouble": str(SAYS[error.trouble])})
    unit: Unit = visit.job.crew.unit
    return JsonResponse({"typed": as_typed(reading, unit)})


@require_GET
@job_view(Verb.MEASURE)
def probe(request: Request, visit: Visit) -> JsonResponse:
    """What the gauge or the falling weight says at a place of a lift, as it would be typed, or why it says none."""
    works, unit, query = snapshot(visit.job).assessment.works, visit.job.crew.unit, request.GET
    lift = works.lifts.get(query.get("lift", ""))
    what = query.get("what", "")
    try:
        at = place_of(query["at"], unit) if query.get("at") else dict(lift.places)[query["place"]] if lift else None
    except (KeyError, ValidationError):
        at = None
    if lift is None or at is None:
        return JsonResponse({"trouble": str(_("Say first at which place it stands."))})
    done = -1.0 if lift.course is None else min((c.share or 0.0) for c in lift.coverage)
    spot = ProbePlace(str(visit.job.id), at, lift.curve.maximum if lift.curve else 2100.0, done)
    try:
        device = probe_named(what)
        if what == "gauge":
            wet, moisture = device.density(spot)
            fields = {"wet": format_density(wet, unit, named=False), "moisture": f"{moisture:.1%}".rstrip("%")}
        else:
            fields = dict(zip(("one", "two", "three"), (f"{s * 1000:.2f}" for s in device.drops(spot)), strict=True))
    except DeviceError as error:
        return JsonResponse({"trouble": str(PROBE_SAYS.get(error.trouble, PROBE_SAYS[Trouble.SILENT]))})
    return JsonResponse({"fields": fields})


def _rod(request: Request, visit: Visit, assessment: Assessment, held: Hand) -> Rod:
    """Where the rod stands by what the pad asks: on a mark to look back on, on a point, or at the station."""
    world, query = f"{visit.job.id}/{held.tool.id}", request.GET
    for asked in ("mark", "point"):
        if name := query.get(asked):
            known = assessment.levels.runs.level_of(name)
            about = assessment.job.design.level(assessment.job.stations[0].at) if known is None else known
            return Rod(world, about, point="".join(name.split())[:30], moved=asked == "mark")
    place = chosen(query, assessment)
    answer = assessment.surveys.of(place.surface).answers[place.station]
    return Rod(world, answer.design, at=answer.station.at)
