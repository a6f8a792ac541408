"""Ground: is this surface where it should be? The plan, the stake and the pad."""

from typing import Any
from uuid import UUID

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from nivelum.crews.models import Tool
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.models import Entry
from nivelum.jobs.outbox import Settled
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.readings.forms import (
    ANCHOR_FORMS,
    CorrectionForm,
    DisturbanceForm,
    FallForm,
    FillForm,
    ReadingForm,
    SightForm,
)
from nivelum.readings.hand import Hand, hand, take
from nivelum.readings.pad import PANES, pad, panes
from nivelum.readings.place import Place, chosen
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.doubt import refusal_of_doubt
from nivelum.recording.forms import EntryForm, StrikeForm


@require_GET
@job_view(Verb.SEE)
def ground(request: Request, visit: Visit) -> HttpResponse:
    """The screen, or with htmx its panes, at `station` of `surface`; `last` names the station read just now, `pane`
    what the pad shows of the tool in hand."""
    shot = snapshot(visit.job)
    query = request.GET
    pane = query.get("pane", "")
    place = chosen(query, shot.assessment)
    asked = {name: query.get(name, "") for name in ("last", "struck", "mark")}
    context = _context(request, visit, shot, place, pane=pane if pane in PANES else "", **asked)
    return _named(request, visit, place, shown(request, _at(visit, place), context))


@require_GET
@job_view(Verb.SEE)
def ground_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed: plan, stake and stages. The pad is left alone, someone may be typing."""
    shot = snapshot(visit.job)
    held = hand(request, visit, shot.assessment)
    context = panes(visit, shot, chosen(request.GET, shot.assessment), held)
    stands, shown = held.anchor.id if held.anchor else "", request.GET.get("shown_set_up", "")
    if shown != stands and request.GET.get("shown_tool", "") in ("", str(held.tool.id)):
        context["moved_by"] = shot.made[stands].by_name if stands and shown in shot.assessment.logbook.anchors else ""
        context["set_up_changed"] = True
    return render(request, "ground/now.html", context)


@require_POST
@job_view(Verb.MEASURE)
def hold(request: Request, visit: Visit) -> HttpResponse:
    """Takes another tool in hand."""
    try:
        take(request, visit, UUID(request.POST.get("tool", "")))
    except (ValueError, Tool.DoesNotExist) as error:
        raise Http404 from error
    shot = snapshot(visit.job)
    return _moved(request, visit, shot, chosen(request.POST, shot.assessment))


@require_POST
@job_view(Verb.MEASURE)
def reading(request: Request, visit: Visit) -> HttpResponse:
    """Records a reading and moves to the next station; what looks misread is asked about first."""
    shot = snapshot(visit.job)
    held = _held_for(request, visit, shot)
    place = chosen(request.POST, shot.assessment)
    form = ReadingForm(request.POST, unit=visit.job.crew.unit, method=held.method)
    if form.is_valid():
        entry = form.value()
        surveys = shot.assessment.surveys
        known = entry.station in surveys.ground and not Entry.objects.filter(id=UUID(entry.id)).exists()
        doubt = surveys.misreads(entry) if known and entry.surface == place.surface else None
        if doubt and not entry.sure and visit.from_outbox:
            again = reverse("ground", args=[visit.job.id]) + Place(entry.surface, entry.station).query()
            raise Settled(refusal_of_doubt(visit, doubt, entry.reading.raw, entry.station, again))
        if doubt and not entry.sure:
            return _answer(request, visit, shot, place, suspicion=doubt, reading_form=form)
    if recorded(visit, form, "reading") is None:
        return _answer(request, visit, snapshot(visit.job), place, reading_form=form)
    shot = snapshot(visit.job)
    reference, survey = _held_for(request, visit, shot).reference, shot.assessment.surveys.of(place.surface)
    onward = survey.next_station(place.station, lambda s: reference is None or reference.spot(s.at) is not None)
    return _moved(request, visit, shot, Place(place.surface, onward), last=place.station)


def _held_for(request: Request, visit: Visit, shot: Snapshot) -> Hand:
    """What the person holds; a reading sent against something else is of that one's method."""
    held = hand(request, visit, shot.assessment)
    named = shot.assessment.logbook.anchors.get(request.POST.get("set_up", ""))
    if named is None or held.anchor is None or named.instrument.method == held.method:
        return held
    tool = next((t for t in held.kit if t.method == named.instrument.method), held.tool)
    return Hand(tool, named, shot.assessment.levels.references.get(named.id), held.kit)


