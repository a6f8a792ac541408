"""A form field for what a person reads off a rod."""

from typing import Any

from django import forms
from django.core.exceptions import ValidationError

from groundwork.measure import Measured, MeasureError, Unit, parse_rod


class RodField(forms.CharField):
    """Takes a rod reading in the crew's `unit` as typed; cleans to `Measured`."""

    def __init__(self, *, unit: Unit, **options: Any) -> None:
        self.unit = unit
        super().__init__(strip=False, required=False, **options)

    def clean(self, value: Any) -> Measured:
        try:
            return parse_rod(value or "", self.unit)
        except MeasureError as error:
            raise ValidationError(str(error)) from error
