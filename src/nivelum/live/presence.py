"""Who is on a job now: each open stream says so when it opens and at every heartbeat; who falls silent has gone."""

import json
from datetime import timedelta
from uuid import UUID

from django.db import DatabaseError, connection
from django.utils import timezone

from nivelum.crews.models import Person
from nivelum.jobs.models import Job
from nivelum.jobs.services import CHANNEL
from nivelum.live.models import Presence

GONE_AFTER = timedelta(seconds=40)
"""More than two heartbeats of silence."""


def here(job: Job) -> list[Person]:
    """Who has the job open, by name. One query."""
    since = timezone.now() - GONE_AFTER
    rows = Presence.objects.filter(job=job, seen_at__gt=since).select_related("person").order_by("person__name")
    return [row.person for row in rows]


def be_here(crews: set[UUID], job_id: UUID | None, person_id: int) -> None:
    """Says that a person has a job of their crews open, and tells the others if they had not. Without a database it
    says nothing: the stream heals by itself. Gives its connection back."""
    if job_id is None:
        return
    try:
        job = Job.objects.filter(id=job_id, crew__in=crews).first()
        if job is None:
            return
        now = timezone.now()
        before = Presence.objects.filter(job=job, person=person_id).values_list("seen_at", flat=True).first()
        Presence.objects.update_or_create(job=job, person_id=person_id, defaults={"seen_at": now})
        if before is None or before < now - GONE_AFTER:
            with connection.cursor() as cursor:
                news = json.dumps({"crew": str(job.crew_id), "job": str(job.id), "here": True})
                cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, news])
    except DatabaseError:
        pass
    finally:
        connection.close()
