"""What the crew's own pages send."""

from typing import Any, cast
from zoneinfo import available_timezones

from django import forms
from django.core.exceptions import ValidationError
from django.core.validators import BaseValidator
from django.db.models import Field
from django.utils.translation import gettext
from django.utils.translation import gettext_lazy as _

from groundwork.levels import SpiritLevel
from groundwork.measures import (
    FOOT,
    INCH,
    LONGEST_TEXT,
    MeasureError,
    Unit,
    in_words,
    parse_fall,
    parse_length,
    parse_rod,
)
from groundwork.tools import USUAL
from nivelum.crews.models import Crew, PegTest, Tool, ToolMethod


def checked_zone(typed: str) -> str:
    """A time zone by its name. Raises `ValidationError`."""
    known = next((each for each in available_timezones() if each.casefold() == typed.strip().casefold()), None)
    if known is None:
        raise ValidationError(_("No time zone is called that: Europe/London, America/Chicago, Australia/Perth."))
    return known


class CrewForm(forms.ModelForm):  # type: ignore[type-arg] # generic in the stubs only
    class Meta:
        model = Crew
        fields = ["name", "rod", "region", "time_zone", "keeps_places"]
        widgets = {"rod": forms.RadioSelect, "region": forms.RadioSelect}

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["time_zone"].required = False  # left out, it stays

    def clean_time_zone(self) -> str:
        typed: str = self.cleaned_data["time_zone"]
        return checked_zone(typed) if typed else self.initial["time_zone"]


class PinForm(forms.Form):
    """One's own PIN, twice, so that it is the one that was meant."""

    pin = forms.CharField(max_length=20, label=_("New PIN"))
    again = forms.CharField(max_length=20, label=_("Once more"))

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if data.get("pin") and data.get("again") and data["pin"] != data["again"]:
            self.add_error("again", _("That is another one."))
        return data


_IN_RODS = {
    Unit.MILLIMETRES: (1.0, 1.0),
    Unit.METRES: (1.0, 1.0),
    Unit.FEET_INCHES: (INCH * 1000, INCH / (100 * FOOT) * 1000),
    Unit.FEET_TENTHS: (FOOT * 1000, 10.0),
}
"""How sure a reading is and what distance adds are typed in: in millimetres and millimetres a metre, what one of it
is. Millimetres; inches, and inches in 100 feet; feet, and feet in 100 feet."""


def _limits(name: str) -> tuple[float, float]:
    """The least and the most a tool may have, mm."""
    field = cast("Field[Any, Any]", Tool._meta.get_field(name))
    least, most = (cast(BaseValidator, limit).limit_value for limit in field.validators)
    return least, most


def usual(unit: Unit) -> str:
    """What is usual of each tool, in what its form is typed in."""
    size, rate = _IN_RODS[unit]
    said = []
    for method, (sure, adds) in USUAL.items():
        told = f"{ToolMethod(method.value).label} {sure * 1000 / size:.2g}"
        said.append(f"{told} + {adds * 1000 / rate:.2g}" if adds else told)
    return ", ".join(said)


def sureness(tool: Tool, unit: Unit) -> tuple[str, str]:
    """How sure a reading with a tool is, and what distance adds, as they are typed."""
    size, rate = _IN_RODS[unit]
    return f"{tool.reading_u / size:.3g}", f"{tool.rate / rate:.3g}"


class ToolForm(forms.ModelForm):  # type: ignore[type-arg] # generic in the stubs only
    """A tool of the kit. A tool in use keeps its method: what was read with it was read that way."""

    class Meta:
        model = Tool
        fields = ["name", "method", "reading_u", "rate", "retired"]

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.unit = unit
        self.sizes = {"reading_u": _IN_RODS[unit][0], "rate": _IN_RODS[unit][1]}
        for name, size in self.sizes.items():
            least, most = (float(f"{limit / size:.2g}") for limit in _limits(name))
            self.fields[name] = forms.FloatField(min_value=least, max_value=most, widget=forms.TextInput)
            known = getattr(self.instance, name)
            self.initial[name] = "" if known is None else f"{known / size:.3g}"
        self.fields["method"].disabled = not self.instance._state.adding
        for name in ("touching", "half_out"):
            known = getattr(self.instance, name)
            typed = f"1:{1 / known:.4g}" if known else ""
            self.fields[name] = forms.CharField(required=False, max_length=LONGEST_TEXT, initial=typed)

    def _sure(self, name: str) -> float:
        """How sure, in millimetres; of a field nobody touched what stood there."""
        known: float = getattr(self.instance, name)
        typed: float = self.cleaned_data[name]
        least, most = _limits(name)
        return min(max(typed * self.sizes[name], least), most) if name in self.changed_data else known

    def clean_reading_u(self) -> float:
        return self._sure("reading_u")

    def clean_rate(self) -> float:
        return self._sure("rate")

    def _fall(self, name: str) -> float | None:
        """The fall typed; of a field nobody touched what stood there."""
        if name not in self.changed_data:
            known: float | None = getattr(self.instance, name)
            return known
        try:
            return parse_fall(self.cleaned_data[name]) or None if self.cleaned_data[name].strip() else None
        except MeasureError as error:
            raise forms.ValidationError(in_words(error, self.unit, gettext)) from error

    def clean_touching(self) -> float | None:
        return self._fall("touching")

    def clean_half_out(self) -> float | None:
        return self._fall("half_out")

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        try:
            SpiritLevel(data.get("touching"), data.get("half_out"))
        except ValueError:
            self.add_error("half_out", _("The bubble touches its line at less fall than it stands half out."))
        return data

    def save(self, commit: bool = True) -> Tool:
        self.instance.touching, self.instance.half_out = (self.cleaned_data[n] for n in ("touching", "half_out"))
        saved: Tool = super().save(commit)
        return saved

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
                self.add_error(name, in_words(error, self.unit, gettext))
        if not self.errors:
            try:
                believable = self.test().two_peg.is_believable
            except ValueError as error:
                self.add_error("to_a", in_words(error, self.unit, gettext))
            else:
                if not believable:
                    self.add_error("near_b", _("That is more than any level is out: read the four again."))
        return data

    def test(self) -> PegTest:
        return PegTest(**{name: self.cleaned_data[name] for name in (*READINGS, *DISTANCES)})