@require_POST
@job_view(Verb.MEASURE)
def set_up(request: Request, visit: Visit) -> HttpResponse:
    """Records what the tool in hand is set up on."""
    shot = snapshot(visit.job)
    held = hand(request, visit, shot.assessment)
    if held.method not in ANCHOR_FORMS:
        raise Http404
    form = ANCHOR_FORMS[held.method](request.POST, assessment=shot.assessment, instrument=held.tool.instrument)
    place = chosen(request.POST, shot.assessment)
    if recorded(visit, form, "backsight") is None:
        return _answer(request, visit, shot, place, anchor_form=form)
    return _moved(request, visit, snapshot(visit.job), place)


@require_POST
@job_view(Verb.MEASURE)
def sight(request: Request, visit: Visit) -> HttpResponse:
    """Records a sight on a mark or a turning point; after a turning point the level may move."""
    shot = snapshot(visit.job)
    form = SightForm(request.POST, assessment=shot.assessment)
    place = chosen(request.POST, shot.assessment)
    entry = recorded(visit, form, "reading")
    if entry is None:
        return _answer(request, visit, snapshot(visit.job), place, sight_form=form)
    point = form.cleaned_data["point"]
    turned = point not in shot.assessment.levels.marks
    return _moved(
        request, visit, snapshot(visit.job), place, pane="anew" if turned else "", mark=point if turned else ""
    )


@require_POST
@job_view(Verb.MEASURE)
def fall(request: Request, visit: Visit) -> HttpResponse:
    """Records a fall checked by straightedge; the station stays chosen."""
    shot = snapshot(visit.job)
    held = hand(request, visit, shot.assessment)
    form = FallForm(
        request.POST, unit=visit.job.crew.unit, instrument=held.tool.instrument, level=held.tool.spirit_level
    )
    return _kept(request, visit, form, "gap", "fall_form")


@require_POST
@job_view(Verb.MEASURE)
def fill(request: Request, visit: Visit) -> HttpResponse:
    """Records what was put back at a station; the station stays chosen, to be shot again."""
    return _kept(request, visit, FillForm(request.POST), "lifts", "fill_form")


@require_POST
@job_view(Verb.MEASURE)
def correct(request: Request, visit: Visit) -> HttpResponse:
    """Corrects what an earlier entry read; everything reduced from it follows."""
    return _kept(request, visit, CorrectionForm(request.POST, unit=visit.job.crew.unit), "reading", "correction_form")


@require_POST
@job_view(Verb.MEASURE)
def disturb(request: Request, visit: Visit) -> HttpResponse:
    """Records that a mark was knocked; what hung on it is unknown."""
    form = DisturbanceForm(request.POST)
    return _kept(request, visit, form, "point", "correction_form")


@require_POST
@job_view(Verb.MEASURE)
def strike(request: Request, visit: Visit) -> HttpResponse:
    """Strikes out an entry; what was typed in it stands ready to be corrected."""
    form = StrikeForm(request.POST)
    shot = snapshot(visit.job)
    entry = recorded(visit, form, "strikes")
    place = chosen(request.POST, shot.assessment)
    if entry is None:
        return _answer(request, visit, shot, place, strike_form=form)
    return _moved(request, visit, snapshot(visit.job), place, struck=entry.body["strikes"])


def _kept(request: Request, visit: Visit, form: EntryForm, field: str, name: str) -> HttpResponse:
    """Records what `form` holds and stays at the station."""
    entry = recorded(visit, form, field)
    shot = snapshot(visit.job)
    place = chosen(request.POST, shot.assessment)
    if entry is None:
        return _answer(request, visit, shot, place, **{name: form})
    return _moved(request, visit, shot, place)


def _moved(request: Request, visit: Visit, shot: Snapshot, place: Place, **more: str) -> HttpResponse:
    """The screen at `place` once something is recorded."""
    at = _at(visit, place, **{key: value for key, value in more.items() if value})
    response = answered(request, True, at, lambda: _context(request, visit, shot, place, **more))
    return _named(request, visit, place, response)


def _answer(request: Request, visit: Visit, shot: Snapshot, place: Place, **more: Any) -> HttpResponse:
    """The screen where something was refused, or is asked about."""
    response = answered(request, False, _at(visit, place), lambda: _context(request, visit, shot, place, **more))
    return _named(request, visit, place, response)


def _context(request: Request, visit: Visit, shot: Snapshot, place: Place, **more: Any) -> dict[str, Any]:
    held = hand(request, visit, shot.assessment)
    return panes(visit, shot, place, held) | pad(visit, shot, place, held, **more)


def _at(visit: Visit, place: Place, **more: str) -> RecordedAt:
    way = reverse("ground", args=[visit.job.id]) + place.query(**more)
    return RecordedAt("ground/ground.html", "ground/panes.html", way)


def _named(request: Request, visit: Visit, place: Place, response: HttpResponse) -> HttpResponse:
    """What htmx swaps in names the station it stands at."""
    if request.htmx:
        response["HX-Replace-Url"] = _at(visit, place).way
    return response
