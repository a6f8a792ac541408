"""The brief's forms: the facts of a job, what stands along its sides, the levels it has to meet."""

from collections.abc import Iterable
from typing import Any

from django import forms
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from groundwork.base import Family, catalogue
from groundwork.brief import (
    UNIT_THICKNESS,
    WIDEST_JOINT,
    Brief,
    DustControl,
    HeightKind,
    Neighbour,
    Season,
    Soil,
    Traffic,
)
from groundwork.job import AN_HOUR
from groundwork.measures import INCH, Unit, in_system, inside
from nivelum.jobs.templatetags.measures import TRAFFIC_WORDS
from nivelum.recording.fields import FallField, between, layer_field, plan_field

MARK = "mark"
ALONG = {
    "": gettext_lazy("open ground"),
    "building": gettext_lazy("a building"),
    "drained": gettext_lazy("a building, a drain along it"),
    "drain": gettext_lazy("a drain"),
    "kerb": gettext_lazy("a kerb"),
    "free edge": gettext_lazy("water may leave here"),
}
Choices = list[tuple[str, Any]]


def _choices(kinds: Iterable[Any], words: dict[str, Any]) -> Choices:
    return [(str(kind), words.get(str(kind), kind)) for kind in kinds]


SEASON_WORDS = {"dry": gettext_lazy("dry"), "wet": gettext_lazy("rain"), "freezing": gettext_lazy("frost")}
NEIGHBOUR_WORDS = {
    "none": gettext_lazy("nothing"),
    "dense": gettext_lazy("dense-graded base"),
    "open": gettext_lazy("open-graded base"),
    "bound": gettext_lazy("concrete"),
}
DUST_WORDS = {
    "none": gettext_lazy("not named yet"),
    "water": gettext_lazy("water at the saw"),
    "extraction": gettext_lazy("extraction at the saw"),
    "mask": gettext_lazy("fitted masks, others kept away"),
}


def _pavers(unit: Unit) -> Choices:
    """The units there are, by their keys."""
    units = {m.key: m.title for m in catalogue().values() if m.family in (Family.UNIT, Family.CELLS)}
    return [("", _("not chosen yet")), *((key, in_system(_(title), unit)) for key, title in units.items())]


class BriefForm(forms.Form):
    """The facts of the job, and its area as typed."""

    name = forms.CharField(max_length=80)
    traffic = forms.ChoiceField(
        choices=_choices(Traffic, {str(kind): words for kind, words in TRAFFIC_WORDS.items()}), initial="foot"
    )
    soil = forms.ChoiceField(choices=_choices(Soil, {}), initial="clay")
    frost = forms.BooleanField(required=False)
    season = forms.ChoiceField(choices=_choices(Season, SEASON_WORDS), initial="dry")
    neighbour = forms.ChoiceField(choices=_choices(Neighbour, NEIGHBOUR_WORDS), initial="none")
    raised = forms.BooleanField(required=False)
    engineer = forms.CharField(required=False, max_length=80)
    level_access = forms.CharField(required=False, max_length=400)
    cutting = forms.BooleanField(required=False, initial=True)
    paver = forms.ChoiceField(required=False)
    by_others = forms.BooleanField(required=False)
    sound_slab = forms.BooleanField(required=False)
    dust_control = forms.ChoiceField(choices=_choices(DustControl, DUST_WORDS), initial="none")
    infiltration = forms.FloatField(required=False, min_value=1e-6, max_value=100_000)
    axles = forms.FloatField(required=False, min_value=1, max_value=1e9)
    area_as = forms.ChoiceField(
        choices=[
            ("sides", gettext_lazy("sides and angles")),
            ("corners", gettext_lazy("corners, east and north")),
            ("measured", gettext_lazy("as measured on site: steps, tapes")),
        ],
        initial="sides",
    )
    area = forms.CharField(required=False, max_length=20_000, widget=forms.Textarea, strip=False)
    area_file = forms.FileField(required=False)
    ground = forms.CharField(required=False, max_length=60_000, widget=forms.Textarea, strip=False)
    outlet_name = forms.CharField(required=False, max_length=80)
    outlet_at = forms.CharField(required=False, max_length=40)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        metric = unit.is_metric
        self.unit, self.rain = unit, 0.001 if metric else INCH
        super().__init__(*arguments, **options)
        self.fields |= {
            "paver": forms.ChoiceField(required=False, choices=_pavers(unit)),
            "storm": forms.FloatField(min_value=0, max_value=1000 if metric else 40, initial=50 if metric else 2),
            "spacing": plan_field(unit, initial="2.5" if unit.is_metric else "8"),
            "paver_thickness": layer_field(unit, required=False),
            "joint": layer_field(unit, required=False),
            "outlet_run": plan_field(unit, required=False),
            "outlet_level": plan_field(unit, required=False),
            "outlet_fall": FallField(required=False, initial="1:100"),
            "outlet_cover": layer_field(unit, required=False),
        }

    def clean_spacing(self) -> float:
        spacing = float(self.cleaned_data["spacing"].metres)
        if not 0.5 <= spacing <= 50:
            raise forms.ValidationError(between(0.5, 50, self.unit))
        return spacing

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        wanted = ("outlet_at", "outlet_run", "outlet_level")
        if data.get("outlet_name"):
            for name in wanted:
                if not data.get(name) and name not in self.errors:
                    self.add_error(name, _("An outlet wants this too."))
        if (thick := data.get("paver_thickness")) and not inside(thick.metres, *UNIT_THICKNESS, self.unit):
            self.add_error("paver_thickness", in_system(_("Units are 10 to 300 mm thick."), self.unit))
        if (joint := data.get("joint")) and not inside(joint.metres, 0, WIDEST_JOINT, self.unit):
            self.add_error("joint", in_system(_("Joints are 0 to 50 mm wide."), self.unit))
        if (run := data.get("outlet_run")) and not 0 <= run.metres <= 1000:
            self.add_error("outlet_run", between(0, 1000, self.unit))
        if data.get("outlet_name") and data.get("outlet_fall", 1.0) < 1e-4:
            self.add_error("outlet_fall", _("A pipe has a fall, like 1:100."))
        return data

    def brief(self) -> Brief:
        data = self.cleaned_data
        infiltration = data["infiltration"]
        return Brief(
            Traffic(data["traffic"]),
            Soil(data["soil"]),
            data["frost"],
            Season(data["season"]),
            Neighbour(data["neighbour"]),
            data["raised"],
            data["engineer"],
            data["level_access"],
            data["cutting"],
            DustControl(data["dust_control"]),
            None if infiltration is None else float(f"{infiltration * self.rain / AN_HOUR:.6g}"),
            round(data["storm"] * self.rain, 5),
            data["axles"],
            data["paver"],
            data["paver_thickness"].metres if data["paver_thickness"] else None,
            data["joint"].metres if data["joint"] else None,
            data["by_others"],
            data["sound_slab"],
        )


