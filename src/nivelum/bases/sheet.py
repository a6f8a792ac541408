"""The brief as a sheet of forms that starts a job and corrects it; whatever is wrong, everything typed comes back."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, TypeVar

from django import forms
from django.core.files.uploadedfile import UploadedFile
from django.http import QueryDict
from django.utils.translation import get_language, gettext_lazy
from django.utils.translation import gettext as _

from groundwork import job as core
from groundwork.brief import FixedHeight, HeightKind, Outlet, SpotLevel
from groundwork.job import AN_HOUR
from groundwork.measures import INCH, MeasureError, Unit, Words, format_level, format_place, in_words, parse_length
from groundwork.plan import (
    FEWEST_PLACES,
    Feature,
    OutlineError,
    along_side,
    line,
    place,
)
from groundwork.schools import school
from groundwork.shape import (
    Island,
    Ring,
    corners_text,
    cut_out,
    exactly,
    island_ring,
    island_text,
    measured_area,
    typed_area,
)
from groundwork.soundness import with_pavers
from groundwork.surfaces import Point
from nivelum.bases.brief import MARK, BriefForm, HeightForm, IslandForm, SideForm, ThingForm
from nivelum.exchange.files import LARGEST_FILE, UnreadableFile
from nivelum.exchange.reading import read_outline, read_surface
from nivelum.recording.fields import bare
from nivelum.workshop.bench import QUICK, TooMuch

Found = TypeVar("Found")
MOST_ROWS = 60
NOTHING_DRAWN = Ring(())
TOO_FEW = {
    2: gettext_lazy("It runs from one place to another: two places, with a semicolon between, like “X1; X2”."),
    3: gettext_lazy("Water has an edge: three places around it, with semicolons between."),
}
MOST_SPOTS = 2000


@dataclass
class SiteSheet:
    """The whole brief, bound to what was sent or showing the job as it is. `data` None shows; else it judges."""

    unit: Unit
    job: core.Job | None = None
    like: core.Job | None = None
    data: QueryDict | None = None
    files: Mapping[str, Any] = field(default_factory=dict)
    add: str = ""
    note: str = ""
    ground_note: str = ""
    ring: Ring = NOTHING_DRAWN
    fit: tuple[Words, ...] = ()
    advice: tuple[Words, ...] = ()
    outline_error: str = ""
    fault: dict[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if self.data is not None:
            self.data = self.data.copy()
            for name in ("area", "ground"):
                self.data[name] = self.data.get(name, "").replace("\r\n", "\n")
            if upload := self.files.get("area_file"):
                self._take(upload)
            if upload := self.files.get("ground_file"):
                self._take_ground(upload)
        self.brief = BriefForm(self.data, unit=self.unit, initial=self._facts())
        self._trace()
        self.sides = [
            SideForm(self.data, prefix=f"side-{n}", initial=self._along(n)) for n in range(len(self.outline))
        ]
        self.insides: list[IslandForm] = self._rows(IslandForm, "island", self._known_islands())
        self.heights: list[HeightForm] = self._rows(HeightForm, "height", self._known_levels(), unit=self.unit)
        self.things: list[ThingForm] = self._rows(ThingForm, "thing", self._other_things())

    def _take(self, upload: "UploadedFile[Any]") -> None:
        """Puts the outline of a file where it would have been typed."""
        if (upload.size or 0) > LARGEST_FILE:
            size = f"{(upload.size or 0) / 1e6:.0f}"
            self.fault["area_file"] = _("The file has {size} MB: at most 5.").format(size=size)
            return
        try:
            found = read(read_outline, upload, self.unit)
        except UnreadableFile as error:
            self.fault["area_file"] = str(error)
            return
        if self.data is not None:
            self.data["area"], self.data["area_as"] = corners_text(found.ring, self.unit), "corners"
            rows = [island_facts(island, self.unit) for island in found.islands][:MOST_ROWS]
            self.data["island-count"] = str(len(rows))
            for n, row in enumerate(rows):
                for name, value in row.items():
                    self.data[f"island-{n}-{name}"] = value
            self.note = found.note

    def _take_ground(self, upload: "UploadedFile[Any]") -> None:
        """Puts the points of a file where the existing ground would have been typed."""
        try:
            size = upload.size or 0
            if size > LARGEST_FILE:
                raise UnreadableFile(_("The file has {size} MB: at most 5.").format(size=f"{size / 1e6:.0f}"))
            found = read(read_surface, upload, self.unit)
            if len(found.points) > MOST_SPOTS:
                raise UnreadableFile(_("{n} points: at most {most}, thin it out first.").format(
                    n=len(found.points), most=MOST_SPOTS))  # fmt: skip
        except UnreadableFile as error:
            self.fault["ground_file"] = str(error)
            return
        if self.data is not None:
            rows = ((p.east, p.north, p.level) for p in found.points)
            self.data["ground"] = "\n".join(" ".join(exactly(metres, self.unit) for metres in row) for row in rows)
            self.ground_note = " ".join(filter(None, [_("{n} points read.").format(n=len(found.points)), found.note]))

    def _trace(self) -> None:
        """The outline as it stands in the sheet; of an area that was not touched, the job's own to the last digit."""
        if self.data is None or (self.job and not {"area", "area_as"} & set(self.brief.changed_data)):
            self.ring = self.job.ring if self.job else NOTHING_DRAWN
            return
        text = self.data.get("area", "")
        try:
            if self.data.get("area_as") == "measured":
                area = measured_area(text, self.unit)
                self.ring, self.fit, self.advice = area.ring, area.says, area.advice
            else:
                self.ring = typed_area(text, self.unit, sides=self.data.get("area_as") == "sides")
        except OutlineError as error:
            self.outline_error = in_words(error, self.unit, _)

    def _facts(self) -> dict[str, Any]:
        if self.job is None:
            return self._facts_like(self.like) if self.like else {}
        brief, outlet, unit = self.job.brief, self.job.outlet, self.unit
        rain = 0.001 if unit.is_metric else INCH
        facts = {
            "name": self.job.name,
            "area_as": "corners",
            "area": corners_text(self.job.ring, unit),
            "ground": "\n".join(_spot_text(spot, unit) for spot in self.job.spots),
            "spacing": format_place(self.job.station_spacing, unit).replace("′", "'"),
            "infiltration": None if brief.infiltration is None else round(brief.infiltration / rain * AN_HOUR, 6),
            "storm": round(brief.storm / rain, 4),
            "axles": brief.axles,
            "raised": brief.raised,
            "level_access": brief.level_access,
        }
        facts |= self._facts_like(self.job)
        if outlet:
            facts |= {
                "outlet_name": outlet.name,
                "outlet_at": place_text(outlet.at, unit),
                "outlet_run": format_place(outlet.run, unit).replace("′", "'"),
                "outlet_level": level_text(outlet.level, unit),
                "outlet_fall": f"1:{1 / outlet.fall:g}",
                "outlet_cover": bare(outlet.cover, unit),
            }
        return facts

    def _facts_like(self, job: core.Job) -> dict[str, Any]:
        """What is likely the same on the next job: what goes over it, on what, with which pavers, by whom."""
        brief, unit = job.brief, self.unit
        facts: dict[str, Any] = {
            "paver": brief.paver,
            "paver_thickness": bare(brief.paver_thickness, unit) if brief.paver_thickness else "",
            "joint": "" if brief.joint is None else bare(brief.joint, unit),
            "by_others": brief.by_others,
            "sound_slab": brief.sound_slab,
        }
        plain = ("traffic", "soil", "season", "neighbour", "dust_control")
        facts |= {name: str(getattr(brief, name)) for name in plain}
        return facts | {name: getattr(brief, name) for name in ("frost", "engineer", "cutting")}

    def _along(self, side: int) -> dict[str, Any]:
        found = [f for f in self.job.features if f.side == side] if self.job else []
        kinds = {f.kind for f in found}
        along = "drained" if {"building", "drain"} <= kinds else next(iter(kinds), "")
        return {"along": along, "name": found[0].name if found else ""}

    def _known_levels(self) -> list[dict[str, Any]]:
        if self.job is None:
            return [{"kind": "threshold"}, {"kind": "drain"}, {"kind": MARK}]
        rows = [
            {
                "kind": h.kind.value,
                "name": h.name,
                "at": place_text(h.at, self.unit),
                "level": level_text(h.level, self.unit),
                "down": bare(h.down, self.unit) if h.down else "",
                "up": bare(h.up, self.unit) if h.up else "",
            }
            for h in self.job.heights
        ]
        return rows + [
            {"kind": MARK, "name": m.name, "at": place_text(m.at, self.unit), "level": level_text(m.level, self.unit)}
            for m in self.job.marks
        ]

    def _other_things(self) -> list[dict[str, Any]]:
        return [
            {"kind": f.kind, "name": f.name, "places": "; ".join(place_text(p, self.unit) for p in f.points)}
            for f in (self.job.features if self.job else ())
            if f.side is None
        ]

    def _known_islands(self) -> list[dict[str, Any]]:
        return [island_facts(island, self.unit) for island in (self.job.islands if self.job else ())]

    def _rows(self, kind: type[Any], prefix: str, initial: list[dict[str, Any]], **options: Any) -> list[Any]:
        count = len(initial) + (1 if self.job or prefix in ("thing", "island") else 0)
        if self.data is not None:
            typed = self.data.get(f"{prefix}-count", "")
            count = int(typed) if typed.isascii() and typed.isdigit() and len(typed) < 5 else count
        count = min(count + (self.add == prefix), MOST_ROWS)
        starts = [*initial, *({} for _n in range(count - len(initial)))][:count]
        return [kind(self.data, prefix=f"{prefix}-{n}", initial=start, **options) for n, start in enumerate(starts)]

    @property
    def every(self) -> list[forms.Form]:
        """Its forms, those of rows that were left blank too."""
        return [self.brief, *self.sides, *self.heights, *self.insides, *self.things]

    @property
    def outline(self) -> tuple[Point, ...]:
        """The area's corners."""
        return self.ring.corners

    @cached_property
    def islands(self) -> tuple[Island, ...]:
        """What in the area is not paved; only of a sheet whose rows are sound."""
        known = self.job.islands if self.job else ()
        found: list[Island] = []
        for n, form in enumerate(self.insides):
            if n < len(known) and (self.data is None or not form.has_changed()):
                found.append(known[n])
            elif self.data is not None and not form.is_blank and form.is_valid():
                data = form.cleaned_data
                if not self.outline:
                    continue
                try:
                    places = line(data["places"], self.outline, self.unit, self.ring.middle)
                    ring = island_ring(places, data["size"], data["turned"], self.unit)
                    island = Island(data["kind"], data["name"], ring, data["takes_water"] or data["kind"] == "gully")
                    cut_out(self.ring.polygon, (*found, island))
                except (MeasureError, OutlineError) as error:
                    form.add_error("places", in_words(error, self.unit, _))
                    continue
                found.append(island)
        return tuple(found)

    @property
    def features(self) -> tuple[Feature, ...]:
        """What stands along the sides, then everything else; only of a sheet whose rows are sound."""
        found: list[Feature] = []
        for n, form in enumerate(self.sides):
            chosen = form.cleaned_data if self.data is not None and form.is_valid() else form.initial
            kinds = {"drained": ("building", "drain")}.get(chosen.get("along") or "", (chosen.get("along") or "",))
            for kind in kinds if kinds[0] else ():
                named = chosen.get("name", "") if kind == kinds[0] else _("drain")
                curved = self.ring.arc(n) is not None and kind != "building"
                points = self.ring.along(n) if curved else along_side(self.outline, n, kind)
                found.append(Feature(kind, named, points, n))
        return (*found, *self._things())

    def _things(self) -> list[Feature]:
        known = [f for f in (self.job.features if self.job else ()) if f.side is None]
        found = []
        for n, form in enumerate(self.things):
            if n < len(known) and (self.data is None or not form.has_changed()):
                found.append(known[n])
            elif self.data is not None and not form.is_blank and form.is_valid():
                try:
                    points = line(form.cleaned_data["places"], self.outline, self.unit, self.ring.middle)
                except MeasureError as error:
                    form.add_error("places", in_words(error, self.unit, _))
                    continue
                kind = form.cleaned_data["kind"]
                if len(points) < FEWEST_PLACES[kind]:
                    form.add_error("places", TOO_FEW[FEWEST_PLACES[kind]])
                    continue
                found.append(Feature(kind, form.cleaned_data["name"], points))
        return found

    @cached_property
    def site(self) -> core.Job | None:
        """The job as the sheet gives it, its base and facets still those it had; None where something is wrong, which
        then stands beside its field."""
        if self.data is None:
            return self.job
        rows: list[HeightForm | ThingForm | IslandForm] = [*self.heights, *self.insides, *self.things]
        every: list[forms.Form] = [self.brief, *self.sides, *(row for row in rows if not row.is_blank)]
        wrong = [form for form in every if not form.is_valid()]
        if self.outline_error or self.fault:
            return None
        features, islands = self.features, self.islands
        levels = self._levels()
        if not levels and not self.fault:
            self.fault["heights"] = _("Give at least one known level: a threshold, a drain, a mark to look back on.")
        spots, outlet = self._spots(), self._outlet() if self.brief.is_valid() else None
        if self.fault or wrong or any(form.errors for form in every):
            return None
        marks = [m for m in levels if isinstance(m, core.Mark)]
        heights = [h for h in levels if isinstance(h, FixedHeight)]
        if not marks:
            marks = [core.Mark(h.name, h.at, h.level) for h in heights if h.kind is HeightKind.THRESHOLD][:1]
        data = self.brief.cleaned_data
        before = self.job
        spacing = data["spacing"]
        if before and "spacing" not in self.brief.changed_data:
            spacing = before.station_spacing
        brief = self.brief.brief()
        undecided = school("dense").specification(brief.traffic, self.unit)
        start = before or core.Job("", self.unit, self.outline, (), undecided, spacing)
        if before and {"paver", "paver_thickness", "joint"} & set(self.brief.changed_data):
            start = replace(start, specification=with_pavers(start.specification, replace(start, brief=brief)))
        return replace(
            start,
            name=data["name"],
            outline=self.outline,
            bulges=self.ring.bulges,
            islands=islands,
            station_spacing=spacing,
            marks=tuple(marks),
            features=features,
            brief=brief,
            heights=tuple(heights),
            outlet=outlet,
            spots=spots,
        )

    def _levels(self) -> list[core.Mark | FixedHeight]:
        known: list[core.Mark | FixedHeight] = [*self.job.heights, *self.job.marks] if self.job else []
        found: list[core.Mark | FixedHeight] = []
        for n, form in enumerate(self.heights):
            if form.is_blank:
                continue
            if n < len(known) and not form.has_changed():
                found.append(known[n])
            elif form.is_valid():
                data = form.cleaned_data
                try:
                    at = place(data["at"], self.outline, self.unit, self.ring.middle)
                except MeasureError as error:
                    form.add_error("at", in_words(error, self.unit, _))
                    continue
                level = data["level"].metres
                down, up = (data[name].metres if data[name] else 0.0 for name in ("down", "up"))
                if data["kind"] == MARK:
                    found.append(core.Mark(data["name"], at, level))
                else:
                    found.append(FixedHeight(HeightKind(data["kind"]), data["name"], at, level, down, up))
        return found

    def _spots(self) -> tuple[SpotLevel, ...]:
        if self.job and "ground" not in self.brief.changed_data:
            return self.job.spots
        found = []
        lines = (self.brief.data.get("ground") or "").splitlines()
        if len(lines) > MOST_SPOTS:
            message = _("{n} points: at most {most}, thin it out first.").format(n=len(lines), most=MOST_SPOTS)
            self.brief.add_error("ground", message)
            return ()
        for number, text in enumerate(lines, start=1):
            parts = text.replace(",", " ").replace(";", " ").split()
            if not parts:
                continue
            try:
                *where, level = parts
                at = place(" ".join(where), self.outline, self.unit, self.ring.middle)
                height = parse_length(level, self.unit.for_plans).metres
            except (MeasureError, ValueError) as error:
                why = _("line {n}: a place and a level, like “X1 10.02” or “3.2 6.4 10.02”").format(n=number)
                self.brief.add_error("ground", f"{why} ({error})" if isinstance(error, MeasureError) else why)
                return ()
            found.append(SpotLevel(at, height))
        return tuple(found)

    def _outlet(self) -> Outlet | None:
        data = self.brief.cleaned_data
        if not data["outlet_name"]:
            return None
        touched = {name for name in self.brief.changed_data if name.startswith("outlet_")}
        if self.job and self.job.outlet and not touched:
            return self.job.outlet
        try:
            at = place(data["outlet_at"], self.outline, self.unit, self.ring.middle)
        except MeasureError as error:
            self.brief.add_error("outlet_at", in_words(error, self.unit, _))
            return None
        cover = data["outlet_cover"].metres if data["outlet_cover"] else 0.0
        level, run = data["outlet_level"].metres, data["outlet_run"].metres
        return Outlet(data["outlet_name"], at, run, level, data["outlet_fall"] or 0.01, cover)

    @property
    def square_metres(self) -> float:
        """What is paved."""
        return self.ring.area - sum(island.ring.area for island in self.islands) if self.outline else 0.0


def read(reader: Callable[[str, str, bytes, Unit], Found], upload: "UploadedFile[Any]", unit: Unit) -> Found:
    """What is in a file that somebody sent, read in the workshop. Raises `UnreadableFile`."""
    try:
        return QUICK.done(reader, get_language() or "en", upload.name or "", upload.read(), unit)
    except TooMuch as error:
        raise UnreadableFile(_("It takes too much to read that file: send less of it.")) from error


def place_text(point: Point, unit: Unit) -> str:
    """A place as it would be typed."""
    return " ".join(format_place(metres, unit).replace("′", "'").replace("−", "-") for metres in point)


def level_text(level: float, unit: Unit) -> str:
    return format_level(level, unit).replace("′", "'").replace("″", '"').replace("−", "-")


def _spot_text(spot: SpotLevel, unit: Unit) -> str:
    return f"{place_text(spot.at, unit)} {format_place(spot.level, unit).replace('′', chr(39))}"


def island_facts(island: Island, unit: Unit) -> dict[str, Any]:
    """An island as it would be typed: round by its middle, else by its corners."""
    places, size = island_text(island.ring, unit)
    water = {"takes_water": "on"} if island.takes_water else {}
    return {"kind": island.kind, "name": island.name, "places": places, "size": size} | water
