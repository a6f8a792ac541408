"""What each stage is held by and signed on, computed from what was recorded: one function a stage."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from groundwork.assess.parts import Parts
from groundwork.base import Role, SurfaceKey
from groundwork.entries import Anchor, MeterBase, SetUp, StringLine
from groundwork.job import site_data
from groundwork.layerwork import FabricLaid
from groundwork.lifts import ground_data, lift_data, pour_data
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.schools import Check
from groundwork.schools import CourseRule as AskedCourse
from groundwork.setout import service_findings
from groundwork.shape import area_data
from groundwork.survey import station_evidence
from groundwork.verdict import SIMPLE


@dataclass(frozen=True)
class Condition:
    """What a stage comes to: whether it was `begun`, what was found, and its `evidence` as JSON values."""

    begun: bool
    findings: tuple[Finding, ...]
    evidence: dict[str, Any]


def brief(job: Parts) -> Condition:
    """The design with its version, against the S rules."""
    evidence = {
        "design": site_data(job.site),
        "excavation_depth_mm": _mm(job.site.specification.excavation_depth),
    }
    return Condition(True, job.soundness, evidence)


def set_out(job: Parts) -> Condition:
    """The lengths taped and how each peg stands, and the services as located."""
    there = job.setting_out
    located = there.location
    evidence = {
        **area_data(job.site.ring),
        "lengths": [
            {"from": x.start, "to": x.end, "typed": x.length.raw, "m": round(x.length.metres, 4)}
            for x in there.pegs.lengths
        ],
        "pegs": [{"peg": p.name, "out_of_place_mm": _mm(p.move), "in_place": p.in_place} for p in there.pegs.pegs],
        "services": located
        and {
            "ticket": located.entry.ticket,
            "located_on": located.entry.located_on.isoformat(),
            "last_day": located.last_day.isoformat(),
            "by": located.entry.by,
            "found": located.entry.found,
        },
    }
    return Condition(bool(there.pegs.lengths or located), there.findings, evidence)


def excavation(job: Parts) -> Condition:
    """The formation as shot, the services located while it is dug, the margin, the depth."""
    specification = job.site.specification
    evidence = {
        "excavation_depth_mm": _mm(specification.excavation_depth),
        "layers": [
            {"role": layer.role, "material": layer.material, "thickness_mm": _mm(layer.thickness)}
            for layer in specification.layers
        ],
        "closings": [
            {
                "mark": c.sight.point,
                "set_ups": [s.id for s in c.chain],
                "misclosure_mm": _mm(c.misclosure),
                "allowed_mm": _mm(c.allowed),
            }
            for c in job.levels.runs.closings
        ],
        **_as_shot(job, SurfaceKey.FORMATION),
    }
    found = (
        *service_findings(job.setting_out.location),
        *job.surfaces.findings(),
        *job.setting_out.margin_findings,
        *job.works.depth_findings,
    )
    return Condition(job.surveys.formation.shot_count > 0, found, evidence)


def subgrade(job: Parts) -> Condition:
    """The ground tested, soft spots cured, and gone over with a machine."""
    ground, lift = job.works.subgrade, job.works.lifts[SurfaceKey.FORMATION]
    firm = [f for f in lift.findings if f.rule != "D09"]
    if not lift.passes_begun and job.case.compacts_the_ground:
        firm.append(
            Finding(
                "D12", Severity.STOP, Words("nothing logged that compacted the ground"),
                Words("a machine, and its passes over all of it"),
                "It is the step most often left out, and the reason most pavements settle.",
                "Log the machine and its passes, under Lifts, Formation.", Source.PRACTICE,
            )
        )  # fmt: skip
    if not ground.shown and ground.not_tested not in firm:
        firm.append(ground.not_tested)
    evidence = ground_data(job.works, job.site.unit) | {"passes": [
        {"patch": c.patch.name, "along": c.along, "across": c.across} for c in lift.coverage
    ] if lift.is_begun else []}  # fmt: skip
    evidence.pop("findings")
    return Condition(lift.is_begun, tuple(firm), evidence)


def separation(job: Parts) -> Condition:
    """Fabric logged, and lapped as the soil asks."""
    laid = [e for e in job.works.work if isinstance(e, FabricLaid)]
    found = [f for f in job.works.subgrade.findings if f.rule == "D09"]
    if not laid:
        found.append(
            Finding(
                "D11", Severity.STOP, Words("no fabric logged"),
                Words("at least {least} of overlap", {"least": job.works.subgrade.overlap[0]}),
                "Without it stone and soil become one, and the base gets thinner from below.",
                "Lay it, measure the least overlap and log it, under Lifts, Soft ground and fabric.", Source.PRACTICE,
            )
        )  # fmt: skip
    evidence = {
        "fabric": [
            {"overlap_mm": _mm(e.overlap.metres), "with_the_flow": e.with_the_flow,
             "up_sides_mm": _mm(e.up_sides.metres), "on": e.lift} for e in laid
        ]
    }  # fmt: skip
    return Condition(bool(laid), tuple(found), evidence)


def base_lifts(job: Parts) -> Condition:
    """Every lift tight; the top of the stone level where a bound base goes on it; tickets against levels."""
    lifts = [lift for key, lift in job.works.lifts.items() if key != SurfaceKey.FORMATION]
    found = [f for lift in lifts if lift.is_begun for f in lift.findings]
    for below, above in pairwise(lifts):
        if above.is_begun and not below.is_begun:
            found.append(
                Finding(
                    "L14", Severity.STOP,
                    Words("{above} was made and {below} under it never begun",
                          names={"above": above.key, "below": below.key}),
                    Words("from below up, each lift tight before the next"),
                    "Nobody compacts what lies under another lift: it is loose, or it was not logged.",
                    "Log what was done below, or take the upper lift off.", Source.PRACTICE,
                )
            )  # fmt: skip
    if left := [lift.key for lift in lifts if not lift.is_begun]:
        found.append(
            Finding(
                "L13", Severity.STOP, Words("lifts not made yet: {n}", counts={"n": len(left)}),
                Words("every lift of the design"), "A base is as good as the lift nobody made.",
                "Lay it and compact it, or change the design.", Source.PRACTICE, number=len(left), acceptable=False,
            )
        )  # fmt: skip
    evidence: dict[str, Any] = {"lifts": [_lift_signed(lift_data(lift, job.site.unit)) for lift in lifts]}
    if job.site.specification.layer(Role.BOUND_BASE) and lifts:
        found += job.surfaces.findings(lifts[-1].key)
        evidence |= _as_shot(job, lifts[-1].key)
    found += job.works.delivery_findings
    return Condition(any(lift.is_begun for lift in lifts), tuple(found), evidence)


def bound_base(job: Parts) -> Condition:
    """Poured, on ground that did not give, thick enough and cured."""
    found = list(job.works.pour_findings)
    if not job.works.pours:
        found.append(
            Finding("B06", Severity.STOP, Words("no pour logged"), Words("every load with its ticket"),
                    "When it may be built on is counted from the pour.", "Log it, under Lifts, Pour.",
                    Source.PRACTICE, acceptable=False)
        )  # fmt: skip
    evidence = {"pour": pour_data(job.works, job.site.unit), "slab": job.works.slab and {
        "mean_mm": _mm(job.works.slab.mean), "least_mm": _mm(job.works.slab.least[1]),
    }}  # fmt: skip
    if evidence["pour"]:
        evidence["pour"].pop("findings")
    return Condition(bool(job.works.pours), tuple(found), evidence)


def base_proof(job: Parts) -> Condition:
    """The surface that carries the bedding, or the paving where there is none: level, flat, falling, dry."""
    return _surface(job, carrying(job))


def bedding(job: Parts) -> Condition:
    """The bed, where its top was shot: a soft bed need not be, since nobody may stand on it."""
    key = SurfaceKey.SCREED if job.site.specification.settlement else SurfaceKey.BEDDING
    if not job.surveys.of(key).shot_count:
        return Condition(False, (), {})
    condition = _surface(job, key)
    seen = tuple(f for f in condition.findings if f.rule not in ("D06", "L07"))
    return Condition(True, seen, condition.evidence)


def seating(job: Parts) -> Condition:
    """The finished paving at its level."""
    survey = job.surveys.of(SurfaceKey.FINISHED)
    return Condition(survey.shot_count > 0, survey.findings, _as_shot(job, SurfaceKey.FINISHED))


def handover(job: Parts) -> Condition:
    """The finished paving, level, flat, falling, dry; or the base, where somebody else paves."""
    return _surface(job, carrying(job) if job.site.brief.by_others else SurfaceKey.FINISHED)


def by_eye(_job: Parts) -> Condition:
    """A stage of which nothing has a room of its own: its questions and checks are all there is."""
    return Condition(False, (), {})


CONDITIONS: Mapping[str, Callable[[Parts], Condition]] = {
    "brief": brief,
    "set-out": set_out,
    "excavation": excavation,
    "subgrade": subgrade,
    "separation": separation,
    "early-edges": by_eye,
    "base-lifts": base_lifts,
    "bound-base": bound_base,
    "base-proof": base_proof,
    "bedding": bedding,
    "laying": by_eye,
    "late-edges": by_eye,
    "seating": seating,
    "joints": by_eye,
    "handover": handover,
}


def carrying(job: Parts) -> str:
    """The surface the bedding is laid on."""
    specification = job.site.specification
    return next(
        course.under.key
        for course in specification.courses
        if course.layer.role in (Role.BEDDING, Role.PAVING) and course.lift == 1
    )


def limits(check: Check, job: Parts) -> tuple[float | None, float | None]:
    """Between what a check has to lie, metres: its own limits, or the job's."""
    return LIMITS[check.taken_from](check, job)


