"""What the Laying room's forms send."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from groundwork import laywork as w
from groundwork.job import Job
from groundwork.laying import VIBRATION, WHERE
from groundwork.measures import FOOT, Unit, parse_tape
from groundwork.pattern import patterns
from nivelum.lifts.forms.amounts import AmountField
from nivelum.recording.fields import Hidden, MeasuredField, PhotoField, layer_field, plan_field
from nivelum.recording.forms import EntryForm, ReadForm

BORDERS = [
    ("none", _("no border")), ("across", _("a course, ends out")), ("along", _("a course, sides out")),
    ("double", _("two courses, sides out")),
]  # fmt: skip
CORNERS = [
    ("mitred", _("mitred")),
    ("butted", _("butted, opposite sides through")),
    ("turned", _("turned, each on the next")),
]
TURNS = [
    (0, _("along the string")),
    (90, _("across it")),
    (45, _("at 45° to the left")),
    (135, _("at 45° to the right")),
]
PLACES = {"left": _("left"), "middle": _("middle"), "right": _("right")}


class LayoutTry(forms.Form):
    """A layout as it is typed: nothing of it is recorded."""

    border = forms.ChoiceField(choices=BORDERS, initial="none")
    corner = forms.ChoiceField(choices=CORNERS, initial="mitred")
    turned = forms.TypedChoiceField(choices=TURNS, coerce=int, initial=0)
    seed = forms.IntegerField(min_value=1, max_value=9999, initial=1)

    def __init__(self, *arguments: Any, job: Job, **options: Any) -> None:
        super().__init__(*arguments, **options)
        sides = [(n, str(n + 1)) for n in range(len(job.outline))]
        self.fields["side"] = forms.TypedChoiceField(choices=sides, coerce=int)
        self.fields["pattern"] = forms.ChoiceField(choices=[(key, _(each.title)) for key, each in patterns().items()])
        for name in ("length", "width", "joint"):
            self.fields[name] = layer_field(job.unit)
        for name in ("over", "ahead"):
            self.fields[name] = plan_field(job.unit, initial="0")

    def chosen(self, name: str) -> w.LayoutChosen:
        """The layout it says, once it is valid."""
        data = self.cleaned_data
        long, wide = data["length"], data["width"]
        if wide.metres > long.metres:
            long, wide = wide, long
        return w.LayoutChosen(
            name, data["pattern"], long, wide, data["joint"], data["side"], data["turned"],
            round(data["over"].metres, 4), round(data["ahead"].metres, 4), data["border"], data["corner"],
            data["seed"],
        )  # fmt: skip


class LayoutForm(LayoutTry, EntryForm):
    """A layout to keep."""

    def value(self) -> w.LayoutChosen:
        return self.chosen(str(self.cleaned_data["entry_id"]))


class OfLayoutForm(EntryForm):
    """Something of a layout."""

    layout = forms.UUIDField(widget=Hidden)

    @property
    def own(self) -> tuple[str, str]:
        return str(self.cleaned_data["entry_id"]), str(self.cleaned_data["layout"])


class SharesForm(OfLayoutForm):
    """Pieces to cut anew with the unit beside each; their names between blanks."""

    pieces = forms.CharField(max_length=20_000, widget=Hidden)

    def value(self) -> w.PiecesShared:
        return w.PiecesShared(*self.own, tuple(self.cleaned_data["pieces"].split()[:2000]))


class RowForm(OfLayoutForm, ReadForm):
    """What was taped from the string to a row."""

    row = forms.IntegerField(min_value=1, max_value=100_000, widget=Hidden)
    where = forms.ChoiceField(choices=[(each, each) for each in WHERE], widget=Hidden)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["reading"] = MeasuredField(parse_tape, unit=unit)

    def value(self) -> w.CourseTaped:
        data = self.cleaned_data
        return w.CourseTaped(*self.own, data["row"], data["where"], data["reading"], self.is_sure)


class ModuleForm(OfLayoutForm):
    """Ten units taped."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["tape"] = layer_field(unit)

    def value(self) -> w.ModuleTaped:
        return w.ModuleTaped(*self.own, self.cleaned_data["tape"])


class SquareForm(OfLayoutForm):
    """A triangle taped on the first rows."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        for name in ("along", "across", "diagonal"):
            self.fields[name] = plan_field(unit)

    def value(self) -> w.RowsSquared:
        data = self.cleaned_data
        return w.RowsSquared(*self.own, data["along"], data["across"], data["diagonal"])


class LaidForm(OfLayoutForm):
    """How far it is laid."""

    row = forms.IntegerField(min_value=0, max_value=100_000)
    hours = AmountField(1, 0.1, 500, required=False)

    def value(self) -> w.RowsLaid:
        return w.RowsLaid(*self.own, self.cleaned_data["row"], self.cleaned_data["hours"])


class CutForm(OfLayoutForm):
    """A piece that is cut and laid."""

    piece = forms.CharField(max_length=20, widget=Hidden)

    def value(self) -> w.PieceCut:
        return w.PieceCut(*self.own, self.cleaned_data["piece"])


class PackForm(EntryForm):
    """A pack that was opened."""

    code = forms.CharField(max_length=40)
    units = forms.IntegerField(min_value=1, max_value=100_000)
    photo = PhotoField(required=False)

    def value(self) -> w.PackOpened:
        data = self.cleaned_data
        photo = data["photo"].hash if data["photo"] else ""
        return w.PackOpened(str(data["entry_id"]), data["code"].strip(), data["units"], photo)


class EmptiedForm(EntryForm):
    """A pack that is used up."""

    pack = forms.UUIDField(widget=Hidden)

    def value(self) -> w.PackEmptied:
        return w.PackEmptied(str(self.cleaned_data["entry_id"]), str(self.cleaned_data["pack"]))


class PalletForm(forms.Form):
    """How much comes in a pack; nothing of it is recorded."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["pack"] = AmountField(1.0 if unit.is_metric else FOOT**2, 0.1, 1000)


class SawForm(forms.Form):
    """How a saw shakes; nothing of it is recorded."""

    vibration = AmountField(1, 0.5, 50, initial=f"{VIBRATION:g}")


class SparesForm(EntryForm):
    """Units kept for repairs."""

    left = forms.IntegerField(min_value=0, max_value=100_000)
    where = forms.CharField(max_length=80, required=False)

    def value(self) -> w.SparesLeft:
        data = self.cleaned_data
        return w.SparesLeft(str(data["entry_id"]), data["left"], data["where"].strip())
