"""What the Edges room's forms send."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from groundwork import edgework
from groundwork.edges import SIZES, USUAL, Courses
from groundwork.edgework import EdgeKind
from groundwork.measures import Unit
from groundwork.tools import Method
from nivelum.lifts.forms.amounts import celsius_of, degrees
from nivelum.readings.forms import signed_field
from nivelum.recording.fields import Hidden, layer_field, plan_field, rod_field
from nivelum.recording.forms import EntryForm, ReadForm
from nivelum.recording.moments import MinuteField, minute

KINDS = {
    EdgeKind.KERB: _("kerb"), EdgeKind.CHANNEL: _("channel"), EdgeKind.SPIKED: _("spiked edging"),
    EdgeKind.CONCRETE: _("concrete edge"), EdgeKind.ANGLE: _("angle on a slab"), EdgeKind.FORM: _("form"),
    EdgeKind.WALL: _("wall that is there"),
}  # fmt: skip
FOOT, INCH = 0.3048, 0.0254


def usual_sizes(kind: EdgeKind, unit: Unit) -> dict[str, str]:
    """What one would type for a kind of edge, by field: plans' lengths in metres or feet, the rest in millimetres or
    inches, or in tenths of a foot."""
    sizes = dict(zip(SIZES, USUAL[kind][not unit.is_metric], strict=True))
    small = 0.001 if unit.is_metric else FOOT if unit is Unit.FEET_TENTHS else INCH
    large = 1.0 if unit.is_metric else FOOT
    typed = {}
    for name, metres in sizes.items():
        size = metres / (large if name == "length" else small)
        typed[name] = f"{round(size, 2 if unit is Unit.FEET_TENTHS else 3):g}"
    return typed


class EdgeForm(EntryForm):
    """What stands along a side, or all round."""

    side = forms.IntegerField(min_value=0, max_value=500)
    what = forms.ChoiceField(
        choices=[(str(kind), words) for kind, words in KINDS.items()], initial=str(EdgeKind.KERB)
    )
    round = forms.BooleanField(required=False)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        usual = usual_sizes(EdgeKind(self.initial.get("what", str(EdgeKind.KERB))), unit)
        self.fields["upstand"] = signed_field(unit)
        self.fields["upstand"].initial = usual["upstand"]
        self.fields["length"] = plan_field(unit, initial=usual["length"])
        for name in ("joint", "width", "height"):
            self.fields[name] = layer_field(unit, initial=usual[name])

    def value(self) -> edgework.EdgePlanned:
        data = self.cleaned_data
        return edgework.EdgePlanned(
            str(data["entry_id"]), data["side"], edgework.EdgeKind(data["what"]), data["upstand"], data["length"],
            data["joint"], data["width"], data["height"],
        )  # fmt: skip


class AcrossForm(forms.Form):
    """Units that are to close a width; nothing of it is recorded."""

    def __init__(self, *arguments: Any, unit: Unit, joint: tuple[float, float, float], **options: Any) -> None:
        super().__init__(*arguments, **options)
        metric = unit.is_metric
        inches = {Unit.FEET_TENTHS: 12}.get(unit, 1)
        for name, mm, inch in (("across", "100", 4), ("along", "200", 8)):
            self.fields[name] = layer_field(unit, initial=mm if metric else f"{inch / inches:.3g}")
        for name, metres in zip(("usual", "least", "most"), joint, strict=True):
            typed = f"{metres * 1000:g}" if metric else f"{metres / 0.0254 / inches:.3g}"
            self.fields[name] = layer_field(unit, initial=typed)

    def courses(self) -> Courses:
        """What was typed, or the usual. Raises `KeyError` where it could not be read."""
        data = self.cleaned_data
        return Courses(*(data[name].metres for name in ("across", "along", "usual", "least", "most")))

    def clean(self) -> dict[str, Any]:
        data: dict[str, Any] = super().clean() or {}
        for name in ("across", "along"):
            if name in data and not 0.01 <= data[name].metres <= 3.0:
                self.add_error(name, _("No unit is that long."))
        if {"least", "most"} <= data.keys() and data["least"].metres > data["most"].metres:
            self.add_error("most", _("Less than the least."))
        return data


class JointForm(EntryForm):
    """Something measured at a joint."""

    edge = forms.UUIDField(widget=Hidden)
    joint = forms.IntegerField(min_value=0, max_value=5000)


class TopForm(JointForm, ReadForm):
    """What was read on top of an edge."""

    set_up = forms.UUIDField(widget=Hidden)

    def __init__(self, *arguments: Any, unit: Unit, method: Method = Method.LASER, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["reading"] = signed_field(unit) if method is Method.HEIGHT_METER else rod_field(unit)

    def value(self) -> edgework.EdgeShot:
        data = self.cleaned_data
        return edgework.EdgeShot(
            str(data["entry_id"]), str(data["edge"]), data["joint"], str(data["set_up"]), data["reading"],
            self.is_sure,
        )  # fmt: skip


class StrungForm(JointForm):
    """How far the top lies below a string over both ends."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["over"], self.fields["reading"] = layer_field(unit), signed_field(unit)

    def value(self) -> edgework.EdgeStrung:
        data = self.cleaned_data
        return edgework.EdgeStrung(
            str(data["entry_id"]), str(data["edge"]), data["joint"], data["over"], data["reading"]
        )  # fmt: skip


