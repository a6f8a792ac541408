"""Who has a job open just now."""

from django.db import models

from nivelum.crews.models import Person
from nivelum.jobs.models import Job


class Presence(models.Model):
    """A person at a job, as their open stream last said."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="+")
    person = models.ForeignKey(Person, models.CASCADE, related_name="+")
    seen_at = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "person"], name="here_once")]

    def __str__(self) -> str:
        return f"{self.person} at {self.job}"
