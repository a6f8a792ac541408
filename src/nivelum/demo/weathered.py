"""Days and weather of the demo: where a crew's sites lie, forecasts that came in the days before, what was
promised."""

import uuid
from collections.abc import Mapping
from datetime import timedelta
from typing import Any

from django.utils import timezone

from groundwork.daywork import Promised
from groundwork.weather import read_forecast
from nivelum.crews.models import Crew, Person
from nivelum.jobs.models import Job
from nivelum.jobs.services import Author, append_value
from nivelum.weather.models import ForecastWay, KeptForecast, WeatherTerms
from nivelum.weather.services import keep
from nivelum.weather.standin import climate, forecast_text


def weather_for(crew: Crew, data: Mapping[str, Any]) -> None:
    """Where its sites lie, the weather of the season, and the forecasts of the days before."""
    of = climate(timezone.localdate().month)
    WeatherTerms.objects.create(
        crew=crew, place=data["place"], latitude=data["latitude"], least=round(of.mean - of.swing),
        most=round(of.mean + of.swing), asked_at=timezone.now() - timedelta(hours=3),
    )  # fmt: skip
    for hours in data["forecasts_hours_ago"]:
        came = timezone.now() - timedelta(hours=hours)
        found = read_forecast(forecast_text(f"1 {data['place']}", came), crew.zone, came.replace(tzinfo=None))
        kept = keep(crew, found, ForecastWay.SERVICE)
        KeptForecast.objects.filter(pk=kept.pk).update(came=came)


def promise_for(job: Job, people: Mapping[str, Person], data: Mapping[str, Any]) -> None:
    """The day by which it was promised."""
    day = timezone.localdate() + timedelta(days=data["in_days"])
    append_value(job, Promised(str(uuid.uuid4()), day, data["to"]), Author(people[data["by"]]))
