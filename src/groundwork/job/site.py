"""The site part of a job file: everything but the entries, to and from JSON values."""

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import shapely

from groundwork.base import (
    FORMATION_TOLERANCE,
    BaseSpecification,
    Details,
    GridJoints,
    Joint,
    Layer,
    Reinforcement,
    Role,
    SurfaceKey,
    Tolerance,
)
from groundwork.brief import (
    Brief,
    ConeLog,
    DustControl,
    FixedHeight,
    HeightKind,
    Neighbour,
    Outlet,
    Season,
    Soil,
    SpotLevel,
    Traffic,
)
from groundwork.job.job import Job, Mark
from groundwork.kinds import Entry
from groundwork.measures import Said, Unit
from groundwork.plan import FEWEST_PLACES, LARGEST, Feature, OutlineError, Station
from groundwork.schools import school
from groundwork.shape import area_data, cut_out, islands_of, ring_of
from groundwork.surfaces import Facet, Point, uncovered

FORMAT = "nivelum-job/1"
AN_HOUR = 3600.0


def read_site(data: Mapping[str, Any]) -> Job:
    """The job without its entries from data that fits the job file's schema. Raises `ValueError` where the base
    cannot be built."""
    outlet, ring = data.get("outlet"), ring_of(data["area"])
    return Job(
        name=data["name"],
        unit=Unit(data.get("units", "mm")),
        outline=ring.corners,
        bulges=ring.bulges,
        islands=islands_of(data["area"]),
        facets=tuple(
            Facet(
                f["name"],
                _points(f["outline_m"]),
                point(f["at_m"]),
                f["level_m"],
                f["bearing_deg"],
                _ratio(f.get("fall_1_in")),
                _ratio(f.get("cross_fall_1_in")),
            )
            for f in data["facets"]
        ),
        specification=_specification(data["specification"]),
        station_spacing=data["station_spacing_m"],
        marks=tuple(Mark(m["name"], point(m["at_m"]), m["level_m"]) for m in data.get("marks", [])),
        features=tuple(
            Feature(f["kind"], f["name"], _points(f["points_m"]), f.get("side")) for f in data.get("features", [])
        ),
        brief=_brief(data["brief"]),
        heights=tuple(map(_height, data.get("heights", []))),
        outlet=_outlet(outlet) if outlet else None,
        spots=tuple(SpotLevel(point(s["at_m"]), s["level_m"]) for s in data.get("ground", [])),
        cone_logs=tuple(
            ConeLog(c["name"], tuple(c["blows"]), tuple(d / 1000 for d in c["depths_mm"]), c.get("soil", ""))
            for c in data.get("cone_logs", [])
        ),
    )


def site_data(job: Job) -> dict[str, Any]:
    """What `read_site` reads."""
    return {
        "format": FORMAT,
        "name": job.name,
        "units": str(job.unit),
        "area": area_data(job.ring, job.islands),
        "station_spacing_m": job.station_spacing,
        "brief": _brief_data(job.brief),
        "features": [
            {"kind": f.kind, "name": f.name, "points_m": [list(p) for p in f.points]}
            | ({} if f.side is None else {"side": f.side})
            for f in job.features
        ],
        "marks": [{"name": m.name, "at_m": list(m.at), "level_m": m.level} for m in job.marks],
        "heights": [
            {
                "kind": str(h.kind),
                "name": h.name,
                "at_m": list(h.at),
                "level_m": h.level,
                "down_mm": mm(h.down),
                "up_mm": mm(h.up),
            }
            for h in job.heights
        ],
        "outlet": _outlet_data(job.outlet) if job.outlet else None,
        "ground": [{"at_m": list(s.at), "level_m": s.level} for s in job.spots],
        "cone_logs": [
            {"name": c.name, "soil": c.soil, "blows": list(c.blows), "depths_mm": [mm(d) for d in c.depths]}
            for c in job.cone_logs
        ],
        "facets": [
            {
                "name": f.name,
                "outline_m": [list(p) for p in f.outline],
                "at_m": list(f.at),
                "level_m": f.level,
                "bearing_deg": f.bearing,
                "fall_1_in": _one_in(f.fall),
                "cross_fall_1_in": _one_in(f.cross_fall),
            }
            for f in job.facets
        ],
        "specification": _specification_data(job.specification),
    }


@dataclass(frozen=True)
class Design(Entry, kind="design", struck=False, in_files=False):
    """The site and its base as designed from here on. The first of a record says whose job it `founded`; `typed` is
    what of it was typed otherwise than it is kept, by field."""

    site: Job
    founded: dict[str, Any] | None = None
    typed: dict[str, Any] | None = None

    def body(self) -> dict[str, Any]:
        more = {"founded": self.founded, "typed": self.typed}
        return site_data(self.site) | {key: value for key, value in more.items() if value}

    @classmethod
    def of_body(cls, entry_id: str, body: Mapping[str, Any]) -> "Design":
        return cls(entry_id, read_site(body), body.get("founded"), body.get("typed"))


