"""What the Lifts room sends: one form a kind of entry. Amounts are typed in the crew's own units."""

import re
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from groundwork import layerwork
from groundwork.base import STONE, catalogue
from groundwork.laboratory import NotACurve, curve
from groundwork.lifts import Works
from groundwork.measures import POUND_A_CUBIC_FOOT, MeasureError, Unit, in_system, parse_length
from groundwork.strength import ConeLogError, parse_log
from groundwork.surfaces import Point
from groundwork.tools import Machine, MachineKind
from nivelum.jobs.fields import PhotoField, layer_field, rod_field
from nivelum.jobs.forms import EntryForm

POUND = 0.45359237
CUBIC_YARD = 0.764554857984
MACHINE_WORDS = {
    MachineKind.PLATE: gettext_lazy("plate"),
    MachineKind.TAMPER: gettext_lazy("vibrating tamper"),
    MachineKind.ROLLER: gettext_lazy("vibrating roller"),
    MachineKind.HAND: gettext_lazy("hand tamper"),
}
CURE_WORDS = {
    layerwork.CureKind.STONE: gettext_lazy("dug out, stone in lifts"),
    layerwork.CureKind.FABRIC_AND_STONE: gettext_lazy("dug out, fabric, stone in lifts"),
    layerwork.CureKind.LIME: gettext_lazy("lime mixed in"),
    layerwork.CureKind.CEMENT: gettext_lazy("cement mixed in"),
}


class AmountField(forms.FloatField):
    """A number in a unit; cleans to so many of the core's own."""

    def __init__(self, factor: float, low: float, high: float, **options: Any) -> None:
        self.factor = factor
        super().__init__(min_value=low, max_value=high, widget=forms.TextInput, **options)

    def to_python(self, value: Any) -> float | None:
        return super().to_python(str(value).replace(",", ".") if value not in self.empty_values else value)

    def clean(self, value: Any) -> float | None:
        number = super().clean(value)
        return None if number is None else number * self.factor


def percent(high: float = 60, **options: Any) -> AmountField:
    return AmountField(0.01, 0, high, **options)


def density(unit: Unit, **options: Any) -> AmountField:
    factor = 1.0 if unit.is_metric else POUND_A_CUBIC_FOOT
    return AmountField(factor, 500 / factor, 4000 / factor, **options)


def mass(unit: Unit, most: float, **options: Any) -> AmountField:
    factor = 1.0 if unit.is_metric else POUND
    return AmountField(factor, 0.001, most / factor, **options)


def place_of(text: str, unit: Unit) -> Point:
    """A place on the plan, east and north. Raises `ValidationError`."""
    parts = text.replace(",", " ").split() if unit.is_metric else re.split(r"[,;]\s*|\s+", text.strip())
    try:
        east, north = (parse_length(part, unit.for_plans).metres for part in parts)
    except (MeasureError, ValueError) as error:
        raise ValidationError(_("A place is east and north, like “4.2 7.5”.")) from error
    return east, north


