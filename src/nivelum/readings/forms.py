"""What the pad sends."""

import math
from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from groundwork import job as core
from groundwork.assess import Assessment
from groundwork.measure import Unit
from groundwork.verdict import Instrument
from nivelum.jobs.fields import rod_field
from nivelum.jobs.forms import EntryForm


class ReadingForm(EntryForm):
    station = forms.CharField(max_length=10, widget=forms.HiddenInput)
    set_up = forms.UUIDField(widget=forms.HiddenInput)
    same_ground = forms.BooleanField(required=False)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["reading"] = rod_field(unit)

    def value(self) -> core.Reading:
        data = self.cleaned_data
        return core.Reading(
            str(data["entry_id"]), data["station"], str(data["set_up"]), data["reading"], data["same_ground"]
        )


class SetUpForm(EntryForm):
    instrument = forms.ChoiceField(
        choices=[(Instrument.LASER, _("laser")), (Instrument.OPTICAL, _("optical level"))],
        initial=Instrument.LASER,
        widget=forms.RadioSelect,
    )
    east = forms.FloatField(required=False, min_value=-10_000, max_value=10_000)
    north = forms.FloatField(required=False, min_value=-10_000, max_value=10_000)

    def __init__(self, *arguments: Any, assessment: Assessment, **options: Any) -> None:
        super().__init__(*arguments, **options)
        marks = [(name, name) for name in assessment.marks]
        first = marks[0][0] if marks else None
        self.fields["mark"] = forms.ChoiceField(choices=marks, initial=first, widget=forms.RadioSelect)
        self.fields["backsight"] = rod_field(assessment.job.unit)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        east, north = data.get("east"), data.get("north")
        if (east is None) != (north is None) and not {"east", "north"} & set(self.errors):
            self.add_error("east" if east is None else "north", _("Give both, or neither."))
        if any(number is not None and not math.isfinite(number) for number in (east, north)):
            self.add_error("east", _("A place has finite numbers."))
        return data

    def value(self) -> core.SetUp:
        data = self.cleaned_data
        at = None if data["east"] is None else (data["east"], data["north"])
        instrument = Instrument(data["instrument"])
        return core.SetUp(str(data["entry_id"]), data["mark"], data["backsight"], instrument, at)


class FillForm(EntryForm):
    station = forms.CharField(max_length=10, widget=forms.HiddenInput)
    material = forms.ChoiceField(choices=[("stone", _("base stone")), ("soil", _("soil"))])
    lifts = forms.IntegerField(min_value=1, max_value=50, initial=1)

    def value(self) -> core.Fill:
        data = self.cleaned_data
        return core.Fill(str(data["entry_id"]), data["station"], data["material"], data["lifts"])


class StrikeForm(EntryForm):
    strikes = forms.UUIDField(widget=forms.HiddenInput)

    def value(self) -> core.Strike:
        return core.Strike(str(self.cleaned_data["entry_id"]), str(self.cleaned_data["strikes"]))