class SiteError(Said):
    """A site that cannot be built or judged; `path` says where in a job file, as `facets[1]`."""

    def __init__(self, path: str, phrase: str, **values: Any) -> None:
        super().__init__(phrase, **values)
        self.path = path

    @property
    def message(self) -> str:
        """What is wrong there."""
        return super().__str__()

    def __str__(self) -> str:
        return f"{self.path}: {self.message}"


def check_site(job: Job) -> tuple[Station, ...]:
    """The stations of a job whose facets cover its area and agree, and whose names are told apart. Raises
    `SiteError` for the first thing that is not so."""
    for n, facet in enumerate(job.facets):
        _check_ring(facet.polygon, f"facets[{n}].outline_m", 0.0005)
    path = "area.outline_m"
    try:
        ring, path = job.ring.checked(), "area.islands"
        cut_out(ring.polygon, job.islands)
    except OutlineError as error:
        raise SiteError(path, "{why}", why=error) from error
    if (bare := uncovered(job.area, job.facets)) > 0.01:
        raise SiteError("facets", "{bare} of the area lie in no facet", areas={"bare": bare})
    for one, other, step in job.design.disagreements():
        raise SiteError(
            "facets", "“{one}” and “{other}” differ by {step:.1f} mm on their shared edge",
            one=one.name, other=other.name, step=step * 1000,
        )  # fmt: skip
    for kind, names in (
        ("marks", [m.name for m in job.marks]),
        ("facets", [f.name for f in job.facets]),
        ("heights", [h.name for h in job.heights]),
        ("cone_logs", [c.name for c in job.cone_logs]),
    ):
        if len(set(names)) < len(names):
            raise SiteError(kind, "two have the same name")
    for n, feature in enumerate(job.features):
        if len(feature.points) < (fewest := FEWEST_PLACES[feature.kind]):
            raise SiteError(
                f"features[{n}].points_m", "a {kind} has at least {fewest} places", kind=feature.kind, fewest=fewest
            )
    for n, log in enumerate(job.cone_logs):
        if len(log.blows) != len(log.depths) or any(
            not (a[0] < b[0] and a[1] < b[1]) for a, b in pairwise(zip(log.blows, log.depths, strict=False))
        ):
            raise SiteError(f"cone_logs[{n}]", "blows and depths are as many, and both grow")
    try:
        return job.stations
    except ValueError as error:
        raise SiteError("station_spacing_m", "{why}", why=error) from error


def _check_ring(polygon: shapely.Polygon, path: str, least: float) -> None:
    if not polygon.is_valid:
        raise SiteError(path, "is no plain outline: {why}", why=shapely.is_valid_reason(polygon))
    if not least <= polygon.area <= LARGEST:
        raise SiteError(
            path,
            "has {area}: between {least} and {most}",
            areas={"area": polygon.area, "least": least, "most": LARGEST},
        )


def point(values: list[float]) -> Point:
    return float(values[0]), float(values[1])


def mm(metres: float) -> float:
    return round(metres * 1000, 4)


def _points(values: list[list[float]]) -> tuple[Point, ...]:
    return tuple(map(point, values))


def _metres(millimetres: float | None) -> float | None:
    return None if millimetres is None else millimetres / 1000


def _ratio(one_in: float | None) -> float:
    return 1 / one_in if one_in else 0.0


def _one_in(ratio: float) -> float | None:
    return round(1 / ratio, 9) if abs(ratio) > 1e-9 else None


def _brief(data: dict[str, Any]) -> Brief:
    infiltration = data.get("infiltration_mm_h")
    return Brief(
        traffic=Traffic(data["traffic"]),
        soil=Soil(data["soil"]),
        frost=data.get("frost", False),
        season=Season(data.get("season", "dry")),
        neighbour=Neighbour(data.get("neighbour", "none")),
        raised=data.get("raised", False),
        engineer=data.get("engineer", ""),
        level_access=data.get("level_access", ""),
        cutting=data.get("cutting", True),
        dust_control=DustControl(data.get("dust_control", "none")),
        infiltration=None if infiltration is None else infiltration / 1000 / AN_HOUR,
        storm=data.get("storm_mm", 50) / 1000,
        axles=data.get("axles"),
        paver=data.get("paver", ""),
        paver_thickness=_metres(data.get("paver_thickness_mm")),
        joint=_metres(data.get("joint_mm")),
        by_others=data.get("paving_by_others", False),
        sound_slab=data.get("sound_slab", False),
    )


