"""Jobs and their record: one row an entry, written once, chained."""

import uuid
from datetime import UTC, datetime
from typing import Any

from django.db import models
from django.utils.translation import gettext_lazy as _

from groundwork.record import FIRST
from nivelum.crews.models import Crew, Person


class Job(models.Model):
    """A paved area in the making. All that is known of it stands in its record, its design included."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    crew = models.ForeignKey(Crew, models.PROTECT, related_name="jobs")
    name = models.CharField(_("name"), max_length=80)
    is_pattern = models.BooleanField(default=False)
    """The crew begins other jobs like this one; no part of the record."""

    def __str__(self) -> str:
        return self.name


class Entry(models.Model):
    """One entry of a job's record. Its `body` is as `groundwork.kinds` writes it; `hash` covers all but itself.

    The identifier is made where the entry is made, so that a repeated send is harmless. The database itself
    refuses to change or remove an entry: by a trigger, and to the role the application works in by its rights.
    """

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, models.PROTECT, related_name="entries")
    number = models.PositiveIntegerField()
    kind = models.CharField(max_length=20)
    by = models.ForeignKey(Person, models.PROTECT, related_name="entries")
    by_name = models.CharField(max_length=80)
    by_then = models.PositiveIntegerField(null=True)
    """Whoever wrote it as the server called them where it was written, if that was another."""
    at = models.DateTimeField()
    device_at = models.DateTimeField(null=True)
    body = models.JSONField()
    previous = models.CharField(max_length=64, default=FIRST)
    hash = models.CharField(max_length=64)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="one_entry_a_number")]

    def __str__(self) -> str:
        return f"{self.number} {self.kind} by {self.by_name}"

    def content(self) -> dict[str, Any]:
        """The entry as it is hashed and exported."""
        return {
            "id": str(self.id),
            "job": str(self.job_id),
            "number": self.number,
            "kind": self.kind,
            "by": {"id": self.by_id if self.by_then is None else self.by_then, "name": self.by_name},
            "at": _utc(self.at),
            "device_at": self.device_at and _utc(self.device_at),
            "body": self.body,
            "previous": self.previous,
        }


class Taught(models.Model):
    """Something a job taught its crew, as somebody kept it for the next: no part of the record. Kept anew, it takes
    the place of what was kept of that job before."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="taught")
    kind = models.CharField(max_length=20)
    material = models.CharField(max_length=40, blank=True)
    value = models.FloatField()
    spread = models.FloatField()
    number = models.PositiveIntegerField()
    kept_by = models.CharField(max_length=80)
    kept_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "kind", "material"], name="taught_once_a_job")]

    def __str__(self) -> str:
        return f"{self.kind} of {self.job_id}"


class Summary(models.Model):
    """What the Yard shows of a job, as its record stood at the entry whose hash is `head`, on a day. Nothing hangs on
    it: it is made anew from the record where that has gone on."""

    job = models.OneToOneField(Job, models.CASCADE, primary_key=True)
    head = models.CharField(max_length=64)
    day = models.DateField()
    number = models.PositiveIntegerField()
    rank = models.PositiveSmallIntegerField()
    is_finished = models.BooleanField()
    shows = models.JSONField()

    class Meta:
        indexes = [models.Index(fields=["rank"], name="what_needs_someone_first")]

    def __str__(self) -> str:
        return f"{self.job_id} at {self.number}"


def _utc(at: datetime) -> str:
    """A time as it is hashed: in UTC, as the database gives it back, wherever it was written."""
    return at.astimezone(UTC).isoformat()