class LineForm(JointForm):
    """How far an edge stands off its line."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["off"] = signed_field(unit)

    def value(self) -> edgework.EdgeLined:
        data = self.cleaned_data
        return edgework.EdgeLined(str(data["entry_id"]), str(data["edge"]), data["joint"], data["off"])


class BeddedForm(EntryForm):
    """When bed and haunch were made, and how warm it is to be."""

    edge = forms.UUIDField(widget=Hidden)
    at = MinuteField()
    degrees = degrees()

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.unit = unit

    def value(self) -> edgework.EdgeBedded:
        data = self.cleaned_data
        celsius = celsius_of(data["degrees"], self.unit)
        return edgework.EdgeBedded(str(data["entry_id"]), str(data["edge"]), minute(data), celsius)


class BoardForm(EntryForm):
    """A board of forms, out or in again."""

    edge = forms.UUIDField(widget=Hidden)
    board = forms.IntegerField(min_value=1, max_value=5000)
    out = forms.BooleanField(required=False)

    def value(self) -> edgework.BoardLeft:
        data = self.cleaned_data
        return edgework.BoardLeft(str(data["entry_id"]), str(data["edge"]), data["board"], data["out"])


HELD = {
    "wall": _("a wall that is there"), "paving": _("paving that is there"), "kerb": _("a kerb that is there"),
    "slab": _("a slab that is there"),
}  # fmt: skip


class OfASideForm(EntryForm):
    """Something of a side, by its number from 0."""

    side = forms.IntegerField(min_value=0, max_value=500, widget=Hidden)


class HeldForm(OfASideForm):
    """What is there already and holds the paving along a side."""

    holds = forms.ChoiceField(choices=list(HELD.items()))

    def value(self) -> edgework.SideHeld:
        data = self.cleaned_data
        return edgework.SideHeld(str(data["entry_id"]), data["side"], data["holds"])


class SpikesForm(EntryForm):
    """Spikes counted in a run of edging."""

    edge = forms.UUIDField(widget=Hidden)
    number = forms.IntegerField(min_value=0, max_value=5000)

    def value(self) -> edgework.SpikesDriven:
        data = self.cleaned_data
        return edgework.SpikesDriven(str(data["entry_id"]), str(data["edge"]), data["number"])


class BackfillForm(OfASideForm):
    """How far the soil behind a side lies below the paving."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["below"] = signed_field(unit)

    def value(self) -> edgework.Backfilled:
        data = self.cleaned_data
        return edgework.Backfilled(str(data["entry_id"]), data["side"], data["below"])
