"""Whoever leaves a crew hears nothing more of it from that moment on."""

import json
from typing import Any

from django.db import DEFAULT_DB_ALIAS, connections

from nivelum.crews.models import Membership, Person
from nivelum.jobs.services import CHANNEL


def told_of_leaving(instance: Membership, using: str, **_signal: Any) -> None:
    """Tells every stream that a membership has ended; it is heard when the transaction is."""
    _tell(instance, using)


def asked_anew(person: Person) -> None:
    """Ends every stream of a person: each connects again, and is asked who they are."""
    for member in person.memberships.all():
        _tell(member, DEFAULT_DB_ALIAS)


def _tell(member: Membership, using: str) -> None:
    news = json.dumps({"crew": str(member.crew_id), "left": member.person_id})
    with connections[using].cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, news])
