"""People, the crews they work in, and what they may do there."""

import uuid
from contextlib import AbstractContextManager, nullcontext

from django.contrib.auth.models import AbstractUser
from django.db import models
from django.utils import translation
from django.utils.translation import get_language
from django.utils.translation import gettext_lazy as _

from groundwork.measure import Unit


class Person(AbstractUser):
    """Someone who signs in; `name` is how the crew knows them and what stands in the record."""

    first_name = None
    last_name = None
    name = models.CharField(_("name"), max_length=80)

    def __str__(self) -> str:
        return self.name

    @property
    def initials(self) -> str:
        return "".join(word[0] for word in self.name.split()[:2]).upper()


class RodUnit(models.TextChoices):
    """How the crew's rod is marked, for people to choose from."""

    METRES = Unit.METRES.value, _("metres")
    MILLIMETRES = Unit.MILLIMETRES.value, _("millimetres")
    FEET_TENTHS = Unit.FEET_TENTHS.value, _("feet and tenths")
    FEET_INCHES = Unit.FEET_INCHES.value, _("feet, inches and fractions")


class Region(models.TextChoices):
    """Whose words the crew speaks: the trade's own differ between regions."""

    BRITAIN_AND_IRELAND = "en-gb", _("Britain and Ireland: fall, kerb, formation")
    NORTH_AMERICA = "en-us", _("North America: slope, curb, subgrade")
    AUSTRALIA_AND_NEW_ZEALAND = "en-au", _("Australia and New Zealand: fall, kerb, door step")


class Role(models.TextChoices):
    LEAD = "lead", _("lead")
    CREW = "crew", _("crew")
    ENGINEER = "engineer", _("engineer")
    VIEWER = "viewer", _("viewer")


class Crew(models.Model):
    """Those who share jobs. Its rod's unit is what every screen shows and what a bare number means."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    name = models.CharField(_("name"), max_length=80)
    rod = models.CharField(_("rod"), max_length=5, choices=RodUnit, default=RodUnit.MILLIMETRES)
    region = models.CharField(_("words"), max_length=5, choices=Region, default=Region.BRITAIN_AND_IRELAND)
    people = models.ManyToManyField(Person, through="Membership", related_name="crews")

    def __str__(self) -> str:
        return self.name

    @property
    def unit(self) -> Unit:
        return Unit(self.rod)

    def in_its_words(self) -> AbstractContextManager[object]:
        """Whatever is shown inside speaks the crew's words, unless its reader has asked for another language."""
        return translation.override(self.region) if (get_language() or "en").startswith("en") else nullcontext()


class Membership(models.Model):
    crew = models.ForeignKey(Crew, models.CASCADE, related_name="memberships")
    person = models.ForeignKey(Person, models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["crew", "person"], name="one_role_in_a_crew")]

    def __str__(self) -> str:
        return f"{self.person}, {self.role} of {self.crew}"
