"""What the Base room's leaves send."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from functools import lru_cache
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.http import QueryDict
from django.utils.translation import get_language, gettext_lazy
from django.utils.translation import gettext as _

from groundwork import job as core
from groundwork.base import BaseSpecification, Details, GridJoints, Joint, Layer, Reinforcement, Role, catalogue
from groundwork.brief import ConeLog
from groundwork.falls import FallRange
from groundwork.measures import MeasureError, Unit, format_place, in_system, in_words
from groundwork.plan import LayoutError, Piece, as_drawn, line, meeting_at, one_plane, to_gully
from groundwork.schools import school, schools
from groundwork.soundness import with_margin
from groundwork.strength import ConeLogError, parse_log
from nivelum.recording.fields import FallField, Hidden, bare, between, layer_field, plan_field
from nivelum.recording.forms import EntryForm

NOTHING = ""


EARLY_EDGES = [
    ("", gettext_lazy("as the school has it")),
    ("forms", gettext_lazy("forms, before the base")),
    ("kerbs", gettext_lazy("kerbs, before the base")),
]


class KeepForm(EntryForm):
    """What goes with every change of the design: which version it was made on, and what its maker knows it
    overtakes."""

    version = forms.IntegerField(widget=Hidden)
    knows = forms.CharField(required=False, max_length=200, widget=Hidden)

    def known(self) -> list[str]:
        return str(self.cleaned_data["knows"]).split()


class SpecificationForm(forms.Form):
    """Every layer's thickness and material, and the details beside them. A layer with no thickness is left out."""

    def __init__(self, *arguments: Any, job: core.Job, **options: Any) -> None:
        self.job = job
        self.before = job.specification
        unit, details = job.unit, self.before.details
        super().__init__(*arguments, **options)
        self.rows = list(_rows(self.before))
        for key, role, layer in self.rows:
            thickness = "" if layer is None else bare(layer.thickness, unit)
            self.fields[f"{key}-thickness"] = layer_field(unit, required=role is Role.PAVING, initial=thickness)
            materials = _materials(self.before.school, role, layer, unit)
            first = layer.material if layer else next(iter(materials), None)
            self.fields[f"{key}-material"] = forms.ChoiceField(
                choices=list(materials.items()), initial=first, required=False
            )
            if role is not Role.PAVING:
                under = layer is not None and role in details.fabric_under
                self.fields[f"{key}-fabric"] = forms.BooleanField(required=False, initial=under)
        maker = details.joint.maker_range
        self.fields |= {
            "settlement": layer_field(unit, initial=bare(self.before.settlement, unit)),
            "joint_width": layer_field(unit, initial=bare(details.joint.width, unit)),
            "joint_fill": forms.ChoiceField(choices=_fills(details.joint.fill), initial=details.joint.fill),
            "maker_least": layer_field(unit, required=False, initial=bare(maker[0], unit) if maker else ""),
            "maker_most": layer_field(unit, required=False, initial=bare(maker[1], unit) if maker else ""),
            "fabric_overlap": layer_field(unit, initial=bare(details.fabric_overlap, unit)),
            "side_fabric": forms.BooleanField(required=False, initial=details.side_fabric),
            "dense_strip": forms.BooleanField(required=False, initial=details.dense_strip),
            "geogrid": forms.ChoiceField(
                choices=[(NOTHING, _("no geogrid")), *((str(g), _(g.value)) for g in GridJoints)],
                initial=details.geogrid or NOTHING, required=False,
            ),
            "reinforcement": forms.ChoiceField(
                choices=[(str(r), _(r.value)) for r in Reinforcement], initial=str(details.reinforcement)
            ),
            "concrete_joints": plan_field(
                unit, required=False,
                initial="" if details.concrete_joints is None else format_place(details.concrete_joints, unit),
            ),
            "margin": layer_field(unit, initial=bare(details.margin, unit)),
            "early_edge": forms.ChoiceField(choices=EARLY_EDGES, initial=details.early_edge, required=False),
        }  # fmt: skip

    def layer_rows(self) -> list[dict[str, Any]]:
        """The rows for the template: role, the bound fields, and whether the layer is there now."""
        return [
            {
                "role": role,
                "there": layer is not None,
                "thickness": self[f"{key}-thickness"],
                "material": self[f"{key}-material"],
                "fabric": self[f"{key}-fabric"] if f"{key}-fabric" in self.fields else None,
            }
            for key, role, layer in self.rows
        ]

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if self.errors:
            return data
        layers, under = [], set()
        for key, role, layer in self.rows:
            thickness = data[f"{key}-thickness"]
            if thickness is None or thickness.metres == 0:
                continue
            if not data[f"{key}-material"]:
                self.add_error(f"{key}-material", _("Say what it is made of."))
                return data
            same = layer is not None and f"{key}-thickness" not in self.changed_data
            layers.append(
                Layer(role, data[f"{key}-material"], layer.thickness if same and layer else thickness.metres)
            )
            if data.get(f"{key}-fabric"):
                under.add(role)
        for name in ("joint_width", "margin", "fabric_overlap", "settlement"):
            if not 0 <= data[name].metres <= 3:
                self.add_error(name, between(0, 3, self.job.unit))
        least, most = data["maker_least"], data["maker_most"]
        if (least is None) != (most is None) or (least and most and least.metres > most.metres):
            self.add_error("maker_most", _("Give both, the least first, or neither."))
        apart = data["concrete_joints"]
        if apart is not None and not 0 < apart.metres <= 100:
            self.add_error("concrete_joints", between(0, 100, self.job.unit))
        if not self.errors:
            self._build(data, tuple(layers), frozenset(under))
        return data

    def _build(self, data: Mapping[str, Any], layers: tuple[Layer, ...], under: frozenset[Role]) -> None:
        was, touched = self.before.details, set(self.changed_data)

        def metres(name: str, before: float) -> float:
            """What was typed; of a field nobody touched what stood there, which may be finer than it is shown."""
            return float(data[name].metres) if name in touched else before

        maker = was.joint.maker_range
        if touched & {"maker_least", "maker_most"}:
            maker = (data["maker_least"].metres, data["maker_most"].metres) if data["maker_least"] else None
        apart = was.concrete_joints
        if "concrete_joints" in touched:
            apart = data["concrete_joints"].metres if data["concrete_joints"] else None
        details = Details(
            fabric_under=under,
            fabric_overlap=metres("fabric_overlap", was.fabric_overlap),
            side_fabric=data["side_fabric"],
            dense_strip=data["dense_strip"],
            geogrid=GridJoints(data["geogrid"]) if data["geogrid"] else None,
            reinforcement=Reinforcement(data["reinforcement"]),
            concrete_joints=apart,
            joint=Joint(metres("joint_width", was.joint.width), data["joint_fill"], maker),
            margin=metres("margin", was.margin),
            early_edge=data["early_edge"],
        )
        try:
            settlement = metres("settlement", self.before.settlement)
            built = replace(self.before, layers=layers, settlement=settlement, details=details)
            self.specification = with_margin(self.before, built, self.job)
        except ValueError as error:
            self.add_error(_to_blame(str(error), self.rows), in_words(error, self.job.unit, _))


