"""Programmes as they stood, so that what has changed can be told."""

from django.db import models
from django.utils import timezone

from nivelum.crews.models import Crew, Person
from nivelum.jobs.models import Job
from nivelum.weather.models import KeptForecast


class KeptProgramme(models.Model):
    """A job's programme as somebody first saw it on a day: when its tasks were likely to begin and end, from which
    entry and forecast."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="programmes")
    on = models.DateField()
    made_at = models.DateTimeField(auto_now_add=True)
    at_entry = models.PositiveIntegerField()
    forecast = models.ForeignKey(KeptForecast, models.SET_NULL, null=True, related_name="+")
    data = models.JSONField()

    class Meta:
        ordering = ["-on"]
        constraints = [models.UniqueConstraint(fields=["job", "on"], name="one_programme_a_day")]

    def __str__(self) -> str:
        return f"{self.job} {self.on}"


class WeekSaid(models.Model):
    """What somebody fixed of a crew's week: who is at a task of a job, or on which half of a day it begins."""

    crew = models.ForeignKey(Crew, models.CASCADE, related_name="week_said")
    job = models.ForeignKey(Job, models.CASCADE, related_name="+")
    task = models.CharField(max_length=40)
    person = models.ForeignKey(Person, models.CASCADE, null=True, related_name="+")
    on = models.DateField(null=True)
    half = models.PositiveSmallIntegerField(default=0)
    said_by = models.CharField(max_length=80)

    class Meta:
        ordering = ["id"]

    def __str__(self) -> str:
        return f"{self.job}: {self.task}"


class KeptWeek(models.Model):
    """A proposal for a crew's week as it was made: which task on which half days, by whom."""

    crew = models.ForeignKey(Crew, models.CASCADE, related_name="weeks")
    made_at = models.DateTimeField(default=timezone.now)
    asked_by = models.CharField(max_length=80)
    digest = models.CharField(max_length=64)
    data = models.JSONField()

    class Meta:
        ordering = ["-made_at", "-id"]

    def __str__(self) -> str:
        return f"{self.crew} {self.made_at:%Y-%m-%d %H:%M}"
