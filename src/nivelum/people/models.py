"""One-time links that bring people in, and the log of what was changed about a crew."""

import uuid

from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from nivelum.crews.models import Crew, CrewRole, Person


class Handed(models.Model):
    """A link that its maker hands to one person and that opens once: into a crew, or to a new password for `person`.
    What it opens with is kept as a hash only."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    crew = models.ForeignKey(Crew, models.CASCADE, related_name="handed")
    role = models.CharField(_("role"), max_length=10, choices=CrewRole, blank=True)
    person = models.ForeignKey(Person, models.CASCADE, null=True, related_name="+")
    label = models.CharField(_("for"), max_length=80)
    token_hash = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    used_at = models.DateTimeField(null=True)
    withdrawn_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at"]

    def __str__(self) -> str:
        return f"{self.label}, {self.crew}"

    @property
    def is_open(self) -> bool:
        return self.used_at is None and self.withdrawn_at is None and self.expires_at > timezone.now()
