"""What sets and what dries: when it may be walked on, built on, driven on; how warm it was."""

from datetime import date, datetime, timedelta
from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.daywork import DayWas, ThermometerRead
from groundwork.measures import Unit
from groundwork.programme import Setting, settings
from nivelum.crews.models import Crew
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.days.forms import DayWasForm, ThermometerForm
from nivelum.days.plans import DaysNow, standing
from nivelum.days.screens import days_screen
from nivelum.days.words import day_words, hours_words, when_words
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.forms import EntryForm, StrikeForm
from nivelum.recording.kinds import say
from nivelum.weather.models import ForecastWay, KeptForecast

LOOKED_BACK = 21
"""Days whose warmth is asked for at the most."""
WHOLE_DAY = 20
"""Hours of a day a service has to speak of before its day is taken from it."""


def _row(each: Setting, now: datetime) -> dict[str, Any]:
    done = each.at is not None and each.at <= now
    return {
        "what": each.what, "then": each.then, "at": when_words(each.at) if each.at else "", "done": done,
        "left": hours_words(each.at - now) if each.at and not done else "", "share": round(each.share * 100),
        "since": when_words(each.since), "is_estimate": each.is_estimate,
    }  # fmt: skip


def _degrees(celsius: float, unit: Unit) -> str:
    return f"{celsius:.1f}".rstrip("0").rstrip(".") if unit.is_metric else f"{celsius * 1.8 + 32:.0f}"


def _said_days(visit: Visit, shot: Snapshot, of: DaysNow) -> list[dict[str, str]]:
    """Days since the oldest that sets whose warmth nobody has recorded, as the service said they were."""
    since = min((s.since for s in settings(shot.assessment, None, of.usual_celsius, of.now, None)), default=None)
    if since is None:
        return []
    known = {day.on for day in shot.assessment.logbook.of_kind(DayWas).values()}
    first = max(since.date(), of.now.date() - timedelta(days=LOOKED_BACK))
    hours: dict[date, dict[int, float]] = {}
    for kept in _first_of_each_day(visit.job.crew, first - timedelta(days=1)):
        for hour in kept.forecast.hours:
            if first <= hour.at.date() < of.now.date() and hour.at.date() not in known:
                hours.setdefault(hour.at.date(), {})[hour.at.hour] = hour.celsius
    unit = visit.job.crew.unit
    return [
        {"on": day.isoformat(), "words": day_words(day), "least": _degrees(min(by.values()), unit),
         "most": _degrees(max(by.values()), unit), "said": _("the service")}
        for day, by in sorted(hours.items())
        if len(by) >= WHOLE_DAY
    ]  # fmt: skip


def _first_of_each_day(crew: Crew, since: date) -> list[KeptForecast]:
    """The first forecast the service issued on each day: it speaks of nearly all of it; oldest first. Two queries."""
    issued = KeptForecast.objects.filter(crew=crew, way=ForecastWay.SERVICE, issued__date__gte=since)
    first: dict[date, int] = {}
    for pk, at in issued.order_by("issued").values_list("pk", "issued"):
        first.setdefault(timezone.localtime(at).date(), pk)
    found = list(KeptForecast.objects.filter(pk__in=list(first.values())).order_by("issued"))
    for kept in found:
        kept.crew = crew
    return found


def _setting(visit: Visit, shot: Snapshot, of: DaysNow) -> dict[str, Any]:
    unit, there = visit.job.crew.unit, shot.assessment
    found = settings(there, of.forecast, of.usual_celsius, of.now, of.weather.latitude)
    written = list(there.logbook.of_kind(ThermometerRead, DayWas).values())[::-1][:12]
    return days_screen(visit, shot, "setting", of) | {
        "rows": [_row(each, of.now) for each in found], "said_days": _said_days(visit, shot, of) if found else [],
        "read_form": ThermometerForm(unit=unit, auto_id="id_t_%s"),
        "was_form": DayWasForm(
            unit=unit, auto_id="id_d_%s", initial={"on": (of.now.date() - timedelta(days=1)).isoformat()}
        ),
        "written": [(entry, say(entry, unit)) for entry in written], "strike_form": StrikeForm(),
        "degrees": "°C" if unit.is_metric else "°F",
    }  # fmt: skip


@require_GET
@job_view(Verb.SEE)
def setting(request: Request, visit: Visit) -> HttpResponse:
    """Its page."""
    return shown(request, _at(visit), _setting(visit, snapshot(visit.job), standing(visit.job)))


@require_GET
@job_view(Verb.SEE)
def setting_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    return render(request, "days/setting_now.html", _setting(visit, snapshot(visit.job), standing(visit.job)))


@require_POST
@job_view(Verb.MEASURE)
def record_warmth(request: Request, visit: Visit, what: str) -> HttpResponse:
    """A thermometer `read`, how warm a day `was`, one of these struck out."""
    unit = visit.job.crew.unit
    makes: dict[str, tuple[EntryForm, str, str]] = {
        "read": (ThermometerForm(request.POST, unit=unit, auto_id="id_t_%s"), "degrees", "read_form"),
        "was": (DayWasForm(request.POST, unit=unit, auto_id="id_d_%s"), "least", "was_form"),
        "strike": (StrikeForm(request.POST), "strikes", "strike_form"),
    }
    if what not in makes:
        raise Http404
    form, field, named = makes[what]
    done = recorded(visit, form, field)
    wrong = {} if done else {named: form}
    return answered(
        request, done, _at(visit), lambda: _setting(visit, snapshot(visit.job), standing(visit.job)) | wrong
    )  # fmt: skip


def _at(visit: Visit) -> RecordedAt:
    return RecordedAt("days/setting.html", "days/setting_now.html", reverse("setting", args=[visit.job.id]))
