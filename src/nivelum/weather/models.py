"""Forecasts as they came, kept with when they came; how a crew goes by the weather, and who is not there when."""

import json
from datetime import datetime
from typing import Any

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from groundwork.outdoors import UsualWeather
from groundwork.weather import Forecast, read_forecast
from nivelum.crews.models import Crew, Person


class ForecastWay(models.TextChoices):
    """How a forecast came."""

    SERVICE = "service", _("from the service")
    FILE = "file", _("from a file")
    TYPED = "typed", _("typed")


class KeptForecast(models.Model):
    """A forecast as it came, never changed: a record shows by it what was known when."""

    crew = models.ForeignKey(Crew, models.CASCADE, related_name="forecasts")
    way = models.CharField(max_length=8, choices=ForecastWay)
    source = models.CharField(max_length=80, blank=True)
    issued = models.DateTimeField()
    came = models.DateTimeField(default=timezone.now)
    by_name = models.CharField(max_length=80, blank=True)
    data = models.JSONField()
    digest = models.CharField(max_length=64)
    """Of what it says: the same comes once."""

    class Meta:
        ordering = ["-issued", "-came", "-id"]
        constraints = [models.UniqueConstraint(fields=["crew", "digest"], name="a_forecast_comes_once")]
        indexes = [models.Index(fields=["crew", "came"], name="forecasts_known_then")]

    def __str__(self) -> str:
        return f"{self.source} {self.issued:%Y-%m-%d %H:%M}"

    @property
    def forecast(self) -> Forecast:
        """As the core has it, by the crew's clock. Raises `ValueError` where what is kept is none."""
        zone = self.crew.zone
        return read_forecast(json.dumps(self.data), zone, timezone.make_naive(self.issued, zone), self.source)


MOST_MACHINES = 9
_CELSIUS: list[Any] = [MinValueValidator(-40.0), MaxValueValidator(50.0)]


class WeatherTerms(models.Model):
    """How a crew goes by days and weather: where its sites lie, from what hour it works, how many machines of a kind
    it has, what the weather usually is, limits it has set its own way; when the service was asked last and whether it
    answered."""

    crew = models.OneToOneField(Crew, models.CASCADE, primary_key=True, related_name="weather")
    place = models.CharField(_("place"), max_length=80, blank=True)
    latitude = models.FloatField(
        null=True, blank=True, validators=[MinValueValidator(-90.0), MaxValueValidator(90.0)]
    )
    begins = models.FloatField(default=7.0, validators=[MinValueValidator(0.0), MaxValueValidator(23.0)])
    chance = models.FloatField(default=0.06, validators=[MinValueValidator(0.0), MaxValueValidator(1.0)])
    least = models.FloatField(default=6.0, validators=_CELSIUS)
    most = models.FloatField(default=14.0, validators=_CELSIUS)
    limits = models.JSONField(default=dict, blank=True)
    machines = models.JSONField(default=dict, blank=True)
    asked_at = models.DateTimeField(null=True, blank=True)
    answered = models.BooleanField(default=True)

    def __str__(self) -> str:
        return f"{self.crew}: {self.place}"

    def count(self, machine: str) -> int:
        """How many of a machine it has, owned or on hire; one where nobody said. Raises `ValueError`."""
        number = int(self.machines.get(machine, 1))
        if not 1 <= number <= MOST_MACHINES:
            raise ValueError(f"{number} of {machine}")
        return number

    @property
    def usual(self) -> UsualWeather:
        return UsualWeather(self.chance, self.least, self.most)

    def was_asked_since(self, moment: datetime) -> bool:
        return self.asked_at is not None and self.asked_at > moment


class DayOff(models.Model):
    """A day on which somebody of a crew is not there; where nobody is named, nobody works."""

    crew = models.ForeignKey(Crew, models.CASCADE, related_name="days_off")
    person = models.ForeignKey(Person, models.CASCADE, null=True, blank=True, related_name="days_off")
    on = models.DateField()
    why = models.CharField(max_length=80, blank=True)

    class Meta:
        ordering = ["on", "id"]
        constraints = [
            models.UniqueConstraint(fields=["crew", "person", "on"], name="off_once_a_day", nulls_distinct=False)
        ]

    def __str__(self) -> str:
        return f"{self.crew} {self.on}"
