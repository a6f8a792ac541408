"""People, the crews they work in, and what they may do there."""

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Any
from zoneinfo import ZoneInfo

from django.conf import settings
from django.contrib.auth.models import AbstractUser
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.utils import timezone, translation
from django.utils.translation import get_language
from django.utils.translation import gettext_lazy as _

from groundwork.levels import SpiritLevel, TwoPeg
from groundwork.measures import Unit
from groundwork.tools import Instrument, Method

chosen_language: ContextVar[str] = ContextVar("chosen_language", default="")
"""The language whoever asks has chosen for themself; empty where they take their crew's words."""


def usual_zone() -> str:
    """The time zone of a crew that has said none."""
    return str(settings.TIME_ZONE)


class Person(AbstractUser):
    """Someone who signs in; `name` is how the crew knows them and what stands in the record."""

    first_name = None  # type: ignore[assignment] # how Django leaves out a field of its own
    last_name = None  # type: ignore[assignment]
    name = models.CharField(_("name"), max_length=80)
    pin = models.CharField(max_length=128, blank=True, editable=False)
    """Hashed like a password; empty where none was set."""
    language = models.CharField(_("language"), max_length=5, blank=True, choices=settings.LANGUAGES)
    """Empty for whoever speaks as their crew does."""
    hints = models.JSONField(default=list, editable=False)
    """Those of a first job they have not put away yet, by key."""

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


class CrewRole(models.TextChoices):
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
    time_zone = models.CharField(_("time zone"), max_length=40, default=usual_zone)
    keeps_places = models.BooleanField(_("photos keep where they were taken"), default=False)
    people = models.ManyToManyField(Person, through="Membership", related_name="crews")

    def __str__(self) -> str:
        return self.name

    def save(self, *arguments: Any, **options: Any) -> None:
        """A new crew has the usual kit."""
        adding = self._state.adding
        super().save(*arguments, **options)
        if adding:
            Tool.objects.bulk_create(Tool.usual(self, method) for method in map(ToolMethod, ToolMethod.values))

    @property
    def unit(self) -> Unit:
        return Unit(self.rod)

    @property
    def zone(self) -> ZoneInfo:
        """The clock on its sites."""
        return ZoneInfo(self.time_zone)

    @contextmanager
    def in_its_words(self) -> Iterator[None]:
        """Whatever is shown inside speaks the crew's words, unless its reader has asked for another language, and
        tells the time by the clock on its sites."""
        asked = get_language() or "en"
        spoken = chosen_language.get() or (self.region if asked.startswith("en") else asked)
        with translation.override(spoken), timezone.override(self.zone):
            yield


class Membership(models.Model):
    crew = models.ForeignKey(Crew, models.CASCADE, related_name="memberships")
    person = models.ForeignKey(Person, models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=10, choices=CrewRole)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["crew", "person"], name="one_role_in_a_crew")]

    def __str__(self) -> str:
        return f"{self.person}, {self.role} of {self.crew}"


class Deed(models.TextChoices):
    """What is done to a crew and its people."""

    FOUNDED = "founded", _("founded the crew")
    INVITED = "invited", _("invited")
    TAKEN_BACK = "taken-back", _("took the link back for")
    JOINED = "joined", _("joined")
    ROLE = "role", _("changed the role of")
    ENDED = "ended", _("ended the membership of")
    LEFT = "left", _("left")
    PIN_RESET = "pin-reset", _("took the PIN away of")
    LINK = "link", _("handed a link for a new password to")
    PASSWORD = "password", _("set a new password")
    CHANGED = "changed", _("changed the crew’s own page")
    ERASED = "erased", _("had their account deleted")
    TAKEN = "taken", _("took all of the crew’s data out")
    BROUGHT = "brought", _("brought the crew in from another server")


class CrewLine(models.Model):
    """A line of a crew's log, which only grows: who did what, to whom, as they were called then."""

    crew = models.ForeignKey(Crew, models.PROTECT, related_name="lines")
    at = models.DateTimeField(auto_now_add=True)
    by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    by_name = models.CharField(max_length=80, blank=True)
    deed = models.CharField(max_length=12, choices=Deed)
    about = models.CharField(max_length=80, blank=True)
    detail = models.CharField(max_length=200, blank=True)

    class Meta:
        ordering = ["-id"]

    def __str__(self) -> str:
        return f"{self.by_name} {self.deed} {self.about}"