def _bed(_check: Check, job: Parts) -> tuple[float, float]:
    """As screeded, what the school allows at any one place: over a base inside its limits a bed is not even."""
    specification = job.site.specification
    layer = specification.layer(Role.BEDDING)
    asked: AskedCourse | None = job.case.school.by_role.get(Role.BEDDING)
    if layer is None or asked is None:
        return 0.0, 1.0
    high = specification.settlement
    return min(asked.anywhere[0] + high, layer.thickness), max(asked.anywhere[1] + high, layer.thickness)


def _joint(_check: Check, job: Parts) -> tuple[float, float]:
    """Within the school's range, and no more than 2 mm from the design's own."""
    width, (low, high) = job.site.specification.details.joint.width, job.case.school.joint_bounds
    return max(min(low, width), width - 0.002), min(max(high, width), width + 0.002)


def _fill(_check: Check, job: Parts) -> tuple[float, float]:
    """Sand and mortar lie just below the edge; pebbles stand over the rim of their cells, 10 to 15 mm."""
    return (-0.015, -0.010) if "pebble" in job.case.school.fills else (0.0, 0.005)


def _lip(_check: Check, job: Parts) -> tuple[float, float]:
    """2 mm between flat faces, 3 mm between textured ones (industry guidance, quoted from memory)."""
    paving = job.site.specification.layer(Role.PAVING)
    return 0.0, 0.003 if paving and paving.material in TEXTURED else 0.002


