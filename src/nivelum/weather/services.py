"""The verbs of weather: what forecast holds, asking for another, keeping one that came; how a crew goes by it."""

import hashlib
import json
from collections.abc import Iterable
from datetime import date, datetime, timedelta

from django.utils import timezone

from groundwork.outdoors import limits_of
from groundwork.programme import WorkingTime, WorkTerms
from groundwork.weather import Forecast, forecast_data, read_forecast
from nivelum.crews.models import Crew
from nivelum.money.services import terms_of
from nivelum.weather.driver import NoForecast, service
from nivelum.weather.models import DayOff, ForecastWay, KeptForecast, WeatherTerms

ASKED_EVERY, TRIED_EVERY = timedelta(hours=1), timedelta(minutes=5)
"""How old an answer may be before the service is asked again, and how soon after it did not answer."""
AGAIN = timedelta(minutes=1)
"""Nobody asks sooner than so long after somebody has."""
KEPT = 4000
"""So many forecasts of a crew are kept."""


def weather_of(crew: Crew) -> WeatherTerms:
    """How a crew goes by the weather; as one that has said nothing does. One query."""
    return WeatherTerms.objects.filter(crew=crew).first() or WeatherTerms(crew=crew)


def newest(crew: Crew, known_at: datetime | None = None) -> KeptForecast | None:
    """The forecast issued last; of those that had come by a moment, where one is named. One query."""
    rows = KeptForecast.objects.filter(crew=crew)
    found = (rows.filter(came__lte=known_at) if known_at else rows).first()
    if found:
        found.crew = crew
    return found


def keep(crew: Crew, of: Forecast, way: ForecastWay, by_name: str = "") -> KeptForecast:
    """Keeps a forecast as it came; the same one is kept once. Old ones beyond `KEPT` go. A few queries."""
    data = forecast_data(of)
    digest = hashlib.sha256(json.dumps(data, sort_keys=True).encode()).hexdigest()
    kept, made = KeptForecast.objects.get_or_create(
        crew=crew, digest=digest,
        defaults={"way": way, "source": of.source[:80], "issued": timezone.make_aware(of.issued, crew.zone),
                  "by_name": by_name[:80], "data": data, "came": timezone.now()},
    )  # fmt: skip
    if made:
        old = KeptForecast.objects.filter(crew=crew).values_list("pk", flat=True)[KEPT:]
        KeptForecast.objects.filter(pk__in=list(old)).delete()
    kept.crew = crew
    return kept


def is_to_be_asked(terms: WeatherTerms, now: datetime) -> bool:
    """Whether the service should be asked again: there is one, and it was not just now."""
    every = ASKED_EVERY if terms.answered else TRIED_EVERY
    return service() is not None and not terms.was_asked_since(now - every)


def ask(crew: Crew) -> KeptForecast | None:
    """Asks the service now and keeps what it says; None where there is none, or it does not answer, which is noted.
    Waits for the service, a few seconds at the most."""
    asked = service()
    if asked is None:
        return None
    terms, kept = weather_of(crew), None
    if terms.answered and terms.was_asked_since(timezone.now() - AGAIN):
        return None
    try:
        now = timezone.make_naive(timezone.now(), crew.zone)
        kept = keep(crew, read_forecast(asked.ask(terms.place), crew.zone, now), ForecastWay.SERVICE)
    except (NoForecast, ValueError):
        kept = None
    WeatherTerms.objects.update_or_create(
        crew=crew, defaults={"asked_at": timezone.now(), "answered": kept is not None}
    )
    return kept


def days_off(crew: Crew) -> list[DayOff]:
    """From a week ago on; one query."""
    return list(DayOff.objects.filter(crew=crew, on__gte=timezone.localdate() - timedelta(days=7)))


def working_time(crew: Crew, terms: WeatherTerms, off: Iterable[DayOff] | None = None) -> WorkingTime:
    """When a crew works. One query, two where its days off are not given."""
    reckons = terms_of(crew)
    rows = days_off(crew) if off is None else off
    hours = min(float(reckons.hours_a_day), 24 - terms.begins)
    whole = frozenset[date](each.on for each in rows if each.person_id is None)
    return WorkingTime(terms.begins, hours, reckons.days_off, whole)


def work_terms(crew: Crew, terms: WeatherTerms, working: WorkingTime) -> WorkTerms:
    """How a crew works, as the core asks. One query."""
    return WorkTerms(terms_of(crew).people, working, limits_of(terms.limits), terms.usual)
