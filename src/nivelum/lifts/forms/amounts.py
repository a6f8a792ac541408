"""Amounts typed in the crew’s own units."""

import re
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils.translation import gettext as _

from groundwork.measures import POUND, POUND_A_CUBIC_FOOT, MeasureError, Unit, parse_length
from groundwork.surfaces import Point


class AmountField(forms.FloatField):
    """A number in a unit; cleans to so many of the core's own."""

    def __init__(self, factor: float, low: float, high: float, **options: Any) -> None:
        self.factor = factor
        super().__init__(min_value=low, max_value=high, widget=forms.TextInput, **options)

    def to_python(self, value: Any) -> float | None:  # type: ignore[override] # the stubs have it of IntegerField
        return super().to_python(str(value).replace(",", ".") if value not in self.empty_values else value)

    def clean(self, value: Any) -> float | None:
        number = super().clean(value)
        return None if number is None else number * self.factor


def degrees(**options: Any) -> AmountField:
    """How warm it is, in the crew's own degrees."""
    return AmountField(1, -40, 140, **options)


def celsius_of(number: float, unit: Unit) -> float:
    return number if unit.is_metric else round((number - 32) / 1.8, 2)


def degrees_words(celsius: float, unit: Unit) -> str:
    return f"{round(celsius)} °C" if unit.is_metric else f"{round(celsius * 1.8 + 32)} °F"


def percent(high: float = 60, **options: Any) -> AmountField:
    return AmountField(0.01, 0, high, **options)


def density(unit: Unit, **options: Any) -> AmountField:
    factor = 1.0 if unit.is_metric else POUND_A_CUBIC_FOOT
    return AmountField(factor, 500 / factor, 4000 / factor, **options)


def mass(unit: Unit, most: float, **options: Any) -> AmountField:
    factor = 1.0 if unit.is_metric else POUND
    return AmountField(factor, 0.001, most / factor, **options)


def place_of(text: str, unit: Unit) -> Point:
    """A place on the plan, east and north. Raises `ValidationError`."""
    parts = text.replace(",", " ").split() if unit.is_metric else re.split(r"[,;]\s*|\s+", text.strip())
    try:
        east, north = (parse_length(part, unit.for_plans).metres for part in parts)
    except (MeasureError, ValueError) as error:
        raise ValidationError(_("A place is east and north, like “4.2 7.5”.")) from error
    return east, north