def _brief_data(brief: Brief) -> dict[str, Any]:
    infiltration = brief.infiltration
    return {
        "traffic": str(brief.traffic),
        "soil": str(brief.soil),
        "frost": brief.frost,
        "season": str(brief.season),
        "neighbour": str(brief.neighbour),
        "raised": brief.raised,
        "engineer": brief.engineer,
        "level_access": brief.level_access,
        "cutting": brief.cutting,
        "dust_control": str(brief.dust_control),
        "infiltration_mm_h": None if infiltration is None else round(infiltration * 1000 * AN_HOUR, 6),
        "storm_mm": mm(brief.storm),
        "axles": brief.axles,
        **({"paver": brief.paver} if brief.paver else {}),
        **({} if brief.paver_thickness is None else {"paver_thickness_mm": mm(brief.paver_thickness)}),
        **({} if brief.joint is None else {"joint_mm": mm(brief.joint)}),
        **({"paving_by_others": True} if brief.by_others else {}),
        **({"sound_slab": True} if brief.sound_slab else {}),
    }


def _height(data: dict[str, Any]) -> FixedHeight:
    return FixedHeight(
        HeightKind(data["kind"]),
        data["name"],
        point(data["at_m"]),
        data["level_m"],
        data.get("down_mm", 0) / 1000,
        data.get("up_mm", 0) / 1000,
    )


def _outlet(data: dict[str, Any]) -> Outlet:
    return Outlet(
        data["name"],
        point(data["at_m"]),
        data["run_m"],
        data["level_m"],
        _ratio(data.get("fall_1_in", 100)),
        data.get("cover_mm", 0) / 1000,
    )


def _outlet_data(outlet: Outlet) -> dict[str, Any]:
    return {
        "name": outlet.name,
        "at_m": list(outlet.at),
        "run_m": outlet.run,
        "level_m": outlet.level,
        "fall_1_in": _one_in(outlet.fall),
        "cover_mm": mm(outlet.cover),
    }


def _specification(data: dict[str, Any]) -> BaseSpecification:
    school(data["school"])
    layers = tuple(Layer(Role(x["role"]), x["material"], x["thickness_mm"] / 1000) for x in data["layers"])
    given = data.get("formation_tolerance")
    tolerance = _tolerance(given) if given else FORMATION_TOLERANCE
    settlement = data.get("pavers_laid_high_mm", 0) / 1000
    own = tuple((SurfaceKey(key), _tolerance(row)) for key, row in sorted(data.get("tolerances", {}).items()))
    lifts = tuple((Role(role), number) for role, number in sorted(data.get("lifts", {}).items()))
    details = _details(data.get("details", {}))
    return BaseSpecification(data["school"], layers, settlement, tolerance, details, own, lifts)


def _tolerance(data: dict[str, Any]) -> Tolerance:
    return Tolerance(data["high_mm"] / 1000, data["low_mm"] / 1000)


def _tolerance_data(tolerance: Tolerance) -> dict[str, float]:
    return {"high_mm": mm(tolerance.high), "low_mm": mm(tolerance.low)}


def _details(data: dict[str, Any]) -> Details:
    joint = data.get("joint", {})
    maker = joint.get("maker_range_mm")
    return Details(
        fabric_under=frozenset(map(Role, data.get("fabric_under", []))),
        fabric_overlap=data.get("fabric_overlap_mm", 300) / 1000,
        side_fabric=data.get("side_fabric", False),
        dense_strip=data.get("dense_strip", False),
        geogrid=GridJoints(data["geogrid"]) if data.get("geogrid") else None,
        reinforcement=Reinforcement(data.get("reinforcement", "none")),
        concrete_joints=data.get("concrete_joints_m"),
        joint=Joint(
            joint.get("width_mm", 3) / 1000,
            joint.get("fill", "dry sand"),
            (maker[0] / 1000, maker[1] / 1000) if maker else None,
        ),
        margin=data.get("margin_mm", 0) / 1000,
        early_edge=data.get("early_edge", ""),
    )


def _specification_data(specification: BaseSpecification) -> dict[str, Any]:
    tolerance, details = specification.formation_tolerance, specification.details
    maker = details.joint.maker_range
    return {
        "school": specification.school,
        "layers": [
            {"role": str(x.role), "material": x.material, "thickness_mm": mm(x.thickness)}
            for x in specification.layers
        ],
        "pavers_laid_high_mm": mm(specification.settlement),
        "formation_tolerance": _tolerance_data(tolerance),
        **(
            {"tolerances": {str(k): _tolerance_data(t) for k, t in specification.tolerances}}
            if specification.tolerances
            else {}
        ),
        **({"lifts": {str(role): number for role, number in specification.lifts}} if specification.lifts else {}),
        "details": {
            "fabric_under": sorted(details.fabric_under),
            "fabric_overlap_mm": mm(details.fabric_overlap),
            "side_fabric": details.side_fabric,
            "dense_strip": details.dense_strip,
            "geogrid": details.geogrid and str(details.geogrid),
            "reinforcement": str(details.reinforcement),
            "concrete_joints_m": details.concrete_joints,
            "joint": {
                "width_mm": mm(details.joint.width),
                "fill": details.joint.fill,
                "maker_range_mm": [mm(maker[0]), mm(maker[1])] if maker else None,
            },
            "margin_mm": mm(details.margin),
            **({"early_edge": details.early_edge} if details.early_edge else {}),
        },
    }
