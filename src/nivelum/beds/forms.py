"""What the Bedding room's forms send."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from groundwork import bedwork
from groundwork.measures import FOOT, Unit
from groundwork.tools import Method
from nivelum.lifts.forms.amounts import AmountField, celsius_of, degrees, percent
from nivelum.readings.forms import signed_field
from nivelum.recording.fields import Hidden, layer_field, plan_field, rod_field
from nivelum.recording.forms import EntryForm, ReadForm
from nivelum.recording.moments import MinuteField, minute

WAYS = [("along", _("down the fall")), ("across", _("across the fall"))]
ENDS = [("start", "start"), ("end", "end")]
MOST_PEOPLE, MOST_HOURS = 50, 24.0
CLOSED = {"laid": _("laid on"), "sheeted": _("sheeted"), "raked off": _("raked off")}
ENDED = {"used up": _("used up"), "thrown away": _("thrown away")}


class PlanForm(EntryForm):
    """How rails are to lie."""

    way = forms.ChoiceField(choices=WAYS, initial="along")

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        metric = unit.is_metric
        tube = {Unit.FEET_INCHES: "1", Unit.FEET_TENTHS: "0.08"}.get(unit, "25")
        self.fields["board"] = plan_field(unit, initial="2" if metric else "6")
        self.fields["tube"] = layer_field(unit, initial=tube)
        self.fields["longest"] = plan_field(unit, initial="3" if metric else "10")

    def value(self) -> bedwork.RailsPlanned:
        data = self.cleaned_data
        return bedwork.RailsPlanned(
            str(data["entry_id"]), data["board"], data["way"], data["tube"], data["longest"]
        )  # fmt: skip


class RailForm(EntryForm):
    """Something measured of one rail."""

    plan = forms.UUIDField(widget=Hidden)
    rail = forms.CharField(max_length=10, widget=Hidden)


class RailShotForm(RailForm, ReadForm):
    """What was read on top of a rail."""

    end = forms.ChoiceField(choices=ENDS, widget=Hidden)
    set_up = forms.UUIDField(widget=Hidden)

    def __init__(self, *arguments: Any, unit: Unit, method: Method = Method.LASER, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["reading"] = signed_field(unit) if method is Method.HEIGHT_METER else rod_field(unit)

    def value(self) -> bedwork.RailShot:
        data = self.cleaned_data
        return bedwork.RailShot(
            str(data["entry_id"]), str(data["plan"]), data["rail"], data["end"], str(data["set_up"]),
            data["reading"], self.is_sure,
        )  # fmt: skip


class DipForm(RailForm):
    """The gap under a string along a rail."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["gap"] = layer_field(unit)

    def value(self) -> bedwork.RailDipped:
        data = self.cleaned_data
        return bedwork.RailDipped(str(data["entry_id"]), str(data["plan"]), data["rail"], data["gap"])


class TrialForm(EntryForm):
    """A unit of the trial patch, before and after."""

    where = forms.CharField(max_length=80)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["before"], self.fields["after"] = layer_field(unit), layer_field(unit)

    def value(self) -> bedwork.TrialSeated:
        data = self.cleaned_data
        return bedwork.TrialSeated(str(data["entry_id"]), data["where"], data["before"], data["after"])


class TodayForm(forms.Form):
    """Who lays, and how long before work stops or the rain comes; nothing of it is recorded."""

    people = forms.IntegerField(min_value=1, max_value=MOST_PEOPLE, initial=2)
    hours = forms.FloatField(min_value=0, max_value=MOST_HOURS, initial=4)


class BayForm(EntryForm):
    """Something done in one bay."""

    plan = forms.UUIDField(widget=Hidden)
    bay = forms.CharField(max_length=10, widget=Hidden)

    @property
    def own(self) -> tuple[str, str, str]:
        data = self.cleaned_data
        return str(data["entry_id"]), str(data["plan"]), data["bay"]


class ScreededForm(BayForm):
    """A bay screeded, now or at a minute."""

    at = MinuteField()

    def value(self) -> bedwork.BayScreeded:
        return bedwork.BayScreeded(*self.own, minute(self.cleaned_data))


class CheckedForm(BayForm):
    """Gaps under the straightedge."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["along"], self.fields["across"] = layer_field(unit), layer_field(unit)

    def value(self) -> bedwork.BayChecked:
        return bedwork.BayChecked(*self.own, self.cleaned_data["along"], self.cleaned_data["across"])


class ClosedForm(BayForm):
    """A bay that lies open no longer."""

    how = forms.ChoiceField(choices=list(CLOSED.items()))

    def value(self) -> bedwork.BayClosed:
        return bedwork.BayClosed(*self.own, self.cleaned_data["how"])


class BatchForm(EntryForm):
    """A batch of mortar."""

    at = MinuteField()
    parts = forms.FloatField(min_value=bedwork.PARTS[0], max_value=bedwork.PARTS[1], initial=4)
    degrees = degrees()

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.unit = unit
        each = 0.001 if unit.is_metric else FOOT**3
        self.fields["amount"] = AmountField(each, 0.1, bedwork.MOST_MIXED / each)

    def value(self) -> bedwork.BatchMixed:
        data = self.cleaned_data
        celsius = celsius_of(data["degrees"], self.unit)
        return bedwork.BatchMixed(
            str(data["entry_id"]), minute(data), data["parts"], round(data["amount"], 5), celsius
        )


class BatchEndedForm(EntryForm):
    """What became of a batch."""

    batch = forms.UUIDField(widget=Hidden)
    how = forms.ChoiceField(choices=list(ENDED.items()))

    def value(self) -> bedwork.BatchEnded:
        data = self.cleaned_data
        return bedwork.BatchEnded(str(data["entry_id"]), str(data["batch"]), data["how"])


class FlagForm(EntryForm):
    """A flag lifted to look at its back."""

    where = forms.CharField(max_length=80)
    contact = percent(100)

    def value(self) -> bedwork.FlagLifted:
        data = self.cleaned_data
        return bedwork.FlagLifted(str(data["entry_id"]), data["where"], data["contact"])


class FlagSizeForm(forms.Form):
    """The flags' size, to say what one weighs and how many are lifted; nothing of it is recorded."""

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        typed = {Unit.FEET_INCHES: "24", Unit.FEET_TENTHS: "2"}.get(unit, "600")
        self.fields["long"], self.fields["wide"] = (layer_field(unit, initial=typed) for _side in (0, 1))

    def clean(self) -> dict[str, Any]:
        data: dict[str, Any] = super().clean() or {}
        for name in ("long", "wide"):
            if name in data and not 0.05 <= data[name].metres <= 3.0:
                self.add_error(name, _("No flag is that long."))
        return data