class PinTry(models.Model):
    """A PIN tried for `person`, None where nobody of that crew was meant, on a `device`: one signed-in session."""

    crew = models.ForeignKey(Crew, models.CASCADE, related_name="+")
    person = models.ForeignKey(Person, models.CASCADE, null=True, related_name="+")
    device = models.CharField(max_length=64)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        indexes = [models.Index(fields=["crew", "at"], name="pin_tries")]

    def __str__(self) -> str:
        return f"{self.person} at {self.at:%H:%M}"


class ToolMethod(models.TextChoices):
    """What a tool of the kit is, in the order people reach for them."""

    LASER = Method.LASER.value, _("laser and rod")
    OPTICAL = Method.OPTICAL.value, _("optical level and rod")
    STRING = Method.STRING.value, _("string line")
    HEIGHT_METER = Method.HEIGHT_METER.value, _("height meter")
    STRAIGHTEDGE = Method.STRAIGHTEDGE.value, _("straightedge and spirit level")
    TAPE = Method.TAPE.value, _("tape from the ground")


class Tool(models.Model):
    """One tool of a crew's kit and how sure a reading by it is: standard uncertainty, millimetres, and what each
    metre from it adds; for a spirit level the falls at which its bubble touches its line and stands half out, ratios.
    What is read with it keeps these as they were then."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4, editable=False)
    crew = models.ForeignKey(Crew, models.CASCADE, related_name="tools")
    name = models.CharField(_("name"), max_length=40)
    method = models.CharField(_("method"), max_length=12, choices=ToolMethod)
    reading_u = models.FloatField(_("a reading, mm"), validators=[MinValueValidator(0.1), MaxValueValidator(100)])
    rate = models.FloatField(
        _("for each metre, mm"), default=0, validators=[MinValueValidator(0), MaxValueValidator(5)]
    )
    driver = models.CharField(_("reads by itself"), max_length=40, blank=True)
    retired = models.BooleanField(default=False)
    touching = models.FloatField(null=True, blank=True)
    half_out = models.FloatField(null=True, blank=True)

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["crew", "name"], name="one_tool_a_name")]

    def __str__(self) -> str:
        return self.name

    @classmethod
    def usual(cls, crew: Crew, method: ToolMethod, name: str = "") -> "Tool":
        """A tool as it usually is, not saved yet."""
        usual = Instrument(Method(method.value))
        return cls(
            crew=crew,
            name=name or str(USUAL_NAMES[method]),
            method=method,
            reading_u=usual.reading_u * 1000,
            rate=usual.rate * 1000,
        )

    @property
    def spirit_level(self) -> SpiritLevel:
        """What its bubble is worth."""
        return SpiritLevel(self.touching, self.half_out)

    @property
    def instrument(self) -> Instrument:
        """As it goes into the record, its collimation by its newest test."""
        tests = list(self.tests.all())
        collimation = tests[-1].two_peg.collimation if tests else 0.0
        return Instrument(Method(self.method), self.name, self.reading_u / 1000, self.rate / 1000, collimation)


USUAL_NAMES = {
    ToolMethod.LASER: "Laser",
    ToolMethod.OPTICAL: "Optical level",
    ToolMethod.STRING: "String",
    ToolMethod.HEIGHT_METER: "Height meter",
    ToolMethod.STRAIGHTEDGE: "Straightedge",
    ToolMethod.TAPE: "Tape",
}


class PegTest(models.Model):
    """A two-peg test of a level: what the rod read on both pegs from midway and from near the first, metres."""

    tool = models.ForeignKey(Tool, models.CASCADE, related_name="tests")
    by = models.ForeignKey(Person, models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    midway_a = models.FloatField()
    midway_b = models.FloatField()
    near_a = models.FloatField()
    near_b = models.FloatField()
    to_a = models.FloatField()
    to_b = models.FloatField()

    class Meta:
        ordering = ["at"]

    def __str__(self) -> str:
        return f"{self.tool}, {self.at:%Y-%m-%d}"

    @property
    def two_peg(self) -> TwoPeg:
        return TwoPeg(self.midway_a, self.midway_b, self.near_a, self.near_b, self.to_a, self.to_b)
