"""People, the crews they work in, and what they may do there."""

import uuid

from django.contrib.auth.models import AbstractUser
from django.db import models
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
    people = models.ManyToManyField(Person, through="Membership", related_name="crews")

    def __str__(self) -> str:
        return self.name

    @property
    def unit(self) -> Unit:
        return Unit(self.rod)


class Membership(models.Model):
    crew = models.ForeignKey(Crew, models.CASCADE, related_name="memberships")
    person = models.ForeignKey(Person, models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=Role)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["crew", "person"], name="one_role_in_a_crew")]

    def __str__(self) -> str:
        return f"{self.person}, {self.role} of {self.crew}"
