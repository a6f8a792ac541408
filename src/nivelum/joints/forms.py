"""What the Joints room's forms send."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from groundwork import jointwork as j
from groundwork.base import SurfaceKey
from groundwork.jointing import JointFill
from groundwork.layerwork import Direction, Passed
from groundwork.measures import Unit
from groundwork.surfaces import Point
from groundwork.tools import Method
from nivelum.lifts.forms.amounts import celsius_of, degrees, mass, percent, place_of
from nivelum.readings.forms import signed_field
from nivelum.recording.fields import Hidden, layer_field, rod_field
from nivelum.recording.forms import EntryForm, ReadForm
from nivelum.recording.moments import MinuteField, minute

FACES = {
    j.UnitFace.FLAT: _("flat"), j.UnitFace.TEXTURED: _("textured"), j.UnitFace.RIVEN: _("riven"),
}  # fmt: skip
FAULTS = {
    j.FaultKind.ROCKS: _("rocks"), j.FaultKind.CRACKED: _("cracked"), j.FaultKind.CHIPPED: _("chipped"),
    j.FaultKind.HOLLOW: _("sounds hollow"),
}  # fmt: skip
WAYS = {Direction.ALONG: _("along"), Direction.ACROSS: _("across")}


class SeatPassForm(EntryForm):
    """A patch of the paving gone over once."""

    machine = forms.CharField(max_length=40)
    direction = forms.ChoiceField(choices=[(d.value, words) for d, words in WAYS.items()])
    patch = forms.CharField(max_length=4, required=False)

    def value(self) -> Passed:
        data = self.cleaned_data
        way = Direction(data["direction"])
        return Passed(str(data["entry_id"]), SurfaceKey.FINISHED, data["machine"], way, data["patch"])


class BeforeForm(ReadForm):
    """What was read on units at a station before they were seated."""

    station = forms.CharField(max_length=10, widget=Hidden)
    set_up = forms.UUIDField(widget=Hidden)

    def __init__(self, *arguments: Any, unit: Unit, method: Method = Method.LASER, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["reading"] = signed_field(unit) if method is Method.HEIGHT_METER else rod_field(unit)

    def value(self) -> j.LaidShot:
        data = self.cleaned_data
        return j.LaidShot(
            str(data["entry_id"]), data["station"], str(data["set_up"]), data["reading"], self.is_sure
        )  # fmt: skip


class FaceForm(EntryForm):
    """What units are like on top."""

    face = forms.ChoiceField(choices=[(f.value, words) for f, words in FACES.items()])

    def value(self) -> j.FaceSeen:
        return j.FaceSeen(str(self.cleaned_data["entry_id"]), j.UnitFace(self.cleaned_data["face"]))


class FaultForm(EntryForm):
    """A unit to mend, at a place of the plan, east and north."""

    at = forms.CharField(max_length=40)
    fault = forms.ChoiceField(choices=[(f.value, words) for f, words in FAULTS.items()])
    words = forms.CharField(max_length=80, required=False)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.unit = unit

    def clean_at(self) -> Point:
        return place_of(self.cleaned_data["at"], self.unit)

    def value(self) -> j.UnitFault:
        data = self.cleaned_data
        return j.UnitFault(str(data["entry_id"]), data["at"], j.FaultKind(data["fault"]), data["words"].strip())


class LipForm(EntryForm):
    """How far a unit stands over the one beside it, at a place of the plan."""

    place = forms.CharField(max_length=40)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.unit = unit
        self.fields["lip"] = layer_field(unit)

    def clean_place(self) -> Point:
        return place_of(self.cleaned_data["place"], self.unit)

    def value(self) -> j.LipTaped:
        data = self.cleaned_data
        return j.LipTaped(str(data["entry_id"]), data["place"], data["lip"])


class MendedForm(EntryForm):
    """A unit of the list lifted and laid again."""

    found = forms.UUIDField(widget=Hidden)

    def value(self) -> j.UnitMended:
        return j.UnitMended(str(self.cleaned_data["entry_id"]), str(self.cleaned_data["found"]))


class AirForm(EntryForm):
    """How dry it is: air, dampness, surface; the chance of rain an hour by a forecast."""

    at = MinuteField()
    air = degrees()
    humidity = percent(100)
    surface = degrees()
    chance = percent(100, required=False)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.unit = unit

    def value(self) -> j.AirRead:
        data = self.cleaned_data
        celsius, surface = (celsius_of(data[name], self.unit) for name in ("air", "surface"))
        return j.AirRead(
            str(data["entry_id"]), minute(data), celsius, round(data["humidity"], 4), surface,
            None if data["chance"] is None else round(data["chance"], 4),
        )  # fmt: skip


class StepForm(EntryForm):
    """A step of filling done, on a patch or all over."""

    at = MinuteField()
    patch = forms.CharField(max_length=4, required=False)

    def __init__(self, *arguments: Any, fill: JointFill, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["step"] = forms.ChoiceField(choices=[(s.key, s.key) for s in fill.steps])

    def value(self) -> j.FillStepDone:
        data = self.cleaned_data
        return j.FillStepDone(str(data["entry_id"]), data["step"], minute(data), data["patch"])


class UsedForm(EntryForm):
    """What went into a patch."""

    patch = forms.CharField(max_length=4, required=False)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["mass"] = mass(unit, j.MOST_FILL)

    def value(self) -> j.FillUsed:
        data = self.cleaned_data
        return j.FillUsed(str(data["entry_id"]), round(data["mass"], 3), data["patch"])


class DepthForm(EntryForm):
    """How far the filling lies below the edge, at a place of a patch."""

    patch = forms.CharField(max_length=4, widget=Hidden)
    spot = forms.IntegerField(min_value=1, max_value=20, widget=Hidden)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["below"] = signed_field(unit)

    def value(self) -> j.JointDepth:
        data = self.cleaned_data
        return j.JointDepth(str(data["entry_id"]), data["patch"], data["spot"], data["below"])
