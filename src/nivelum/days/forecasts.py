"""Forecasts: the one that holds, those before it, what was known when; one from a file, one typed."""

from datetime import datetime, timedelta
from typing import Any

from django.contrib import messages
from django.http import HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.measures import in_words
from groundwork.weather import Forecast, of_days, read_forecast
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.days.forms import DayAheadForm, ForecastForm, typed_forms
from nivelum.days.plans import DaysNow, standing
from nivelum.days.screens import days_screen, told
from nivelum.days.today import hours_shown
from nivelum.days.words import day_words
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import snapshot
from nivelum.recording.moments import MINUTE, minute_now
from nivelum.weather.models import ForecastWay, KeptForecast
from nivelum.weather.services import keep, newest

LISTED = 24
"""Forecasts that are listed."""


def _page(request: Request, visit: Visit, of: DaysNow, **more: Any) -> dict[str, Any]:
    shot, unit = snapshot(visit.job), visit.job.crew.unit
    asked = _asked(request)
    held = newest(visit.job.crew, _end_of(asked, visit)) if asked else of.kept
    rows = list(KeptForecast.objects.filter(crew=visit.job.crew)[:LISTED])
    for each in rows:
        each.crew = visit.job.crew
    first = asked or of.now
    return days_screen(visit, shot, "forecasts", of) | {
        "held": told(held, first) if held else None, "asked": asked,
        "days": _by_day(held, first, unit) if held else [],
        "rows": [told(each, of.now) | {"came": each.came, "way": each.get_way_display()} for each in rows],
        "file_form": ForecastForm(auto_id="id_f_%s"), "typed": typed_forms(None, unit, of.now.date()),
    } | more  # fmt: skip


def _asked(request: Request) -> datetime | None:
    """The moment asked about; None where none is, or none that is one."""
    try:
        found = datetime.strptime(request.GET.get("known", ""), MINUTE)
    except ValueError:
        return None
    return found if 2000 <= found.year <= 2099 else None


def _end_of(minute: datetime, visit: Visit) -> datetime:
    """What came in a minute had come by its end."""
    return timezone.make_aware(minute, visit.job.crew.zone) + timedelta(minutes=1)


def _by_day(kept: KeptForecast, first: datetime, unit: Any) -> list[dict[str, Any]]:
    """Hour by hour what was said, day by day."""
    of = kept.forecast
    found: dict[Any, list[dict[str, Any]]] = {}
    for hour in hours_shown(of, max(first, of.begins), of.ends, unit):
        found.setdefault(hour["at"].date(), []).append(hour)
    return [{"day": day_words(day), "hours": hours} for day, hours in list(found.items())[:5]]


@require_GET
@job_view(Verb.SEE)
def forecasts(request: Request, visit: Visit) -> HttpResponse:
    """Its page."""
    return render(request, "days/forecasts.html", _page(request, visit, standing(visit.job)))


@require_POST
@job_view(Verb.MEASURE)
def bring_forecast(request: Request, visit: Visit) -> HttpResponse:
    """A forecast from a file or as its text."""
    form = ForecastForm(request.POST, request.FILES, auto_id="id_f_%s")
    if form.is_valid():
        try:
            crew = visit.job.crew
            found = read_forecast(form.cleaned_data["text"], crew.zone, minute_now(), _("a file"))
            return _kept(request, visit, found, ForecastWay.FILE)
        except ValueError as error:
            form.add_error(None, f"{in_words(error, visit.job.crew.unit, _)}.")
    return render(
        request, "days/forecasts.html", _page(request, visit, standing(visit.job), file_form=form), status=422
    )  # fmt: skip


@require_POST
@job_view(Verb.MEASURE)
def type_forecast(request: Request, visit: Visit) -> HttpResponse:
    """A forecast from a few figures a day."""
    of, unit = standing(visit.job), visit.job.crew.unit
    typed = typed_forms(request.POST, unit, of.now.date())
    wrong = "" if typed else _("Type at least one day.")
    if typed and not [form for form in typed if not form.is_valid()]:
        try:
            found = of_days(
                [form.day for form in typed], minute_now(), _("typed by {name}").format(name=visit.person.name)
            )
            return _kept(request, visit, found, ForecastWay.TYPED)
        except ValueError as error:
            wrong = f"{in_words(error, unit, _)}."
    shown: list[DayAheadForm] = typed or typed_forms(None, unit, of.now.date())
    context = _page(request, visit, of, typed=shown, typed_wrong=wrong)
    return render(request, "days/forecasts.html", context, status=422)


def _kept(request: Request, visit: Visit, found: Forecast, way: ForecastWay) -> HttpResponse:
    keep(visit.job.crew, found, way, visit.person.name)
    messages.success(request, _("Kept. Days go by the forecast that was issued last."))
    return HttpResponseRedirect(reverse("forecasts", args=[visit.job.id]))
