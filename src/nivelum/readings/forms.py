"""What the pad sends."""

import math
from typing import Any
from uuid import UUID

from django import forms
from django.utils.translation import gettext_lazy as _

from groundwork import entries
from groundwork.assess import Assessment
from groundwork.levels import HIGHEST_TIE, Bubble, SpiritLevel, tied
from groundwork.measures import FOOT, Measured, Unit, parse_bar, parse_signed
from groundwork.tools import Instrument, Method
from nivelum.recording.fields import Hidden, MeasuredField, between, layer_field, rod_field
from nivelum.recording.forms import EntryForm, ReadForm

FARTHEST = 10_000


def signed_field(unit: Unit, required: bool = True) -> MeasuredField:
    """A length that may be below nothing."""
    return MeasuredField(parse_signed, unit=unit, required=required)


class ReadingForm(ReadForm):
    """A reading at a station."""

    station = forms.CharField(max_length=10, widget=Hidden)
    surface = forms.CharField(max_length=40, required=False, widget=Hidden)
    set_up = forms.UUIDField(widget=Hidden)
    same_ground = forms.BooleanField(required=False)

    def __init__(self, *arguments: Any, unit: Unit, method: Method = Method.LASER, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["reading"] = signed_field(unit) if method is Method.HEIGHT_METER else rod_field(unit)

    def value(self) -> entries.Reading:
        data = self.cleaned_data
        return entries.Reading(
            str(data["entry_id"]),
            data["station"],
            str(data["set_up"]),
            data["reading"],
            data["same_ground"],
            data["surface"] or "formation",
            sure=self.is_sure,
        )


def known_points(assessment: Assessment) -> list[tuple[str, str]]:
    """Marks, then turning points that stand, newest first: what the level can look back on."""
    levels = assessment.levels
    turning = [p for p in reversed(levels.runs.turning_points) if levels.runs.level_of(p) is not None]
    names = [name for name in (*levels.marks, *turning) if name not in assessment.logbook.knocked]
    return [(name, name) for name in names]


class AnchorForm(EntryForm):
    """What a tool stands on; each kind says how it is made."""

    def __init__(self, *arguments: Any, assessment: Assessment, instrument: Instrument, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.assessment, self.instrument = assessment, instrument
        self.lay_out()

    def lay_out(self) -> None:
        """Adds the fields that depend on the job."""

    def _of_marks(self) -> forms.ChoiceField:
        points = known_points(self.assessment)
        first = points[0][0] if points else None
        unknown = {"invalid_choice": _("The level of %(value)s is not known, or it was knocked: choose another.")}
        return forms.ChoiceField(choices=points, initial=first, widget=forms.RadioSelect, error_messages=unknown)


class SetUpForm(AnchorForm):
    def lay_out(self) -> None:
        self.a_step = 1.0 if self.assessment.job.unit.is_metric else FOOT
        """What a place is typed in, metres."""
        most = FARTHEST / self.a_step
        for name in ("east", "north"):
            self.fields[name] = forms.FloatField(required=False, min_value=-most, max_value=most)
        self.fields["mark"] = self._of_marks()
        self.fields["backsight"] = rod_field(self.assessment.job.unit)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        east, north = data.get("east"), data.get("north")
        if (east is None) != (north is None) and not {"east", "north"} & set(self.errors):
            self.add_error("east" if east is None else "north", _("Give both, or neither."))
        if any(number is not None and not math.isfinite(number) for number in (east, north)):
            self.add_error("east", _("A place has finite numbers."))
        return data

    def value(self) -> entries.SetUp:
        data = self.cleaned_data
        at = None if data["east"] is None else (data["east"] * self.a_step, data["north"] * self.a_step)
        return entries.SetUp(str(data["entry_id"]), data["mark"], data["backsight"], self.instrument, at)


class StringForm(AnchorForm):
    """A string over two stations, so high above the finished level there, or level from the first."""

    level = forms.BooleanField(required=False)

    def lay_out(self) -> None:
        names = [(s.name, s.name) for s in self.assessment.job.stations]
        unit = self.assessment.job.unit
        self.fields["start"] = forms.ChoiceField(choices=names)
        self.fields["end"] = forms.ChoiceField(choices=names)
        self.fields["start_height"] = layer_field(unit)
        self.fields["end_height"] = layer_field(unit, required=False)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if data.get("start") and data.get("start") == data.get("end"):
            self.add_error("end", _("A string goes to another place."))
        height: Measured | None = data.get("start_height")
        if height and not 0 < height.metres <= HIGHEST_TIE:
            self.add_error("start_height", between(0, HIGHEST_TIE, self.assessment.job.unit))
        return data

    def value(self) -> entries.StringLine:
        data, stations = self.cleaned_data, {s.name: s for s in self.assessment.job.stations}
        height = data["start_height"]
        return tied(
            str(data["entry_id"]), self.assessment.job.design, stations[data["start"]], stations[data["end"]], height,
            None if data["level"] else data["end_height"] or height, self.instrument,
        )  # fmt: skip


class MeterForm(AnchorForm):
    def lay_out(self) -> None:
        self.fields["mark"] = self._of_marks()
        self.fields["shows"] = MeasuredField(parse_signed, unit=self.assessment.job.unit, required=False)

    def value(self) -> entries.MeterBase:
        data = self.cleaned_data
        shows = data["shows"] or Measured("0", 0.0)
        return entries.MeterBase(str(data["entry_id"]), data["mark"], shows, self.instrument)


class TapeForm(AnchorForm):
    def value(self) -> entries.TapeDatum:
        return entries.TapeDatum(str(self.cleaned_data["entry_id"]), self.instrument)


ANCHOR_FORMS: dict[Method, type[AnchorForm]] = {
    Method.LASER: SetUpForm,
    Method.OPTICAL: SetUpForm,
    Method.STRING: StringForm,
    Method.HEIGHT_METER: MeterForm,
    Method.TAPE: TapeForm,
}


class SightForm(EntryForm):
    """A sight on a mark, to check or close, or on a new turning point."""

    set_up = forms.UUIDField(widget=Hidden)

    def __init__(self, *arguments: Any, assessment: Assessment, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.turning = new_turning_point(assessment)
        marks = [name for name in assessment.levels.marks if name not in assessment.logbook.knocked]
        self.fields["point"] = forms.ChoiceField(
            choices=[(name, name) for name in (self.turning, *marks)], initial=self.turning, widget=forms.RadioSelect
        )
        self.fields["reading"] = rod_field(assessment.job.unit)

    def value(self) -> entries.Foresight:
        data = self.cleaned_data
        return entries.Foresight(str(data["entry_id"]), str(data["set_up"]), data["point"], data["reading"])


def new_turning_point(assessment: Assessment) -> str:
    """The next name of its kind: T1, T2 …, those struck out not used again."""
    used = {e.point for e in assessment.job.entries if isinstance(e, entries.Foresight)}
    used |= set(assessment.levels.marks)
    return next(name for name in (f"T{n}" for n in range(1, len(used) + 2)) if name not in used)


class FallForm(EntryForm):
    """A fall by straightedge: the gap under its far end, or where the bubble of the crew's own level stands."""

    station = forms.CharField(max_length=10, widget=Hidden)
    surface = forms.CharField(max_length=40, required=False, widget=Hidden)
    end = forms.CharField(max_length=10)

    bubble = forms.ChoiceField(
        required=False,
        choices=[
            ("", _("measured")),
            (Bubble.TOUCHING.value, _("by the bubble: touching its line")),
            (Bubble.HALF_OUT.value, _("by the bubble: half out")),
        ],
    )

    def __init__(
        self, *arguments: Any, unit: Unit, instrument: Instrument, level: SpiritLevel | None = None, **options: Any
    ) -> None:
        super().__init__(*arguments, **options)
        self.instrument, self.level = instrument, level or SpiritLevel()
        self.fields["length"] = MeasuredField(parse_bar, unit=unit)
        self.fields["gap"] = signed_field(unit, required=not self["bubble"].value())

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if data.get("bubble") and data.get("length"):
            try:
                read = self.level.read(Bubble(data["bubble"]), data["length"].metres, self.instrument)
                data["gap"], self.instrument = read
            except ValueError:
                self.add_error("bubble", _("Lay this level on a known fall first, on its own page in the kit."))
        return data

    def value(self) -> entries.FallCheck:
        data = self.cleaned_data
        return entries.FallCheck(
            str(data["entry_id"]), data["station"], data["end"], data["length"], data["gap"],
            data["surface"] or "formation", self.instrument,
        )  # fmt: skip


class FillForm(EntryForm):
    station = forms.CharField(max_length=10, widget=Hidden)
    material = forms.ChoiceField(choices=[("stone", _("base stone")), ("soil", _("soil"))])
    lifts = forms.IntegerField(min_value=1, max_value=50, initial=1)

    def value(self) -> entries.Fill:
        data = self.cleaned_data
        return entries.Fill(str(data["entry_id"]), data["station"], data["material"], data["lifts"])


class CorrectionForm(EntryForm):
    """What an earlier entry should have read."""

    corrects = forms.UUIDField(widget=Hidden)
    reason = forms.CharField(max_length=400, required=False)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["reading"] = rod_field(unit)

    def value(self) -> entries.Correction:
        data = self.cleaned_data
        return entries.Correction(str(data["entry_id"]), str(data["corrects"]), data["reading"], data["reason"])


class DisturbanceForm(EntryForm):
    """A mark or turning point was knocked, from some set-up on it on, or nobody knows since when."""

    point = forms.CharField(max_length=80)
    since = forms.CharField(max_length=40, required=False)

    def value(self) -> entries.Disturbance:
        data = self.cleaned_data
        since = data["since"]
        try:
            since = str(UUID(since)) if since else ""
        except ValueError:
            since = ""
        return entries.Disturbance(str(data["entry_id"]), data["point"], since)
