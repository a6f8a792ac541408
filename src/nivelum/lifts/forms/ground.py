"""Forms for soft ground, fabric and a competent person’s word."""

from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from groundwork import layerwork
from groundwork.surfaces import Point
from nivelum.lifts.forms.amounts import percent, place_of
from nivelum.lifts.forms.work import WorkForm
from nivelum.recording.fields import layer_field

CURE_WORDS = {
    layerwork.CureKind.STONE: gettext_lazy("dug out, stone in lifts"),
    layerwork.CureKind.FABRIC_AND_STONE: gettext_lazy("dug out, fabric, stone in lifts"),
    layerwork.CureKind.LIME: gettext_lazy("lime mixed in"),
    layerwork.CureKind.CEMENT: gettext_lazy("cement mixed in"),
}


class SoftSpotForm(WorkForm):
    """A soft spot, its corners a line each, or two opposite corners of a rectangle."""

    needs_lift = False
    name = forms.CharField(max_length=40, label=gettext_lazy("Name"))
    corners = forms.CharField(max_length=2000, widget=forms.Textarea, label=gettext_lazy("Corners, east and north"))

    def more(self) -> None:
        self.fields["depth"] = layer_field(self.unit, label=_("Soft to a depth of"))

    def clean_corners(self) -> tuple[Point, ...]:
        found = tuple(place_of(line, self.unit) for line in self.cleaned_data["corners"].splitlines() if line.strip())
        if len(found) == 2:
            (west, south), (east, north) = found
            found = ((west, south), (east, south), (east, north), (west, north))
        if len(found) < 3:
            raise ValidationError(_("Three corners at least, or two opposite ones of a rectangle."))
        return found

    def value(self) -> layerwork.SoftSpot:
        data = self.cleaned_data
        return layerwork.SoftSpot(self.own[0], data["name"], data["corners"], data["depth"])


class CuredForm(WorkForm):
    needs_lift = False
    how = forms.ChoiceField(choices=[(k.value, v) for k, v in CURE_WORDS.items()], label=gettext_lazy("Cure"))
    on = forms.DateField(widget=forms.DateInput(attrs={"type": "date"}), label=gettext_lazy("On"))
    lifts = forms.IntegerField(min_value=1, max_value=50, initial=1, label=gettext_lazy("Lifts"))
    dose = percent(20, required=False, label=gettext_lazy("Dose, % of the dry soil"))

    def more(self) -> None:
        spots = [(s.spot.id, s.spot.name) for s in self.works.subgrade.spots]
        self.fields["spot"] = forms.ChoiceField(choices=spots, label=_("Soft spot"))

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        binder = data.get("how") in (layerwork.CureKind.LIME, layerwork.CureKind.CEMENT)
        if binder and not data.get("dose"):
            self.add_error("dose", _("How much was mixed in?"))
        return data

    def value(self) -> layerwork.Cured:
        data = self.cleaned_data
        how = layerwork.CureKind(data["how"])
        return layerwork.Cured(self.own[0], data["spot"], how, data["on"], data["lifts"], data["dose"] or 0.0)


class FabricForm(WorkForm):
    with_the_flow = forms.BooleanField(required=False, label=gettext_lazy("upper over lower, like roof tiles"))

    def more(self) -> None:
        self.fields["overlap"] = layer_field(self.unit, label=_("Least overlap"))
        self.fields["up_sides"] = layer_field(self.unit, label=_("Turned up the sides"))

    def value(self) -> layerwork.FabricLaid:
        data = self.cleaned_data
        return layerwork.FabricLaid(*self.own, data["overlap"], data["with_the_flow"], data["up_sides"])


class CompetentForm(WorkForm):
    needs_lift = False
    by = forms.CharField(max_length=80, label=gettext_lazy("Who"))
    role = forms.ChoiceField(
        choices=[("competent person", gettext_lazy("competent person")), ("engineer", gettext_lazy("engineer"))],
        label=gettext_lazy("As"),
    )
    words = forms.CharField(max_length=400, widget=forms.Textarea, label=gettext_lazy("What they said"))

    def value(self) -> layerwork.Competent:
        data = self.cleaned_data
        return layerwork.Competent(self.own[0], data["by"], data["role"], data["words"])
