"""Whoever leaves a crew hears nothing more of it from that moment on."""

import json
from typing import Any

from django.db import connections

from nivelum.crews.models import Membership
from nivelum.jobs.services import CHANNEL


def told_of_leaving(instance: Membership, using: str, **_signal: Any) -> None:
    """Tells every stream that a membership has ended; it is heard when the transaction is."""
    news = json.dumps({"crew": str(instance.crew_id), "left": instance.person_id})
    with connections[using].cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, news])
