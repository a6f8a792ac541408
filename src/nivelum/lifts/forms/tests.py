"""Forms for what is tested on a lift or on the ground."""

import re
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from groundwork import layerwork
from groundwork.base import STONE, catalogue
from groundwork.laboratory import NotACurve, curve
from groundwork.measures import INCH, POUND_A_CUBIC_FOOT, in_system, in_words
from groundwork.strength import ConeLogError, parse_log
from nivelum.lifts.forms.amounts import AmountField, density, mass, percent
from nivelum.lifts.forms.work import PlacedForm, WorkForm
from nivelum.recording.fields import layer_field


class LaboratoryForm(WorkForm):
    """A curve, each line a moisture in percent and a dry density."""

    needs_lift = False
    points = forms.CharField(max_length=2000, widget=forms.Textarea, label=gettext_lazy("Moisture and dry density"))
    gravity = forms.FloatField(
        min_value=1, max_value=5, widget=forms.TextInput, label=gettext_lazy("Specific gravity")
    )
    by = forms.CharField(max_length=80, required=False, label=gettext_lazy("Laboratory"))

    def more(self) -> None:
        stone = [(key, in_system(_(m.title), self.unit)) for key, m in catalogue().items() if m.family in STONE]
        self.fields["material"] = forms.ChoiceField(choices=stone, label=_("Material"))

    def clean_points(self) -> list[tuple[float, float]]:
        factor = 1.0 if self.unit.is_metric else POUND_A_CUBIC_FOOT
        found = []
        for line in self.cleaned_data["points"].splitlines():
            parts = re.split(r"[\s;]+", line.strip().replace(",", "."))
            if not line.strip():
                continue
            try:
                moisture, dense = map(float, parts)
            except ValueError:
                message = _("“{line}” is not a moisture and a density, like “5.5 2140”.").format(line=line[:24])
                raise ValidationError(message) from None
            found.append((moisture / 100, dense * factor))
        return found

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if not self.errors:
            try:
                curve(data["points"], data["gravity"])
            except NotACurve as error:
                self.add_error("points", in_words(error, self.unit, _))
        return data

    def value(self) -> layerwork.LaboratoryTest:
        data = self.cleaned_data
        moistures, densities = zip(*data["points"], strict=True)
        return layerwork.LaboratoryTest(
            self.own[0], data["material"], moistures, densities, data["gravity"], data["by"]
        )


class GaugeForm(PlacedForm):
    moisture = percent()
    oversize = percent(40, required=False)

    def more(self) -> None:
        self.fields["wet"] = density(self.unit)

    def value(self) -> layerwork.GaugeTest:
        data = self.cleaned_data
        return layerwork.GaugeTest(*self.here, data["wet"], data["moisture"], data["oversize"] or 0.0)


class SandForm(PlacedForm):
    moisture = percent()
    oversize = percent(40, required=False)

    def more(self) -> None:
        self.fields["sand"] = density(self.unit)
        for name in ("used", "cone", "wet"):
            self.fields[name] = mass(self.unit, 100)

    def clean(self) -> dict[str, Any]:
        data = super().clean()
        if not self.errors and data["used"] <= data["cone"]:
            self.add_error("used", _("More sand is used than stays in the cone."))
        return data

    def value(self) -> layerwork.SandTest:
        data = self.cleaned_data
        return layerwork.SandTest(
            *self.here,
            data["used"],
            data["cone"],
            data["sand"],
            data["wet"],
            data["moisture"],
            data["oversize"] or 0.0,
        )


class WeightForm(PlacedForm):
    def more(self) -> None:
        step = 0.001 if self.unit.is_metric else INCH
        for name in ("one", "two", "three"):
            self.fields[name] = AmountField(step, 0.00001 / step, 0.03 / step)

    def value(self) -> layerwork.WeightTest:
        data = self.cleaned_data
        return layerwork.WeightTest(*self.here, (data["one"], data["two"], data["three"]))


class SpikeForm(PlacedForm):
    def more(self) -> None:
        self.fields["sank"] = layer_field(self.unit)

    def value(self) -> layerwork.SpikeTest:
        return layerwork.SpikeTest(*self.here, self.cleaned_data["sank"])


class ConeForm(PlacedForm):
    log = forms.CharField(max_length=20_000, widget=forms.Textarea)

    def clean_log(self) -> Any:
        try:
            return parse_log("cone", self.cleaned_data["log"])
        except ConeLogError as error:
            raise ValidationError(in_words(error, self.unit, _)) from error

    def value(self) -> layerwork.ConeTest:
        log = self.cleaned_data["log"]
        return layerwork.ConeTest(*self.here, log.blows, log.depths)


class ProofRollForm(PlacedForm):
    vehicle = forms.CharField(max_length=60)
    pumps = forms.BooleanField(required=False)

    def more(self) -> None:
        self.fields["rut"] = layer_field(self.unit)

    def value(self) -> layerwork.ProofRoll:
        data = self.cleaned_data
        return layerwork.ProofRoll(*self.here, data["vehicle"], data["rut"], data["pumps"])