class WorkForm(EntryForm):
    """An entry of work; `works` is the job as it stands, `crew_unit` what a bare number means."""

    needs_lift = True

    def __init__(self, *arguments: Any, unit: Unit, works: Works, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.unit, self.works = unit, works
        if self.needs_lift:
            self.fields["lift"] = forms.CharField(max_length=40, widget=forms.HiddenInput)
        self.more()

    def more(self) -> None:
        """Adds the fields that hang on the unit or on the job."""

    @property
    def own(self) -> tuple[str, str]:
        return str(self.cleaned_data["entry_id"]), self.cleaned_data.get("lift", "")


class MachineForm(WorkForm):
    needs_lift = False
    name = forms.CharField(max_length=40, label=gettext_lazy("Name"))
    kind = forms.ChoiceField(choices=[(k.value, v) for k, v in MACHINE_WORDS.items()], label=gettext_lazy("Kind"))

    def more(self) -> None:
        pounds = "" if self.unit.is_metric else _(", lb")
        self.fields["mass"] = mass(self.unit, 30_000, label=_("Mass") + (pounds or _(", kg")))
        self.fields["width"] = layer_field(self.unit, label=_("Width of plate or roll"))
        self.fields["length"] = layer_field(self.unit, required=False, label=_("Length of the base plate"))
        self.fields["force"] = AmountField(1, 0, 1000, required=False, label=_("Blow by the maker, kN"))
        self.fields["speed"] = AmountField(1, 0, 5, required=False, label=_("Speed, m/s"))
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
            except ValueError as error:
                field = "length" if "length" in str(error) else "mass"
                self.add_error(field, str(error))
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
                self.add_error("points", str(error))
        return data

    def value(self) -> layerwork.LaboratoryTest:
        data = self.cleaned_data
        moistures, densities = zip(*data["points"], strict=True)
        return layerwork.LaboratoryTest(
            self.own[0], data["material"], moistures, densities, data["gravity"], data["by"]
        )


class PlacedForm(WorkForm):
    """A test at a place drawn on the lift, or at one of its own."""

    place = forms.CharField(max_length=12, label=gettext_lazy("Place"))
    at = forms.CharField(max_length=40, required=False, label=gettext_lazy("Elsewhere, at"))

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        lift = self.works.lifts.get(data.get("lift", ""))
        known = dict(lift.places) | {t.place: t.at for t in lift.tests} if lift else {}
        try:
            if data.get("at"):
                data["spot"] = place_of(data["at"], self.unit)
            elif (place := data.get("place", "")) in known:
                data["spot"] = known[place]
            elif place:
                self.add_error("at", _("That place was not drawn: say where it is."))
        except ValidationError as error:
            self.add_error("at", error)
        return data

    @property
    def here(self) -> tuple[str, str, str, Point]:
        return *self.own, self.cleaned_data["place"], self.cleaned_data["spot"]


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
    one, two, three = (AmountField(0.001, 0.01, 30) for _n in range(3))

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
            raise ValidationError(str(error)) from error

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


class DeliveredForm(WorkForm):
    needs_lift = False
    ticket = forms.CharField(max_length=40, label=gettext_lazy("Ticket"))
    note = forms.CharField(max_length=200, required=False, label=gettext_lazy("Note"))
    photo = PhotoField(required=False, label=gettext_lazy("Photo of the ticket"))

    def more(self) -> None:
        materials = [(key, in_system(_(m.title), self.unit)) for key, m in catalogue().items() if not m.is_there]
        self.fields["material"] = forms.ChoiceField(choices=materials, label=_("Material"))
        factor = 1000.0 if self.unit.is_metric else 907.18474
        name = _("Tonnes") if self.unit.is_metric else _("Tons")
        self.fields["mass"] = AmountField(factor, 0.001, 100, label=name)

    def value(self) -> layerwork.Delivered:
        data = self.cleaned_data
        photo = data["photo"].hash if data["photo"] else ""
        return layerwork.Delivered(self.own[0], data["ticket"], data["material"], data["mass"], data["note"], photo)


class PouredForm(WorkForm):
    needs_lift = False
    on = forms.DateField(widget=forms.DateInput(attrs={"type": "date"}), label=gettext_lazy("Poured on"))
    ticket = forms.CharField(max_length=40, required=False, label=gettext_lazy("Tickets"))

    def more(self) -> None:
        factor, name = (1.0, _("Poured, m³")) if self.unit.is_metric else (CUBIC_YARD, _("Poured, cubic yards"))
        self.fields["volume"] = AmountField(factor, 0.01, 1000, label=name)
        self.fields["degrees"] = AmountField(1, -40, 140, label=_("Air, °C") if self.unit.is_metric else _("Air, °F"))
        self.fields["deflection"] = layer_field(self.unit, label=_("Ground gave under the truck"))

    def value(self) -> layerwork.Poured:
        data = self.cleaned_data
        celsius = data["degrees"] if self.unit.is_metric else (data["degrees"] - 32) / 1.8
        return layerwork.Poured(self.own[0], data["on"], data["volume"], celsius, data["deflection"], data["ticket"])


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
