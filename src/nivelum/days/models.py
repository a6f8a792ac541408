"""Programmes as they stood, so that what has changed can be told."""

from django.db import models

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
