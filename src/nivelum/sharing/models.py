"""Links that show a job's record to somebody who does not sign in."""

import uuid

from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from nivelum.crews.models import Person
from nivelum.jobs.models import Job


class For(models.TextChoices):
    """Whom a link is for."""

    CLIENT = "client", _("client")
    INSPECTOR = "inspector", _("inspector")
    ENGINEER = "engineer", _("engineer")


class Share(models.Model):
    """A link; what it opens with is kept as a hash only. `parts` are what it shows, money only where that was said;
    an engineer's is for one engineer of the crew, who can sign and accept through it with their PIN."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    job = models.ForeignKey(Job, models.CASCADE, related_name="shares")
    token_hash = models.CharField(max_length=64, unique=True)
    whom = models.CharField(_("for"), max_length=10, choices=For)
    label = models.CharField(_("name"), max_length=60)
    parts = models.JSONField(default=list)
    shows_money = models.BooleanField(default=False)
    engineer = models.ForeignKey(Person, models.CASCADE, null=True, related_name="+")
    made_by = models.ForeignKey(Person, models.PROTECT, related_name="+")
    made_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    withdrawn_at = models.DateTimeField(null=True)
    opened_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-made_at"]

    def __str__(self) -> str:
        return f"{self.label}, {self.whom}"

    @property
    def is_open(self) -> bool:
        return self.withdrawn_at is None and self.expires_at > timezone.now()