def _to_blame(message: str, rows: list[tuple[str, Role, Layer | None]]) -> str:
    """The field a message of the base belongs to: the layer it names, or the settlement."""
    named = next((key for key, role, _layer in rows if message.startswith(f"{role} of")), None)
    return f"{named}-thickness" if named else "settlement"


def _rows(specification: BaseSpecification) -> Iterable[tuple[str, Role, Layer | None]]:
    """The layers there are, and a blank one for each role there is none of, in the order they lie."""
    for role in Role:
        slug = role.replace(" ", "-")
        layers = [layer for layer in specification.layers if layer.role is role]
        for number, layer in enumerate(layers or [None]):
            yield f"{slug}-{number}", role, layer


def _materials(key: str, role: Role, layer: Layer | None, unit: Unit) -> dict[str, str]:
    """What a layer may be made of: what it is, what the school uses, everything else used in that place."""
    return _materials_in(get_language(), key, role, layer.material if layer else None, unit)


@lru_cache(maxsize=512)
def _materials_in(language: str | None, key: str, role: Role, present: str | None, unit: Unit) -> dict[str, str]:
    used = list(school(key).by_role[role].materials) if role in school(key).by_role else []
    others = [m for s in schools().values() if role in s.by_role for m in s.by_role[role].materials]
    if role is Role.BEDDING:
        others.append(catalogue()["stone-dust"])
    first = [catalogue()[present]] if present else []
    return {m.key: in_system(_(m.title), unit) for m in (*first, *used, *others)}


