"""What every page of the Days room shows."""

from datetime import datetime
from typing import Any

from django.utils import timezone

from nivelum.crews.policy import Verb
from nivelum.days.plans import DaysNow
from nivelum.days.words import age_words, when_words
from nivelum.jobs.access import Visit
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Snapshot
from nivelum.recording.moments import minute_words
from nivelum.weather.driver import service
from nivelum.weather.models import KeptForecast
from nivelum.weather.services import is_to_be_asked


def days_screen(visit: Visit, shot: Snapshot, leaf: str, of: DaysNow) -> dict[str, Any]:
    """The context of a page of the room, with the forecast that holds and how old it is."""
    has_service = service() is not None
    return job_screen(visit, shot, "days") | {
        "leaf": leaf, "may_measure": visit.may(Verb.MEASURE), "may_run": visit.may(Verb.RUN_CREW),
        "told": told(of.kept, of.now) if of.kept else None, "has_service": has_service,
        "service_is_out": has_service and not of.weather.answered,
        "to_ask": is_to_be_asked(of.weather, timezone.now()),
    }  # fmt: skip


def told(kept: KeptForecast, now: datetime) -> dict[str, Any]:
    """A forecast as it is told: whose, of when, how old, and whether it is over."""
    of = kept.forecast
    return {
        "source": kept.source or kept.get_way_display(), "issued": minute_words(of.issued), "issued_at": kept.issued,
        "age": age_words(of.age(now)), "until": when_words(of.ends), "is_over": of.ends <= now, "by": kept.by_name,
    }  # fmt: skip
