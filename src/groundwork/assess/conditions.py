"""What each stage is held by and signed on, computed from what was recorded: one function a stage."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

from groundwork.assess.parts import Parts
from groundwork.base import Role, SurfaceKey
from groundwork.entries import Anchor, MeterBase, SetUp, StringLine
from groundwork.job import site_data
from groundwork.layerwork import FabricLaid
from groundwork.laying import paving_evidence
from groundwork.lifts import ground_data, lift_data, pour_data
from groundwork.measures import Finding, Severity, Source, Words
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
    found += (*job.edges.board_findings(), *job.edges.waiting("plated"))
    return Condition(any(lift.is_begun for lift in lifts), tuple(found), evidence)


def bound_base(job: Parts) -> Condition:
    """Poured, on ground that did not give, thick enough and cured."""
    found = [*job.works.pour_findings, *job.edges.board_findings()]
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
    """The bed: its rails, how thick it will be, and its top where it was shot: a soft bed need not be, since nobody
    may stand on it."""
    bed = job.bedding
    evidence: dict[str, Any] = {"bed": bed.evidence()}
    begun = bed.planned is not None or bed.trial is not None or bool(bed.batches or bed.flags)
    found = bed.findings if begun or job.surveys.of(bed.carrying).shot_count else ()
    if not job.surveys.of(bed.surface.key).shot_count:
        return Condition(begun, found, evidence if begun else {})
    condition = _surface(job, bed.surface.key)
    seen = tuple(f for f in condition.findings if f.rule not in ("D06", "L07"))
    return Condition(True, (*found, *seen), condition.evidence | evidence)


def seating(job: Parts) -> Condition:
    """The paving gone over, every unit firm, at its level."""
    survey, there = job.surveys.of(SurfaceKey.FINISHED), job.seating
    found = (*survey.findings, *there.findings, *job.edges.waiting("plated"))
    seated = {"seating": there.evidence()} if there.is_begun else {}
    return Condition(survey.shot_count > 0 or there.is_begun, found, _as_shot(job, SurfaceKey.FINISHED) | seated)


def joints(job: Parts) -> Condition:
    """The joints: dry enough, filled step by step, as deep as they may lie."""
    there = job.jointing
    return Condition(there.is_begun, there.findings, {"joints": there.evidence()} if there.is_there else {})


def handover(job: Parts) -> Condition:
    """The finished paving, level, flat, falling, dry, no unit to mend; or the base, where somebody else paves."""
    as_shot = _surface(job, carrying(job) if job.site.brief.by_others else SurfaceKey.FINISHED)
    there, spares = job.seating, job.laying.spares
    if not there.is_there:
        return as_shot
    return replace(
        as_shot, findings=(*as_shot.findings, *there.unit_findings, *job.laying.spare_findings),
        evidence=as_shot.evidence | there.lips_evidence() | {"spares": spares and spares.units},
    )  # fmt: skip


def early_edges(job: Parts) -> Condition:
    """What stands along the sides before the base goes in, joint by joint."""
    there = job.edges
    return Condition(
        bool(there.runs), (*there.findings, *there.unset()), dict(there.evidence()) if there.runs else {}
    )


def late_edges(job: Parts) -> Condition:
    """What stands along the sides once all is cut: the paving held all the way round."""
    there = job.edges
    evidence = {**(there.evidence() if there.runs else {}), **there.held_evidence()}
    return Condition(bool(there.runs), (*there.findings, *there.held_findings), evidence)


def laying(job: Parts) -> Condition:
    """The paving as it is laid; nothing is laid against an edge that has not set."""
    paved, found = paving_evidence(job.laying), (*job.laying.findings, *job.edges.waiting("laid"))
    return Condition(bool(paved), found, {"paving": paved} if paved else {})


CONDITIONS: Mapping[str, Callable[[Parts], Condition]] = {
    "brief": brief,
    "set-out": set_out,
    "excavation": excavation,
    "subgrade": subgrade,
    "separation": separation,
    "early-edges": early_edges,
    "base-lifts": base_lifts,
    "bound-base": bound_base,
    "base-proof": base_proof,
    "bedding": bedding,
    "laying": laying,
    "late-edges": late_edges,
    "seating": seating,
    "joints": joints,
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
