"""What the set-out's forms send."""

from datetime import date
from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from groundwork import entries
from groundwork.assess import Assessment
from groundwork.levels import HIGHEST_TIE
from groundwork.measures import Unit
from groundwork.setout import USUAL_LIFE
from nivelum.recording.fields import between, layer_field, plan_field
from nivelum.recording.forms import EntryForm


class LengthForm(EntryForm):
    """A side or diagonal as taped."""

    start = forms.CharField(max_length=8)
    end = forms.CharField(max_length=8)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["length"] = plan_field(unit)

    def value(self) -> entries.PegDistance:
        data = self.cleaned_data
        return entries.PegDistance(str(data["entry_id"]), data["start"], data["end"], data["length"])


class MoveForm(EntryForm):
    peg = forms.CharField(max_length=8)

    def value(self) -> entries.PegMove:
        return entries.PegMove(str(self.cleaned_data["entry_id"]), self.cleaned_data["peg"])


class MarginForm(EntryForm):
    side = forms.IntegerField(min_value=0, max_value=500)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["width"] = layer_field(unit)

    def value(self) -> entries.MarginMeasured:
        data = self.cleaned_data
        return entries.MarginMeasured(str(data["entry_id"]), data["side"], data["width"])


class ServicesForm(EntryForm):
    """Services located, on a ticket."""

    ticket = forms.CharField(max_length=80, label=_("Ticket"))
    located_on = forms.DateField(label=_("Located on"), widget=forms.DateInput(attrs={"type": "date"}))
    life_days = forms.IntegerField(min_value=0, max_value=366, initial=USUAL_LIFE, label=_("Holds for, days"))
    by = forms.CharField(max_length=80, label=_("Located by"))
    scheme = forms.CharField(
        max_length=400, required=False, widget=forms.Textarea, label=_("What the colours mean here")
    )
    found = forms.CharField(
        max_length=2000, required=False, widget=forms.Textarea, label=_("What was found, and where")
    )

    def __init__(self, *arguments: Any, today: date, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.today = today

    def clean_located_on(self) -> date:
        located: date = self.cleaned_data["located_on"]
        if located > self.today:
            raise forms.ValidationError(_("That day is still to come."))
        return located

    def value(self) -> entries.ServicesLocated:
        data = self.cleaned_data
        return entries.ServicesLocated(
            str(data["entry_id"]), data["ticket"], data["located_on"], data["life_days"], data["by"],
            data["scheme"], data["found"],
        )  # fmt: skip


class TriangleForm(forms.Form):
    """Two sides from a corner and the length across their ends."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        for name in ("side_a", "side_b", "across"):
            self.fields[name] = plan_field(unit)


class CurveForm(forms.Form):
    """A chord, and the curve's radius or its rise in the middle."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["chord"] = plan_field(unit)
        self.fields["radius"] = plan_field(unit, required=False)
        self.fields["rise"] = plan_field(unit, required=False)
        self.fields["step"] = plan_field(unit)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        for name, measured in list(data.items()):
            if measured is not None and measured.metres <= 0:
                self.add_error(name, _("More than nothing."))
        if not self.errors and (data.get("radius") is None) == (data.get("rise") is None):
            self.add_error("radius", _("Give the radius or the rise, one of them."))
        return data


class StringTableForm(forms.Form):
    """How high above finished level strings are tied, and for which surface."""

    def __init__(self, *arguments: Any, assessment: Assessment, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.unit = assessment.job.unit
        self.fields["height"] = layer_field(assessment.job.unit)
        self.fields["surface"] = forms.ChoiceField(choices=[(s.key, s.key) for s in assessment.surveys.levelled])

    def clean_height(self) -> Any:
        height = self.cleaned_data["height"]
        if not 0 <= height.metres <= HIGHEST_TIE:
            raise forms.ValidationError(between(0, HIGHEST_TIE, self.unit))
        return height
