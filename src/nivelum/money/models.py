"""A crew's prices and terms, and a job's estimates. None of it is in the record, which more people read."""

from decimal import Decimal
from typing import Any

from django.core.exceptions import ValidationError
from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models
from django.utils.translation import gettext_lazy as _

from groundwork import money as core
from groundwork.money import estimate_of
from nivelum.crews.models import Crew
from nivelum.jobs.models import Job

DIGITS = {"JPY": 0, "KRW": 0, "ISK": 0, "KWD": 3, "BHD": 3, "TND": 3}
"""Currencies whose least coin is not a hundredth (ISO 4217, from memory)."""


class Costs(models.TextChoices):
    """What is paid for."""

    MATERIAL = core.Cost.MATERIAL.value, _("material")
    LABOUR = core.Cost.LABOUR.value, _("labour")
    HIRE = core.Cost.HIRE.value, _("hire")
    DISPOSAL = core.Cost.DISPOSAL.value, _("disposal")


class PriceSet(models.Model):
    """A price as somebody set it, from a day on; one that is set later for the same day takes its place."""

    crew = models.ForeignKey(Crew, models.CASCADE, related_name="prices")
    cost = models.CharField(max_length=10, choices=Costs)
    what = models.CharField(max_length=80)
    unit = models.CharField(max_length=40)
    amount = models.DecimalField(max_digits=12, decimal_places=3)
    since = models.DateField()
    set_by = models.CharField(max_length=80)
    set_at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["cost", "what", "unit", "since"]
        constraints = [
            models.UniqueConstraint(fields=["crew", "cost", "what", "unit", "since"], name="one_price_a_day")
        ]

    def __str__(self) -> str:
        return f"{self.what}, {self.unit}: {self.amount}"

    @property
    def price(self) -> core.Price:
        return core.Price(core.Cost(self.cost), self.what, self.unit, self.amount, self.since)


def _currency(code: str) -> None:
    if len(code) != 3 or not code.isascii() or not code.isalpha() or not code.isupper():
        raise ValidationError(_("Three letters, like EUR, GBP or USD."))


_SHARE: list[Any] = [MinValueValidator(Decimal(0)), MaxValueValidator(Decimal(1))]


class MoneyTerms(models.Model):
    """How a crew reckons: currency, contingency and tax as shares, rounding; how many work for how many hours a day
    on which weekdays, Monday 0."""

    crew = models.OneToOneField(Crew, models.CASCADE, primary_key=True, related_name="terms")
    currency = models.CharField(_("currency"), max_length=3, default="EUR", validators=[_currency])
    contingency = models.DecimalField(max_digits=5, decimal_places=4, default=Decimal("0.10"), validators=_SHARE)
    tax = models.DecimalField(max_digits=5, decimal_places=4, default=Decimal("0"), validators=_SHARE)
    rounding = models.CharField(max_length=10, default="half up")
    people = models.PositiveSmallIntegerField(default=2, validators=[MinValueValidator(1), MaxValueValidator(50)])
    hours_a_day = models.DecimalField(
        max_digits=4, decimal_places=2, default=Decimal(8),
        validators=[MinValueValidator(Decimal(1)), MaxValueValidator(Decimal(24))],
    )  # fmt: skip
    works_on = models.JSONField(default=list)

    def __str__(self) -> str:
        return f"{self.crew}: {self.currency}"

    @property
    def terms(self) -> core.Terms:
        digits = DIGITS.get(self.currency, 2)
        return core.Terms(self.currency, digits, self.contingency, self.tax, self.rounding)

    @property
    def days_off(self) -> frozenset[int]:
        return frozenset(range(7)) - frozenset(self.works_on or range(5))


class KeptEstimate(models.Model):
    """An estimate of a job as it was kept, with the days it was planned for."""

    job = models.ForeignKey(Job, models.CASCADE, related_name="estimates")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=60, blank=True)
    at_entry = models.PositiveIntegerField()
    """The newest entry of the record it was reckoned from."""
    begins = models.DateField()
    data = models.JSONField()
    hours = models.JSONField(default=dict)
    made_by = models.CharField(max_length=80)
    made_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["job", "number"], name="one_estimate_a_number")]

    def __str__(self) -> str:
        return f"{self.job} {self.number}"

    @property
    def estimate(self) -> core.Estimate:
        return estimate_of(self.data)
