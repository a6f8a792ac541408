"""What is kept of one person, as a file of their own."""

from typing import Any

from allauth.mfa.models import Authenticator
from allauth.usersessions.models import UserSession
from axes.models import AccessLog
from django.http import HttpResponse, JsonResponse
from django.utils import timezone

from nivelum.crews.models import CrewLine, Person
from nivelum.jobs.models import Entry

FORMAT = "nivelum-person/1"


def data_of(person: Person) -> HttpResponse:
    """Everything about a person as JSON: the account, crews, devices, passkeys, what the logs say of them, and what
    they recorded on which job."""
    response = JsonResponse(_data(person), json_dumps_params={"indent": 1, "ensure_ascii": False})
    response["Content-Disposition"] = 'attachment; filename="nivelum-my-data.json"'
    return response


def _data(person: Person) -> dict[str, Any]:
    entries = Entry.objects.filter(by=person).select_related("job").order_by("at")
    lines = CrewLine.objects.filter(by=person).select_related("crew").order_by("at")
    return {
        "format": FORMAT, "made_at": timezone.now().isoformat(), "name": person.name, "signs_in_as": person.username,
        "words": person.language, "since": person.date_joined.isoformat(), "has_pin": bool(person.pin),
        "crews": [{"crew": each.crew.name, "role": each.role} for each in person.memberships.select_related("crew")],
        "devices": [
            {"since": each.created_at.isoformat(), "address": each.ip, "calls_itself": each.user_agent}
            for each in UserSession.objects.filter(user=person)
        ],
        "signed_in": [
            {"at": each.attempt_time.isoformat(), "address": each.ip_address}
            for each in AccessLog.objects.filter(username__iexact=person.username).order_by("attempt_time")
        ],
        "passkeys": [each.wrap().name for each in Authenticator.objects.filter(user=person)],
        "log": [
            {"at": each.at.isoformat(), "crew": each.crew.name, "did": each.deed, "to": each.about,
             "detail": each.detail}
            for each in lines
        ],
        "recorded": [
            {"at": each.at.isoformat(), "job": each.job.name, "number": each.number, "kind": each.kind,
             "body": each.body}
            for each in entries
        ],
    }  # fmt: skip
