"""Today: what can be done, hour by hour, until when; how much bed before the rain; what to sheet tonight."""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from django.http import HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.views.decorators.http import require_GET, require_POST

from groundwork.measures import Unit, Words, format_celsius, format_rain, format_wind
from groundwork.outdoors import Minded, Says, WorkHour, limits_of, minded
from groundwork.programme import StageNow, bed_today, stages_now, to_cover
from groundwork.weather import Forecast
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.days.plans import DaysNow, standing
from nivelum.days.screens import days_screen
from nivelum.days.words import BESIDE, WORK, day_words, when_words
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.money.shown import stage_title
from nivelum.weather.services import ask

A_SECOND_RAIN = 3_600_000
"""mm/h in m/s."""
CAUTIONS = {
    Minded.LIGHTNING: gettext_lazy(
        "Lightning: off the site, into a building or a closed car, until half an hour after the last thunder."
    ),
    Minded.HEAT: gettext_lazy(
        "Heat: water, shade and a rest every hour; look out for whoever stops sweating or talks oddly."
    ),
    Minded.COLD: gettext_lazy("Cold: dry gloves, warm breaks; wind makes it colder, ice makes boards slip."),
    Minded.SUN: gettext_lazy("Sun: a hat, sleeves, and cream; it burns through thin cloud."),
}
LEAVES = ("days", "programme", "setting", "forecasts")


@dataclass(frozen=True)
class HourCell:
    """An hour of a stage as it is shown."""

    says: str
    css: str
    words: str


@dataclass(frozen=True)
class StageRow:
    """A stage as it is shown: what it says now and until when, why, and hour by hour."""

    title: str
    says: str
    css: str
    until: str
    then: str
    why: list[tuple[Words, str]]
    hours: list[HourCell]


CSS = {Says.GO: "good", Says.WITH: "close", Says.WAIT: "dig"}


def _cell(hour: WorkHour) -> HourCell:
    words = str(WORK[hour.says])
    if hour.says is Says.WITH:
        words = f"{words} {', '.join(str(BESIDE.get(each, each)) for each in hour.beside)}"
    short = {Says.GO: _("go"), Says.WITH: _("with"), Says.WAIT: _("wait")}[hour.says]
    return HourCell(short, CSS[hour.says], words)


def _row(stage: StageNow) -> StageRow:
    now = stage.hours[0]
    cell = _cell(now)
    later = next((h for h in stage.hours if h.hour.at >= now.until), None) if now.until else None
    after = _cell(later).words if later else ""
    shown = {reason.limit.key: reason for h in (now, later) if h for reason in h.reasons}
    return StageRow(
        stage_title(stage.stage), cell.words, cell.css, when_words(now.until) if now.until else "", after,
        [(reason.words, _(reason.limit.why)) for reason in shown.values()], [_cell(hour) for hour in stage.hours],
    )  # fmt: skip


def _span(of: DaysNow) -> tuple[datetime, datetime]:
    """The working hours looked at: what is left of today, else the next working day."""
    day, working = of.now.date(), of.working
    if working.works(day) and of.now < working.closes(day):
        return max(of.now, working.opens(day)), working.closes(day)
    while True:
        day += timedelta(days=1)
        if working.works(day) or (day - of.now.date()).days > 60:
            return working.opens(day), working.closes(day)


def hours_shown(forecast: Forecast, first: datetime, last: datetime, unit: Unit) -> list[dict[str, Any]]:
    return [
        {"at": max(hour.at, first), "celsius": format_celsius(round(hour.celsius), unit),
         "rain": format_rain(hour.rain / A_SECOND_RAIN, unit) if hour.rain else "",
         "chance": round(hour.chance * 100),
         "wind": format_wind(hour.wind, unit), "thunder": hour.thunder}
        for hour in forecast.between(first.replace(minute=0, second=0, microsecond=0), last)
    ]  # fmt: skip


def _cautions(of: DaysNow, first: datetime, last: datetime) -> list[str]:
    """What weather does to people, where it is to be minded; short, and local rules come first."""
    hours = of.forecast.between(first - timedelta(hours=1), last) if of.forecast else ()
    return [str(CAUTIONS[what]) for what in minded(hours, first.month, of.weather.latitude or 0.0)]


def _today(visit: Visit, shot: Snapshot, of: DaysNow) -> dict[str, Any]:
    unit, there, forecast = visit.job.crew.unit, shot.assessment, of.forecast
    first, last = _span(of)
    found: dict[str, Any] = {"day": day_words(first.date()), "is_today": first.date() == of.now.date()}
    if forecast:
        limits = limits_of(of.weather.limits)
        stages = stages_now(there, forecast, limits, first, last)
        bed = bed_today(there, stages, of.terms.people, of.now, of.working)
        found |= {
            "rows": [_row(each) for each in stages if each.hours],
            "hours": hours_shown(forecast, first, last, unit), "bed": bed,
            "bed_until": when_words(bed.until) if bed else "",
            "cover": to_cover(there, forecast, of.now, of.working),
            "people": of.terms.people,
        }  # fmt: skip
    return days_screen(visit, shot, "days", of) | found | {"cautions": _cautions(of, first, last)}


@require_GET
@job_view(Verb.SEE)
def today(request: Request, visit: Visit) -> HttpResponse:
    """The room."""
    return render(request, "days/today.html", _today(visit, snapshot(visit.job), standing(visit.job)))


@require_GET
@job_view(Verb.SEE)
def today_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed, or another forecast does."""
    return render(request, "days/today_now.html", _today(visit, snapshot(visit.job), standing(visit.job)))


@require_POST
@job_view(Verb.SEE)
def ask_forecast(request: Request, visit: Visit) -> HttpResponse:
    """Asks the service, and shows what that changes."""
    ask(visit.job.crew)
    if not request.htmx:
        leaf = request.POST.get("leaf", "")
        return HttpResponseRedirect(reverse(leaf if leaf in LEAVES else "days", args=[visit.job.id]))
    return render(request, "days/today_now.html", _today(visit, snapshot(visit.job), standing(visit.job)))