class SideForm(forms.Form):
    """What stands along one side of the area."""

    along = forms.ChoiceField(choices=list(ALONG.items()), required=False)
    name = forms.CharField(max_length=80, required=False)


class HeightForm(forms.Form):
    """A known level: a mark to look back on, or a height the finished surface has to meet."""

    kind = forms.ChoiceField(
        choices=[
            (HeightKind.THRESHOLD.value, gettext_lazy("threshold")),
            (HeightKind.DAMP_PROOF_COURSE.value, gettext_lazy("damp-proof course")),
            (HeightKind.DRAIN.value, gettext_lazy("drain")),
            (HeightKind.BOUNDARY.value, gettext_lazy("boundary")),
            (MARK, gettext_lazy("mark for the level")),
        ]
    )
    name = forms.CharField(required=False, max_length=80)
    at = forms.CharField(required=False, max_length=40)

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        self.unit = unit
        super().__init__(*arguments, **options)
        self.fields["level"] = plan_field(unit, required=False)
        self.fields["down"] = layer_field(unit, required=False)
        self.fields["up"] = layer_field(unit, required=False)

    @property
    def is_blank(self) -> bool:
        return not any((self[name].value() or "").strip() for name in ("name", "at", "level"))

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if not self.is_blank:
            for name in ("name", "at", "level"):
                if not data.get(name) and name not in self.errors:
                    self.add_error(name, _("This is wanted too."))
        if (level := data.get("level")) and not -1000 <= level.metres <= 9000:
            self.add_error("level", between(-1000, 9000, self.unit))
        for name in ("down", "up"):
            if (play := data.get(name)) and not 0 <= play.metres <= 1:
                self.add_error(name, between(0, 1, self.unit))
        return data


class IslandForm(forms.Form):
    """Something in the area that is not paved: round or square by its middle, or by its corners."""

    kind = forms.ChoiceField(
        choices=[
            ("manhole", gettext_lazy("manhole cover")),
            ("gully", gettext_lazy("gully with its frame")),
            ("tree pit", gettext_lazy("tree pit")),
            ("column", gettext_lazy("column, post")),
            ("pond", gettext_lazy("pond")),
            ("step", gettext_lazy("step")),
        ]
    )
    name = forms.CharField(required=False, max_length=80)
    places = forms.CharField(required=False, max_length=2000)
    size = forms.CharField(required=False, max_length=40)
    turned = forms.CharField(required=False, max_length=12)
    takes_water = forms.BooleanField(required=False)

    @property
    def is_blank(self) -> bool:
        return not any((self[name].value() or "").strip() for name in ("name", "places", "size"))


class ThingForm(forms.Form):
    """Something beside or in the area that does not run along one side."""

    kind = forms.ChoiceField(
        choices=[
            ("drain", gettext_lazy("drain or gully")),
            ("building", gettext_lazy("building")),
            ("kerb", gettext_lazy("kerb")),
            ("free edge", gettext_lazy("edge where water may leave")),
            ("water", gettext_lazy("open water")),
        ]
    )
    name = forms.CharField(required=False, max_length=80)
    places = forms.CharField(required=False, max_length=2000)

    @property
    def is_blank(self) -> bool:
        return not any((self[name].value() or "").strip() for name in ("name", "places"))
