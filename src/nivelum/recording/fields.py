"""Form fields for what people read off rods, tapes and plans: typed as they like, cleaned to metres with the text."""

import math
from collections.abc import Callable
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils.html import format_html
from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.measures import (
    FOOT,
    Measured,
    MeasureError,
    Unit,
    format_amount,
    in_words,
    parse_fall,
    parse_layer,
    parse_length,
    parse_rod,
)
from nivelum.jobs.photos import Photo, photo_of


class Hidden(forms.HiddenInput):
    """A field nobody sees, written out in Python: a page has dozens, and each through a template costs as much as a
    query. It has no id: nothing points to it, and forms of a page share its name."""

    def render(self, name: str, value: Any, attrs: Any = None, renderer: Any = None) -> SafeString:
        shown = self.format_value(value)
        given = "" if shown is None else format_html(' value="{}"', shown)
        return format_html('<input type="hidden" name="{}"{}>', name, given)


class MeasuredField(forms.CharField):
    """Takes a length as `parse` reads it in the crew's `unit`; cleans to `Measured`, or None where it may be left
    out and is."""

    def __init__(self, parse: Callable[[str, Unit], Measured], *, unit: Unit, required: bool = True, **options: Any):
        self.parse, self.unit, self.wanted = parse, unit, required
        super().__init__(strip=False, required=False, **options)

    def clean(self, value: Any) -> Measured | None:
        text = value or ""
        if not self.wanted and not text.strip():
            return None
        try:
            return self.parse(text, self.unit)
        except MeasureError as error:
            raise ValidationError(in_words(error, self.unit, _)) from error


def between(least: float, most: float, unit: Unit) -> str:
    """What is said of a length outside `least` to `most` metres; in whole feet inside them for feet-readers."""
    if unit.is_metric:
        return _("Between {least} and {most} m.").format(least=f"{least:g}".replace("-", "−"), most=f"{most:g}")
    low, high = math.ceil(least / FOOT), math.floor(most / FOOT)
    return _("Between {least} and {most} feet.").format(least=f"{low}".replace("-", "−"), most=high)


def rod_field(unit: Unit) -> MeasuredField:
    return MeasuredField(parse_rod, unit=unit)


def layer_field(unit: Unit, required: bool = True, **options: Any) -> MeasuredField:
    """A thickness: a bare number is in millimetres, or as the rod is marked."""
    return MeasuredField(parse_layer, unit=unit, required=required, **options)


def bare(metres: float, unit: Unit) -> str:
    """A thickness as it would be typed: millimetres to a tenth, or as the rod is marked."""
    if unit.is_metric:
        return f"{round(metres * 1000, 1):g}"
    return format_amount(metres, unit).replace("″", '"').replace("′", "'")


def plan_field(unit: Unit, required: bool = True, **options: Any) -> MeasuredField:
    """A level or a distance on the plan: a bare number is in metres or feet."""
    return MeasuredField(
        lambda text, unit: parse_length(text, unit.for_plans), unit=unit, required=required, **options
    )


class PhotoField(forms.FileField):
    """A photo as it is sent; cleans to `Photo`, made smaller and stripped, or None where it may be left out and
    is."""

    def __init__(self, **options: Any) -> None:
        widget = forms.FileInput(attrs={"accept": "image/jpeg,image/png,image/webp", "class": "field low"})
        super().__init__(widget=widget, **options)

    def clean(self, data: Any, initial: Any = None) -> Photo | None:
        sent = super().clean(data, initial)
        return photo_of(sent, sent.size) if sent else None


class FallField(forms.CharField):
    """A fall as `1:60`, `1.67 %` or `1/4" per foot`; cleans to a ratio."""

    def clean(self, value: Any) -> float:
        if not (value or "").strip():
            raise ValidationError(_("Type a fall, like 1:60."))
        try:
            return parse_fall(value)
        except MeasureError as error:
            raise ValidationError(in_words(error, Unit.METRES, _)) from error
