"""Forms for what is done to a lift: machines, spreading, water, passes, edges, settlement."""

from typing import Any

from django import forms
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from groundwork import layerwork
from groundwork.measures import FOOT, POUND_FORCE, in_words
from groundwork.tools import Machine, MachineKind, NoMachine
from nivelum.lifts.forms.amounts import AmountField, mass, percent
from nivelum.lifts.forms.work import WorkForm
from nivelum.recording.fields import layer_field, rod_field

MACHINE_WORDS = {
    MachineKind.PLATE: gettext_lazy("plate"),
    MachineKind.TAMPER: gettext_lazy("vibrating tamper"),
    MachineKind.ROLLER: gettext_lazy("vibrating roller"),
    MachineKind.HAND: gettext_lazy("hand tamper"),
}


class MachineForm(WorkForm):
    needs_lift = False
    name = forms.CharField(max_length=40, label=gettext_lazy("Name"))
    kind = forms.ChoiceField(choices=[(k.value, v) for k, v in MACHINE_WORDS.items()], label=gettext_lazy("Kind"))

    def more(self) -> None:
        metric = self.unit.is_metric
        blow, pace = (1.0, 1.0) if metric else (POUND_FORCE / 1000, FOOT / 60)
        pounds = "" if metric else _(", lb")
        self.fields["mass"] = mass(self.unit, 30_000, label=_("Mass") + (pounds or _(", kg")))
        self.fields["width"] = layer_field(self.unit, label=_("Width of plate or roll"))
        self.fields["length"] = layer_field(self.unit, required=False, label=_("Length of the base plate"))
        self.fields["force"] = AmountField(
            blow,
            0,
            1000 if metric else 224_000,
            required=False,
            label=_("Blow by the maker, kN") if metric else _("Blow by the maker, lbf"),
        )
        self.fields["speed"] = AmountField(
            pace,
            0,
            5 if metric else 980,
            required=False,
            label=_("Speed, m/s") if metric else _("Speed, feet a minute"),
        )
        self.fields["vibration"] = AmountField(1, 0, 50, required=False, label=_("Vibration at the hands, m/s²"))

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if not self.errors:
            try:
                data["machine"] = Machine(
                    data["name"], MachineKind(data["kind"]), data["mass"], data["width"].metres,
                    data["length"].metres if data["length"] else 0.0, data["speed"] or 0.0, data["force"] or 0.0,
                    data["vibration"] or 0.0,
                )  # fmt: skip
            except NoMachine as error:
                self.add_error(error.field, in_words(error, self.unit, _))
        return data

    def value(self) -> layerwork.MachineBrought:
        return layerwork.MachineBrought(self.own[0], self.cleaned_data["machine"])


class AgainForm(WorkForm):
    """A machine the crew has used on another job, brought here; `known` are its machines by number."""

    needs_lift = False

    def __init__(self, *arguments: Any, known: list[Machine], **options: Any) -> None:
        self.known = known
        super().__init__(*arguments, **options)

    def more(self) -> None:
        self.fields["again"] = forms.ChoiceField(choices=[(str(n), m.name) for n, m in enumerate(self.known)])

    def value(self) -> layerwork.MachineBrought:
        return layerwork.MachineBrought(self.own[0], self.known[int(self.cleaned_data["again"])])


class SpreadForm(WorkForm):
    def more(self) -> None:
        self.fields["station"] = forms.CharField(max_length=10, label=_("Station"))
        self.fields["thickness"] = layer_field(self.unit, label=_("Thick, loose"))

    def value(self) -> layerwork.Spread:
        return layerwork.Spread(*self.own, self.cleaned_data["station"], self.cleaned_data["thickness"])


class MoistureForm(WorkForm):
    feel = forms.ChoiceField(choices=[("", "")] + [(f.value, f.value) for f in layerwork.Feel], required=False)
    share = percent(required=False)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if not self.errors and bool(data.get("feel")) == (data.get("share") is not None):
            self.add_error("share", _("Squeeze it, or give the percentage."))
        return data

    def value(self) -> layerwork.Moisture:
        feel = self.cleaned_data["feel"]
        return layerwork.Moisture(*self.own, layerwork.Feel(feel) if feel else None, self.cleaned_data["share"])


class PassForm(WorkForm):
    machine = forms.CharField(max_length=40)
    direction = forms.ChoiceField(choices=[(d.value, d.value) for d in layerwork.Direction])
    patch = forms.CharField(max_length=4, required=False)

    def value(self) -> layerwork.Passed:
        data = self.cleaned_data
        return layerwork.Passed(*self.own, data["machine"], layerwork.Direction(data["direction"]), data["patch"])


class TampedForm(WorkForm):
    side = forms.IntegerField(min_value=0, max_value=500)

    def value(self) -> layerwork.Tamped:
        return layerwork.Tamped(*self.own, self.cleaned_data["side"])


class ScarifiedForm(WorkForm):
    def more(self) -> None:
        self.fields["depth"] = layer_field(self.unit, label=_("Loosened, deep"))

    def value(self) -> layerwork.Scarified:
        return layerwork.Scarified(*self.own, self.cleaned_data["depth"])


class ToppedUpForm(WorkForm):
    scarified = forms.BooleanField(required=False, label=gettext_lazy("the top was loosened first"))

    def more(self) -> None:
        self.fields["station"] = forms.CharField(max_length=10, label=_("Station"))
        self.fields["thickness"] = layer_field(self.unit, label=_("Skin added"))

    def value(self) -> layerwork.ToppedUp:
        data = self.cleaned_data
        return layerwork.ToppedUp(*self.own, data["station"], data["thickness"], data["scarified"])


class SettlingForm(WorkForm):
    after_passes = forms.IntegerField(min_value=1, max_value=1000, label=gettext_lazy("After passes"))

    def more(self) -> None:
        self.fields["station"] = forms.CharField(max_length=10, label=_("Station"))
        self.fields["before"], self.fields["after"] = rod_field(self.unit), rod_field(self.unit)

    def value(self) -> layerwork.Settling:
        data = self.cleaned_data
        return layerwork.Settling(*self.own, data["station"], data["after_passes"], data["before"], data["after"])


class WeatherForm(WorkForm):
    words = forms.CharField(max_length=200, label=gettext_lazy("Weather"))

    def value(self) -> layerwork.Weather:
        return layerwork.Weather(*self.own, self.cleaned_data["words"])
