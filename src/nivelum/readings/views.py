"""Ground: is this surface where it should be? The plan, the stake and the pad."""

import math
from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.urls import reverse
from django.utils.http import urlencode
from django.views.decorators.http import require_GET, require_POST

from groundwork import job as core
from groundwork.assess import Assessment
from groundwork.dig import StationAnswer
from groundwork.stations import neighbour
from groundwork.verdict import Standing
from nivelum.crews.policy import Verb
from nivelum.drawing.plan import plan
from nivelum.drawing.stake import stake
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.models import Entry
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Author, Snapshot, snapshot
from nivelum.jobs.templatetags.measures import standing_word
from nivelum.readings.forms import EntryForm, FillForm, ReadingForm, SetUpForm, StrikeForm
from nivelum.readings.services import Refused, may_strike, record

DIRECTIONS = {"right": (1, 0), "left": (-1, 0), "up": (0, 1), "down": (0, -1)}
WANT_FILL = {Standing.OVER_DUG, Standing.UNEXPLAINED, Standing.UNSOUND_FILL}


@require_GET
@job_view(Verb.SEE)
def ground(request: HttpRequest, visit: Visit) -> HttpResponse:
    """The screen, or with htmx its panes, at `station`; `last` names the station read just now."""
    shot = snapshot(visit.job)
    moving = request.GET.get("set-up") == "1"
    return _answer(request, visit, shot, _chosen(request.GET, shot), moving=moving)


@require_GET
@job_view(Verb.SEE)
def ground_now(request: HttpRequest, visit: Visit) -> HttpResponse:
    """What others have changed: plan, stake and stages. The pad is left alone, someone may be typing."""
    shot = snapshot(visit.job)
    context = _context(visit, shot, _chosen(request.GET, shot))
    set_up = shot.assessment.set_up
    shown = request.GET.get("shown_set_up", "")
    if shown != (set_up.id if set_up else ""):
        context["moved_by"] = shot.made[set_up.id].by_name if set_up else ""
        context["set_up_changed"] = True
    return render(request, "ground/now.html", context)


