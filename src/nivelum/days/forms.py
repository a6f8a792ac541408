"""What the Days room's forms send."""

from datetime import date, timedelta
from typing import Any

from django import forms
from django.utils import timezone
from django.utils.translation import gettext as _

from groundwork import daywork as d
from groundwork.measures import INCH, MILE, Unit
from groundwork.weather import LARGEST_FORECAST, DayAhead
from nivelum.lifts.forms.amounts import AmountField, celsius_of, degrees
from nivelum.orders.forms import DayField
from nivelum.recording.fields import Hidden
from nivelum.recording.forms import EntryForm
from nivelum.recording.moments import MinuteField, minute

LONGEST_TYPED = 10
"""Days of a forecast that are typed at the most."""


class ThermometerForm(EntryForm):
    """What a thermometer reads, in the crew's own degrees."""

    at = MinuteField()
    of = forms.ChoiceField(choices=[(of.value, of.value) for of in d.Thermometer], initial=d.Thermometer.AIR.value)
    degrees = degrees()

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self._unit = unit

    def value(self) -> d.ThermometerRead:
        data = self.cleaned_data
        celsius = celsius_of(data["degrees"], self._unit)
        return d.ThermometerRead(str(data["entry_id"]), minute(data), celsius, d.Thermometer(data["of"]))


class DayWasForm(EntryForm):
    """The least and the most of a day, in the crew's own degrees."""

    on = DayField()
    least = degrees()
    most = degrees()
    said = forms.CharField(max_length=80, required=False, widget=Hidden)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self._unit = unit

    def clean_on(self) -> date:
        day: date = self.cleaned_data["on"]
        if day > timezone.localdate():
            raise forms.ValidationError(_("That is still to come."))
        return day

    def value(self) -> d.DayWas:
        data = self.cleaned_data
        least, most = (celsius_of(data[name], self._unit) for name in ("least", "most"))
        return d.DayWas(str(data["entry_id"]), data["on"], least, most, said=data["said"])


class TaskMovedForm(EntryForm):
    """A task is not begun before a day; left empty, it is begun whenever it comes to it."""

    task = forms.CharField(max_length=40)
    not_before = DayField(required=False)
    because = forms.CharField(max_length=80, required=False)

    def __init__(self, *arguments: Any, tasks: list[tuple[str, str]] | None = None, **options: Any) -> None:
        super().__init__(*arguments, **options)
        if tasks is not None:
            self.fields["task"] = forms.ChoiceField(choices=tasks)

    def value(self) -> d.TaskMoved:
        data = self.cleaned_data
        return d.TaskMoved(str(data["entry_id"]), data["task"], data["not_before"], data["because"].strip())


class PromisedForm(EntryForm):
    """The day by which it was promised; left empty, nothing is promised any more."""

    day = DayField(required=False)
    to = forms.CharField(max_length=80, required=False)

    def value(self) -> d.Promised:
        data = self.cleaned_data
        return d.Promised(str(data["entry_id"]), data["day"], data["to"].strip())


class ForecastForm(forms.Form):
    """A forecast from a file, or as its text."""

    file = forms.FileField(
        required=False, widget=forms.FileInput(attrs={"accept": ".json,.csv,text/csv,application/json"})
    )
    text = forms.CharField(required=False, max_length=LARGEST_FORECAST, widget=forms.Textarea(attrs={"rows": 4}))

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        sent = data.get("file")
        if sent:
            if sent.size > LARGEST_FORECAST:
                raise forms.ValidationError(_("This is too large for a forecast."))
            try:
                data["text"] = sent.read().decode("utf-8-sig")
            except UnicodeDecodeError as error:
                raise forms.ValidationError(_("This is no text: a forecast is JSON or CSV.")) from error
        if not (data.get("text") or "").strip():
            raise forms.ValidationError(_("Choose a file, or paste what it says."))
        return data


class DayAheadForm(forms.Form):
    """A day as one reads it in a paper, in the crew's own units."""

    on = DayField()
    least = degrees()
    most = degrees()
    rain = AmountField(1, 0, 500, required=False)
    chance = AmountField(0.01, 0, 100, required=False)
    rains_from = forms.IntegerField(min_value=0, max_value=23, required=False, widget=forms.TextInput)
    rains_to = forms.IntegerField(min_value=1, max_value=24, required=False, widget=forms.TextInput)
    wind = AmountField(1, 0, 200, required=False)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self._unit = unit

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        least, most = data.get("least"), data.get("most")
        if least is not None and most is not None and most < least:
            self.add_error("most", _("The most is no less than the least."))
        first, last = data.get("rains_from"), data.get("rains_to")
        if first is not None and last is not None and last <= first:
            self.add_error("rains_to", _("Later than it begins."))
        if data.get("chance") and not 0 <= data["chance"] <= 1:
            self.add_error("chance", _("From 0 to 100."))
        return data

    @property
    def day(self) -> DayAhead:
        """As the core has it."""
        data, metric = self.cleaned_data, self._unit.is_metric
        rain = (data["rain"] or 0.0) * (1.0 if metric else INCH * 1000)
        chance = data["chance"] if data["chance"] is not None else (1.0 if rain else 0.0)
        wind = 3.0 if data["wind"] is None else data["wind"] * (1000 / 3600 if metric else MILE / 3600)
        first, last = data["rains_from"] or 0, data["rains_to"] or 24
        return DayAhead(
            data["on"], celsius_of(data["least"], self._unit), celsius_of(data["most"], self._unit), rain, chance,
            first, max(last, first + 1), wind,
        )  # fmt: skip


def typed_forms(data: Any, unit: Unit, today: date) -> list[DayAheadForm]:
    """The days that were typed, each by its number; those left empty are none. At first today and the two after."""
    if data is None:
        return [
            DayAheadForm(prefix=f"d{n}", unit=unit, initial={"on": (today + timedelta(days=n)).isoformat()})
            for n in range(3)
        ]
    asked = [DayAheadForm(data, prefix=f"d{n}", unit=unit) for n in range(LONGEST_TYPED) if f"d{n}-on" in data]
    return [form for form in asked if any(form.data.get(form.add_prefix(name)) for name in ("least", "most", "rain"))]
