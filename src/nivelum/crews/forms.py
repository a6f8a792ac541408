"""What the crew's own pages send."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from groundwork.measure import MeasureError, Unit, parse_length, parse_rod
from nivelum.crews.models import Crew, PegTest, Tool


class CrewForm(forms.ModelForm):
    class Meta:
        model = Crew
        fields = ["name", "rod", "region", "keeps_places"]
        widgets = {"rod": forms.RadioSelect, "region": forms.RadioSelect}


class PinForm(forms.Form):
    """One's own PIN, twice, so that it is the one that was meant."""

    pin = forms.CharField(max_length=20, label=_("New PIN"))
    again = forms.CharField(max_length=20, label=_("Once more"))

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if data.get("pin") and data.get("again") and data["pin"] != data["again"]:
            self.add_error("again", _("That is another one."))
        return data


class ToolForm(forms.ModelForm):
    """A tool of the kit. A tool in use keeps its method: what was read with it was read that way."""

    class Meta:
        model = Tool
        fields = ["name", "method", "reading_u", "rate", "retired"]

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["method"].disabled = not self.instance._state.adding

    def clean_retired(self) -> bool:
        retired: bool = self.cleaned_data["retired"]
        others = Tool.objects.filter(crew=self.instance.crew, retired=False).exclude(id=self.instance.id)
        if retired and not others.exists():
            raise forms.ValidationError(_("A crew keeps at least one tool."))
        return retired

    def clean_name(self) -> str:
        name: str = self.cleaned_data["name"]
        if Tool.objects.filter(crew=self.instance.crew, name=name).exclude(id=self.instance.id).exists():
            raise forms.ValidationError(_("Another tool of the crew has that name."))
        return name


READINGS = {
    "midway_a": _("From midway: rod on A"),
    "midway_b": _("From midway: rod on B"),
    "near_a": _("From near A: rod on A"),
    "near_b": _("From near A: rod on B"),
}
DISTANCES = {"to_a": _("then from the level to A"), "to_b": _("and to B")}


class PegTestForm(forms.Form):
    """The four readings of a two-peg test and how far the level stood the second time."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.unit = unit
        for name, label in (READINGS | DISTANCES).items():
            self.fields[name] = forms.CharField(label=label, required=False, max_length=60)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        for name in (*READINGS, *DISTANCES):
            try:
                typed = data.get(name, "")
                read = parse_rod(typed, self.unit) if name in READINGS else parse_length(typed, self.unit.for_plans)
                data[name] = read.metres
            except MeasureError as error:
                self.add_error(name, str(error))
        if not self.errors:
            try:
                believable = self.test().two_peg.is_believable
            except ValueError as error:
                self.add_error("to_a", str(error))
            else:
                if not believable:
                    self.add_error("near_b", _("That is more than any level is out: read the four again."))
        return data

    def test(self) -> PegTest:
        return PegTest(**{name: self.cleaned_data[name] for name in (*READINGS, *DISTANCES)})