@require_POST
@job_view(Verb.MEASURE)
def reading(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Records a reading and moves to the next station."""
    form = ReadingForm(request.POST, unit=visit.job.crew.unit)
    entry = _recorded(request, visit, form, "reading")
    shot = snapshot(visit.job)
    if entry is None:
        return _answer(request, visit, shot, _chosen(request.POST, shot), reading_form=form)
    at = form.cleaned_data["station"]
    return _moved(request, visit, shot, shot.assessment.next_station(at), last=at)


@require_POST
@job_view(Verb.MEASURE)
def set_up(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Records a set-up of the instrument."""
    shot = snapshot(visit.job)
    form = SetUpForm(request.POST, assessment=shot.assessment)
    entry = _recorded(request, visit, form, "backsight")
    station = _chosen(request.POST, shot)
    if entry is None:
        return _answer(request, visit, shot, station, set_up_form=form)
    return _moved(request, visit, snapshot(visit.job), station)


@require_POST
@job_view(Verb.MEASURE)
def fill(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Records what was put back at a station; the station stays chosen, to be shot again."""
    form = FillForm(request.POST)
    entry = _recorded(request, visit, form, "lifts")
    shot = snapshot(visit.job)
    station = _chosen(request.POST, shot)
    if entry is None:
        return _answer(request, visit, shot, station, fill_form=form)
    return _moved(request, visit, shot, station)


@require_POST
@job_view(Verb.MEASURE)
def strike(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Strikes out an entry; what was typed in it stands ready to be corrected."""
    form = StrikeForm(request.POST)
    entry = _recorded(request, visit, form, "strikes")
    shot = snapshot(visit.job)
    station = _chosen(request.POST, shot)
    if entry is None:
        return _answer(request, visit, shot, station, strike_form=form)
    return _moved(request, visit, shot, station, struck=entry.body["strikes"])


def _recorded(request: HttpRequest, visit: Visit, form: EntryForm, field: str) -> Entry | None:
    """The entry, or None with the form's errors saying why not; an error without a field goes to `field`."""
    if not form.is_valid():
        return None
    try:
        author = Author(visit.person, form.cleaned_data["device_at"])
        return record(visit, form.value(), author)
    except Refused as refused:
        form.add_error(refused.field if refused.field in form.fields else field, refused.message)
        return None


def _chosen(query: Any, shot: Snapshot) -> str:
    """The station asked for, or where to begin: the first not shot, else the first that holds the stage."""
    answers = shot.assessment.ground
    if (asked := query.get("station")) in answers:
        return str(asked)
    unshot = (name for name, a in answers.items() if a.judgement.standing is Standing.UNSHOT)
    unsound = (name for name, a in answers.items() if not a.judgement.standing.is_sound)
    return next(unshot, None) or next(unsound, None) or next(iter(answers))


def _moved(
    request: HttpRequest, visit: Visit, shot: Snapshot, station: str, *, last: str = "", struck: str = ""
) -> HttpResponse:
    """The panes at `station` for htmx; for a plain form, the way there."""
    if request.htmx:
        return _answer(request, visit, shot, station, last=last, struck=struck)
    address = reverse("ground", args=[visit.job.id])
    return HttpResponseRedirect(f"{address}?{urlencode({'station': station, 'last': last, 'struck': struck})}")


def _answer(
    request: HttpRequest, visit: Visit, shot: Snapshot, station: str, *, last: str = "",
    struck: str = "", moving: bool = False, **forms: EntryForm,
) -> HttpResponse:  # fmt: skip
    """The whole screen, or its panes for htmx; 422 where a form was refused."""
    last = last or (request.GET.get("last", "") if not request.htmx else "")
    struck = struck or (request.GET.get("struck", "") if not request.htmx else "")
    context = _context(visit, shot, station)
    context |= _pad(visit, shot, station, last, struck, moving, forms)
    template = "ground/panes.html" if request.htmx else "ground/ground.html"
    return render(request, template, context, status=422 if forms else 200)


def _context(visit: Visit, shot: Snapshot, station: str) -> dict[str, Any]:
    assessment, unit = shot.assessment, visit.job.crew.unit
    answer = assessment.ground[station]
    standings = {a.judgement.standing for a in assessment.ground.values()}
    return job_screen(visit, shot, "ground") | {
        "answer": answer,
        "shot": assessment.shot_count(),
        "standings": [standing for standing in Standing if standing in standings],
        "plan": plan(assessment, unit, station, _word),
        "stake": stake(assessment, answer, unit),
        "ways": {way: neighbour(assessment.stations, station, towards) for way, towards in DIRECTIONS.items()},
        "may_measure": visit.may(Verb.MEASURE),
        "set_up": assessment.set_up,
    }


def _word(answer: StationAnswer) -> str:
    return standing_word(answer.judgement.standing)


def _pad(
    visit: Visit, shot: Snapshot, station: str, last: str, struck: str, moving: bool,
    forms: dict[str, EntryForm],
) -> dict[str, Any]:  # fmt: skip
    assessment, unit = shot.assessment, visit.job.crew.unit
    set_up = assessment.set_up
    answer = assessment.ground[station]
    told = assessment.ground.get(last or station, answer)
    newest = next(reversed(assessment.entries_at(told.station.name)), None)
    made = shot.made[newest.id] if newest else None
    onward = assessment.ground[assessment.next_station(station)]
    context = {
        "told": told if told.judgement.standing is not Standing.UNSHOT else None,
        "newest": newest,
        "newest_made": made,
        "may_strike": made is not None and may_strike(visit, made.by_id),
        "onward": onward,
        "onward_distance": math.dist(onward.station.at, answer.station.at),
        "struck": _struck_text(assessment, struck),
        "may_strike_set_up": set_up is not None and may_strike(visit, shot.made[set_up.id].by_id),
        "height": assessment.instrument_height(set_up) if set_up else None,
        "strike_form": forms.get("strike_form") or StrikeForm(initial={"strikes": newest and newest.id}),
        "wants_fill": told.judgement.standing in WANT_FILL,
        "fill_form": forms.get("fill_form") or FillForm(initial={"station": told.station.name}),
    }
    if set_up is None or moving or "set_up_form" in forms:
        context["set_up_form"] = forms.get("set_up_form") or SetUpForm(assessment=assessment)
        return context
    initial = {"station": station, "set_up": set_up.id, "reading": context["struck"]}
    same = answer.judgement.wants_a_repeat
    context["reading_form"] = forms.get("reading_form") or ReadingForm(
        initial=initial | {"same_ground": same}, unit=unit
    )
    context["was_shot"] = answer.judgement.shots > 0
    return context


def _struck_text(assessment: Assessment, struck: str) -> str:
    """What was typed in the reading just struck out."""
    found = (e for e in assessment.job.entries if e.id == struck and isinstance(e, core.Reading))
    return next((entry.reading.raw for entry in found), "")