TEXTURED = frozenset({"natural-stone", "clay-paver"})
LIMITS: Mapping[str, Callable[[Check, Parts], tuple[float | None, float | None]]] = {
    "": lambda check, _job: (check.least, check.most),
    "bed": _bed,
    "joint": _joint,
    "fill": _fill,
    "lip": _lip,
}


def answer_in(stage: str, evidence: Mapping[str, Any]) -> object:
    """The part of what a stage is signed on whose change overtakes the sign-off: of the brief its design, whatever it
    is called and wherever one shoots; of the set-out whether each peg stands in place; of a surface each station's
    verdict and design level; and of every stage what stops it."""
    if stage == "brief":
        design = {key: value for key, value in evidence["design"].items() if key not in _NOT_THE_DESIGN}
        # In how many lifts a layer is laid is for the crew to say, and changes no surface that is signed.
        design["specification"] = {k: v for k, v in design["specification"].items() if k != "lifts"}
        return design
    if stage == "set-out":
        pegs = [(p["peg"], p["in_place"]) for p in evidence["pegs"]]
        return evidence["outline_m"], evidence.get("bulges"), pegs, bool(evidence["services"])
    stations = {s["station"]: (str(s["verdict"]), s["design_m"]) for s in evidence.get("stations", ())}
    if stage == "excavation":
        return stations
    return stations, sorted({f["rule"] for f in evidence["findings"] if _reopens(f)}), [
        (lift["lift"], lift["tight"]) for lift in evidence.get("lifts", ())
    ]  # fmt: skip


