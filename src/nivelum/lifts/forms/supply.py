"""Forms for what comes on a truck: stone, concrete."""

from datetime import datetime

from django import forms
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from groundwork import layerwork
from groundwork.base import catalogue
from groundwork.measures import CUBIC_YARD, TON, in_system
from nivelum.lifts.forms.amounts import AmountField, celsius_of, degrees
from nivelum.lifts.forms.work import WorkForm
from nivelum.recording.fields import PhotoField, layer_field


class DeliveredForm(WorkForm):
    needs_lift = False
    ticket = forms.CharField(max_length=40, label=gettext_lazy("Ticket"))
    note = forms.CharField(max_length=200, required=False, label=gettext_lazy("Note"))
    photo = PhotoField(required=False, label=gettext_lazy("Photo of the ticket"))

    def more(self) -> None:
        materials = [(key, in_system(_(m.title), self.unit)) for key, m in catalogue().items() if not m.is_there]
        self.fields["material"] = forms.ChoiceField(choices=materials, label=_("Material"))
        factor = 1000.0 if self.unit.is_metric else TON
        name = _("Tonnes") if self.unit.is_metric else _("Tons")
        self.fields["mass"] = AmountField(factor, 0.001, 100, label=name)

    def value(self) -> layerwork.Delivered:
        data = self.cleaned_data
        photo = data["photo"].hash if data["photo"] else ""
        return layerwork.Delivered(self.own[0], data["ticket"], data["material"], data["mass"], data["note"], photo)


class PouredForm(WorkForm):
    needs_lift = False
    on = forms.DateField(widget=forms.DateInput(attrs={"type": "date"}), label=gettext_lazy("Poured on"))
    done = forms.TimeField(
        widget=forms.TimeInput(attrs={"type": "time"}), required=False, label=gettext_lazy("The last of it placed at")
    )
    ticket = forms.CharField(max_length=40, required=False, label=gettext_lazy("Tickets"))

    def more(self) -> None:
        factor, name = (1.0, _("Poured, m³")) if self.unit.is_metric else (CUBIC_YARD, _("Poured, cubic yards"))
        self.fields["volume"] = AmountField(factor, 0.01, 1000, label=name)
        self.fields["degrees"] = degrees(label=_("Air, °C") if self.unit.is_metric else _("Air, °F"))
        self.fields["deflection"] = layer_field(self.unit, label=_("Ground gave under the truck"))

    def value(self) -> layerwork.Poured:
        data = self.cleaned_data
        celsius = celsius_of(data["degrees"], self.unit)
        done = data["done"] and datetime.combine(data["on"], data["done"].replace(second=0, microsecond=0))
        return layerwork.Poured(
            self.own[0], data["on"], data["volume"], celsius, data["deflection"], data["ticket"], done
        )