def _fills(present: str) -> list[tuple[str, str]]:
    return _fills_in(get_language(), present)


@lru_cache(maxsize=64)
def _fills_in(language: str | None, present: str) -> list[tuple[str, str]]:
    known = dict.fromkeys([present, *(fill for s in schools().values() for fill in s.fills)])
    return [(fill, _(fill)) for fill in known]


class Layout:
    """The ways to lay an area out in facets, by the names the form sends."""

    AS_DRAWN, ONE, VALLEY, RIDGE, GULLY = "as drawn", "one", "valley", "ridge", "gully"
    CHOICES = (
        (AS_DRAWN, gettext_lazy("the facets as they are")),
        (ONE, gettext_lazy("one plane")),
        (VALLEY, gettext_lazy("two, falling to a line")),
        (RIDGE, gettext_lazy("two, falling from a line")),
        (GULLY, gettext_lazy("one from each side, to a gully")),
    )


class FallsForm(forms.Form):
    """How to lay the facets out, and what their falls may be."""

    layout = forms.ChoiceField(choices=Layout.CHOICES, initial=Layout.AS_DRAWN)
    where = forms.CharField(required=False, max_length=120)
    least = FallField(initial="1:60")
    most = FallField(initial="1:20")
    aside = forms.BooleanField(required=False)

    def __init__(self, *arguments: Any, job: core.Job, **options: Any) -> None:
        self.job = job
        super().__init__(*arguments, **options)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if {"least", "most"} <= data.keys():
            try:
                self.falls = FallRange(data["least"], data["most"])
            except ValueError as error:
                self.add_error("most", in_words(error, self.job.unit, _))
        try:
            self.pieces = self._pieces(data.get("layout", ""), data.get("where", ""))
        except (LayoutError, MeasureError) as error:
            self.add_error("where", in_words(error, self.job.unit, _))
        return data

    def _pieces(self, layout: str, where: str) -> tuple[Piece, ...]:
        outline = self.job.cover
        if layout == Layout.ONE:
            return one_plane(outline, self.job.features)
        if layout == Layout.GULLY:
            return to_gully(outline, line(where, self.job.outline, self.job.unit, self.job.ring.middle)[0])
        if layout in (Layout.VALLEY, Layout.RIDGE):
            ends = line(where, self.job.outline, self.job.unit, self.job.ring.middle)
            if len(ends) != 2:
                raise MeasureError("Give the two ends of the line, like X1; 6 4.")
            return meeting_at(outline, ends, valley=layout == Layout.VALLEY)
        return as_drawn(self.job.facets)


class ConeLogForm(KeepForm):
    """A cone penetrometer's log, typed or as a file."""

    name = forms.CharField(max_length=40)
    data: QueryDict
    soil = forms.ChoiceField(
        required=False,
        choices=[
            ("", gettext_lazy("any other soil")),
            ("CL", gettext_lazy("lean clay (CL)")),
            ("CH", gettext_lazy("fat clay (CH)")),
        ],
    )
    log = forms.CharField(required=False, max_length=20_000, widget=forms.Textarea)
    file = forms.FileField(required=False)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        text = data.get("log", "")
        if upload := data.get("file"):
            text = self._read(upload)
        if "name" in data and not self.errors:
            try:
                self.cone_log: ConeLog = parse_log(data["name"], text, data["soil"])
            except ConeLogError as error:
                self.add_error("log", in_words(error, Unit.MILLIMETRES, _))
        return data

    def _read(self, upload: Any) -> str:
        if upload.size > 100_000:
            raise ValidationError({"file": _("The file is too large for a log: at most 100 kB.")})
        try:
            text = upload.read().decode("utf-8-sig")
        except UnicodeDecodeError as error:
            raise ValidationError({"file": _("Not text in UTF-8: save it again as UTF-8.")}) from error
        shown: QueryDict = self.data.copy()
        shown["log"] = text
        self.data = shown
        return str(text)


class TrafficForm(forms.Form):
    """What the structural number is asked for."""

    axles = forms.FloatField(min_value=1, max_value=1e9, required=False)
    reliability = forms.FloatField(min_value=50, max_value=99.9, initial=80)
    deviation = forms.FloatField(min_value=0.1, max_value=1, initial=0.45)
    loss = forms.FloatField(min_value=0.1, max_value=2.69, initial=1.9)