def _reopens(finding: Mapping[str, Any]) -> bool:
    """Whether it is a stop that a later entry brings: not a question or a check, which are compared by themselves,
    and not one that a day's passing brings."""
    return finding["severity"] == Severity.STOP and finding["rule"] not in ("G06", "G07", "G08", "G09", *PASSING)


PASSING = frozenset({"D01", "B04", "G10"})
"""Rules that a day's passing brings or takes: once the stage is signed they are of that day."""


_NOT_THE_DESIGN = frozenset({"format", "name", "units", "station_spacing_m", "marks"})


def _surface(job: Parts, key: str) -> Condition:
    return Condition(job.surveys.of(key).shot_count > 0, job.surfaces.findings(key), _as_shot(job, key))


def _as_shot(job: Parts, key: str) -> dict[str, Any]:
    """A surface as shot, as JSON values; levels in metres, deviations in millimetres."""
    survey = job.surveys.of(key)
    return {
        "surface": key,
        "acceptance": "simple" if survey.surface.kind in SIMPLE else "guarded",
        "tolerance_mm": {"high": _mm(survey.tolerance.high), "low": _mm(survey.tolerance.low)},
        "read_against": [_anchor(job, entry) for entry in _used(job, key)],
        "stations": [station_evidence(answer) for answer in survey.answers.values()],
    }


def _used(job: Parts, key: str) -> Iterator[Anchor]:
    """What the readings on a surface were taken against, and every set-up of the run it hangs in."""
    used = job.readings.newest_from(key)
    for entry in job.logbook.anchors.values():
        if entry.id in used or isinstance(entry, SetUp):
            yield entry


def _anchor(job: Parts, entry: Anchor) -> dict[str, Any]:
    """What readings were taken against, as JSON values."""
    data: dict[str, Any] = {"id": entry.id, "kind": entry.KIND, "method": str(entry.instrument.method)}
    data["reading_u_mm"] = _mm(entry.instrument.reading_u)
    if lost := job.levels.why_lost(entry.id):
        return data | {"lost": str(lost)}
    match entry:
        case SetUp():
            height, level = job.levels.runs.heights[entry.id], job.levels.runs.level_of(entry.mark)
            return data | {
                "mark": entry.mark,
                "mark_level_m": None if level is None else round(level, 4),
                "backsight": entry.backsight.raw,
                "instrument_height_m": round(height.level, 4),
                "standard_uncertainty_mm": _mm(height.uncertainty),
            }
        case MeterBase():
            return data | {"mark": entry.mark, "shows": entry.shows.raw}
        case StringLine():
            return data | {
                "from": entry.start,
                "to": entry.end,
                "levels_m": [round(entry.start_level, 4), round(entry.end_level, 4)],
            }
        case _:
            return data


def _lift_signed(data: dict[str, Any]) -> dict[str, Any]:
    """A lift as it is signed: what was done, without what is next."""
    return {key: value for key, value in data.items() if key not in ("next", "findings")}


def _mm(metres: float) -> float:
    return round(metres * 1000, 1)
