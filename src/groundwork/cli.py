"""The command line: assess a job file, rank schools of base for it, plan its falls, print a working one, verify a
record. Needs no database."""

import argparse
import json
import math
import os
import sys
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any

from groundwork import VERSION
from groundwork.assess import Assessment, assess
from groundwork.base import Surface
from groundwork.bedding import bed_data
from groundwork.built import Fix, Laid, NoFix
from groundwork.built import work as work_of
from groundwork.edges import edges_data
from groundwork.falls import FallRange, PlannedFalls, plan_falls
from groundwork.files import LARGEST_BUNDLE, LARGEST_FILE, JobFileError, fault_of, loads, read_exported
from groundwork.job import Job, site_data
from groundwork.jointing import Jointing
from groundwork.labour import labour_data
from groundwork.laying import laid_data, laying_data
from groundwork.lifts import works_data
from groundwork.measures import MeasureError, Unit, finding_data, format_level, format_reading, parse_fall
from groundwork.orders import orders_data
from groundwork.pattern import Border, BorderCorner, BorderCourse, PavingUnit, pattern_keys
from groundwork.plan import as_drawn
from groundwork.record import HEAD_MARK, head_of, photos_named
from groundwork.schools import EXCAVATION, PROOF
from groundwork.seating import Seating
from groundwork.soundness import Advice, advise
from groundwork.stages import StageAnswer
from groundwork.surfaces import NoSurface
from groundwork.survey import StationAnswer

EXAMPLE = Path(__file__).with_name("example.job.json")
FAULTY, UNREADABLE, IN_CONFLICT = 1, 2, 3


def main(arguments: list[str] | None = None) -> int:
    """Runs one command; returns 0, 1 where a record does not verify, 2 where a file cannot be read or not all of the
    answer be written, 3 where fixed heights are in conflict."""
    parser = argparse.ArgumentParser(prog="nivelum", description=__doc__)
    parser.add_argument("--version", action="version", version=f"nivelum {VERSION}")
    commands = parser.add_subparsers(dest="command", required=True)
    of_a_job = argparse.ArgumentParser(add_help=False)
    of_a_job.add_argument("file", help="a job file, or - for standard input")
    of_a_job.set_defaults(readings=None)
    of = [of_a_job]
    one = commands.add_parser("assess", help="assess a job file and print the assessment as JSON", parents=of)
    one.add_argument("--readings", metavar="CSV", help="readings to add: columns station, reading, and if "
                     "wanted set_up, same_ground")  # fmt: skip
    commands.add_parser("advise", help="rank the schools of base for a job file, as JSON", parents=of)
    commands.add_parser("order", help="what a job takes, stage by stage, and how it is sold, as JSON", parents=of)
    planned = commands.add_parser("plan", help="plan the falls between a job file’s heights, as JSON", parents=of)
    planned.add_argument("--least", type=_fall, default=1 / 60, help="the least fall, as 1:60")
    planned.add_argument("--most", type=_fall, default=1 / 20, help="the greatest fall, as 1:20")
    laid = commands.add_parser(
        "layout", help="lay a pattern over a job’s area, the best three starts, as JSON", parents=of
    )
    laid.add_argument("--pattern", choices=sorted(pattern_keys()), default="running-half")
    laid.add_argument("--unit", type=_unit, default=(0.200, 0.100), help="length by width, millimetres: 200x100")
    laid.add_argument("--joint", type=_millimetres, help="millimetres; the job’s own where it is left out")
    courses, corners = [str(each) for each in BorderCourse], [str(each) for each in BorderCorner]
    laid.add_argument("--border", choices=courses, default="none", help="a course along the edge")
    laid.add_argument("--corner", choices=corners, default="mitred", help="of the border")
    laid.add_argument("--turn", type=int, choices=(0, 45, 90), default=0, help="degrees against its side")
    laid.add_argument("--seed", type=int, default=1, help="which draw, of a pattern that is drawn by lot")
    laid.add_argument("--pieces", action="store_true", help="with every piece cut, in walking order along the area")
    commands.add_parser("example", help="print a working job file")
    verify = commands.add_parser("verify", help="prove an exported record")
    verify.add_argument("file", help="a record exported as JSON or with its photos as zip, or - for standard input")
    head = "a head published before, as its code says it, as NUMBER:HASH or a hash alone; may be given again"
    verify.add_argument("--head", action="append", default=[], help=head)
    page = "published heads one a line, as the crew’s page gives them; those of other jobs are passed over"
    verify.add_argument("--heads", metavar="FILE", help=page)
    given = parser.parse_args(arguments)
    try:
        code = _run(given)
        sys.stdout.flush()
        return code
    except JobFileError as error:
        print(f"nivelum: {error}", file=sys.stderr)
        return UNREADABLE
    except BrokenPipeError:
        # Whoever reads has had enough: nothing more is written, at the end of the process either.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return UNREADABLE


def _run(given: argparse.Namespace) -> int:
    if given.command == "example":
        sys.stdout.write(_read(str(EXAMPLE)))
        return 0
    if given.command == "verify":
        return _verify(given.file, given.head, given.heads)
    job = replace(loads(_read(given.file), _read(given.readings) if given.readings else None), today=date.today())
    if given.command == "advise":
        _print({"schools": [advice_data(each, job.unit) for each in advise(job)]})
        return 0
    if given.command == "layout":
        return _layout(job, given)
    if given.command == "order":
        there = assess(job)
        _print(orders_data(there.orders, job.unit) | labour_data(there.labour, job.unit))
        return 0
    if given.command == "plan":
        return _plan(job, given.least, given.most)
    _print(assessment_data(assess(job)))
    return 0


def _print(data: dict[str, Any]) -> None:
    json.dump(data, sys.stdout, indent=2, ensure_ascii=False)
    print()


def _fall(text: str) -> float:
    try:
        return parse_fall(text)
    except MeasureError as error:
        raise argparse.ArgumentTypeError(str(error)) from error


def _millimetres(text: str) -> float:
    number = float(text)
    if not 0 <= number <= 3000:
        raise argparse.ArgumentTypeError("between 0 and 3000 mm")
    return number / 1000


def _unit(text: str) -> tuple[float, float]:
    """Length and width, metres."""
    one, _by, other = text.lower().partition("x")
    try:
        long, wide = _millimetres(one), _millimetres(other)
    except ValueError as error:
        raise argparse.ArgumentTypeError("as 200x100, millimetres") from error
    if min(long, wide) < 0.01:
        raise argparse.ArgumentTypeError("no unit is smaller than 10 mm")
    return max(long, wide), min(long, wide)


def _layout(job: Job, given: argparse.Namespace) -> int:
    joint = job.specification.details.joint.width if given.joint is None else given.joint
    try:
        found = laid_data(
            job, given.pattern, PavingUnit(given.unit[0], given.unit[1], joint), pieces=given.pieces,
            border=Border(BorderCourse(given.border), BorderCorner(given.corner)), turned=given.turn, seed=given.seed,
        )  # fmt: skip
    except ValueError as error:
        print(f"nivelum: {given.pattern}: {error}", file=sys.stderr)
        return UNREADABLE
    _print(found)
    return 0


def _plan(job: Job, least: float, most: float) -> int:
    """Prints planes for a job's facets between its heights, or the heights that cannot all be met."""
    try:
        falls = FallRange(least, most)
    except ValueError as error:
        raise JobFileError("--least, --most", str(error)) from error
    depth, access = job.specification.excavation_depth, bool(job.brief.level_access)
    answer = plan_falls(
        as_drawn(job.facets), job.heights, falls, job.features, job.ground, depth, access, outline=job.edge
    )
    if isinstance(answer, PlannedFalls):
        planned = site_data(replace(job, facets=answer.facets))["facets"]
        _print({"facets": planned, "excavation_m3": answer.excavation})
        return 0
    _print(
        {
            "conflicts": [
                {
                    "heights": [give.height.name for give in conflict.gives],
                    "gives": [{"height": give.height.name,
                               "by_mm": round(give.by * 1000, 1) if math.isfinite(give.by) else None}
                              for give in conflict.gives],
                }
                for conflict in answer.conflicts
            ],
            "why": answer.why,
            "more": answer.more,
        }
    )  # fmt: skip
    return IN_CONFLICT


def advice_data(advice: Advice, unit: Unit) -> dict[str, Any]:
    """A school on a job as JSON values: reasons, findings, the base as completed for it, what is dug and taken."""
    taken = advice.quantities
    return {
        "school": advice.school.key,
        "title": advice.school.title,
        "ruled_out": advice.ruled_out,
        "score": advice.score,
        "reasons": [{"side": str(r.side), "says": r.words.text(unit), "weight": r.weight} for r in advice.reasons],
        "findings": [finding_data(finding, unit) for finding in advice.findings],
        "specification": site_data(advice.job)["specification"],
        "excavation_depth_mm": round(advice.specification.excavation_depth * 1000, 1),
        "quantities": {
            "dug_m3": round(taken.excavation, 3),
            "spoil_m3": round(taken.spoil, 3),
            "stone_t": round(taken.stone / 1000, 3),
            "concrete_m3": round(taken.concrete, 3),
            "layers": [
                {"role": str(q.layer.role), "material": q.layer.material, "area_m2": round(q.area, 3),
                 "volume_m3": round(q.volume, 4), "mass_t": round(q.mass / 1000, 3)}
                for q in taken.layers
            ],
        },
    }  # fmt: skip


def assessment_data(assessment: Assessment) -> dict[str, Any]:
    """An assessment as JSON values: levels in metres, deviations in millimetres, words in the job's units."""
    unit = assessment.job.unit
    set_up = assessment.levels.set_up
    return {
        "job": assessment.job.name,
        "units": str(unit),
        "set_up": None
        if set_up is None
        else {
            "id": set_up.id,
            "mark": set_up.mark,
            "instrument_height_m": round(assessment.levels.instrument_height(set_up), 4),
        },
        "excavation_depth_mm": round(assessment.job.specification.excavation_depth * 1000, 1),
        "stages": [_stage_data(answer, unit) for answer in assessment.stages.line],
        "evidence": assessment.stages.evidence_of(EXCAVATION if EXCAVATION in assessment.stages.steps else PROOF),
        "surfaces": [_surface_data(assessment, surface, unit) for surface in assessment.surveys.levelled],
        "laid": [_laid_data(laid) for laid in assessment.surfaces.laid],
        "dug": assessment.surfaces.dug
        and {
            "cut_m3": round(assessment.surfaces.dug.cut, 3),
            "fill_m3": round(assessment.surfaces.dug.fill, 3),
            "area_m2": round(assessment.surfaces.dug.area, 2),
        },
        "works": works_data(assessment.works, unit),
        "bed": bed_data(assessment.bedding, assessment.levels.present, unit),
        "edges": edges_data(assessment.edges, assessment.levels.present, unit),
        "laying": laying_data(assessment.laying, unit),
        "seating": _finish_data(assessment.seating, unit),
        "joints": _finish_data(assessment.jointing, unit),
    }


def _finish_data(there: Seating | Jointing, unit: Unit) -> dict[str, Any] | None:
    """How paving is seated, or its joints filled; None where this crew does not."""
    if not there.is_there:
        return None
    return there.evidence() | {"findings": [finding_data(finding, unit) for finding in there.findings]}


def _stage_data(answer: StageAnswer, unit: Unit) -> dict[str, Any]:
    """A stage: how it stands, what it stands on, what is asked and found."""
    return {
        "stage": answer.stage.key,
        "gate": str(answer.gate),
        "stands_on": list(answer.step.stands_on),
        "signatures": [str(slot) for slot in answer.step.slots],
        "held_by": answer.holding,
        "asked": [{"asks": a.ask.asks, "answer": a.answer and str(a.answer)} for a in answer.asked],
        "findings": [finding_data(finding, unit) for finding in answer.findings],
    }


def _surface_data(assessment: Assessment, surface: Surface, unit: Unit) -> dict[str, Any]:
    """One surface: its tolerance, every station with what should be read there, what was found."""
    survey, reference = assessment.surveys.of(surface.key), assessment.levels.present

    def station(answer: StationAnswer) -> dict[str, Any]:
        target = survey.target(answer.station, reference)
        return {
            "station": answer.station.name,
            "finished_level": format_level(answer.finished, unit),
            "design_level": format_level(answer.design, unit),
            "target_reading": None if target is None else format_reading(target, unit),
            "target_reading_m": None if target is None else round(target, 4),
            "in_sight": reference is not None and target is not None and reference.in_sight(target),
            "standing": str(answer.judgement.standing),
            "action": answer.judgement.action.text(unit),
        }

    return {
        "surface": surface.key,
        "below_finished_mm": round(surface.depth * 1000, 1),
        "tolerance_mm": {
            "high": round(survey.tolerance.high * 1000, 3),
            "low": round(survey.tolerance.low * 1000, 3),
        },
        "left": survey.left,
        "stations": [station(answer) for answer in survey.answers.values()],
        "findings": [finding_data(f, unit) for f in assessment.surfaces.findings(surface.key)]
        if survey.shot_count
        else [],
        **_built_data(assessment, surface.key, unit),
    }


def _built_data(assessment: Assessment, surface: str, unit: Unit) -> dict[str, Any]:
    """What a surface as built comes to: how much of it is known, puddles, and the least work; lengths in mm."""
    built, fix = assessment.surfaces.built(surface), assessment.surfaces.fix(surface)
    if isinstance(built, NoSurface):
        return {"as_built": None, "why": str(built)}
    data: dict[str, Any] = {
        "known_share": round(built.known, 4),
        "furthest_from_a_shot_m": built.hole and round(built.hole.radius, 3),
        "widest_gap_mm": built.bar.worst and round(built.bar.worst.gap * 1000, 1),
        "without_a_way_off_m2": round(built.water.trapped, 2),
        "puddles": [
            {
                "deepest_at": built.station_near(p.lowest),
                "depth_mm": round(p.depth * 1000, 1),
                "area_m2": round(p.area, 2),
                "litres": round(p.volume * 1000, 1),
                "spills_at": built.station_near(p.sill),
            }
            for p in built.puddles
        ],
    }
    if isinstance(fix, Fix):
        work = [{"station": c.station.name, "by_mm": round(c.by * 1000, 2), "work": work_of(fix, c).text(unit)}
                for c in fix.changes]  # fmt: skip
        data["least_fix"] = {"work": work, "proven": fix.proven}
    elif isinstance(fix, NoFix):
        data["least_fix"] = {"none": fix.why}
    return {"as_built": data}


def _laid_data(laid: Laid) -> dict[str, Any]:
    name, least = laid.least
    return {
        "from": laid.lower.key,
        "to": laid.upper.key,
        "specified_mm": round(laid.specified * 1000, 1),
        "mean_mm": round(laid.mean * 1000, 1),
        "least_mm": round(least * 1000, 1),
        "least_at": name,
        "volume_m3": round(laid.volume, 3),
        "area_m2": round(laid.area, 2),
    }


def _verify(file: str, heads: list[str], printed: str | None) -> int:
    """Proves an exported record, alone or with its photos, from itself; says the first thing that does not fit."""
    try:
        lines = _read(printed).splitlines() if printed else []
        published = [head_of(head) for head in heads]
        published += [head for line in lines if line.startswith(HEAD_MARK) for head in [head_of(line)]]
        record = read_exported(_bytes(file))
        if printed:
            published = [head for head in published if head.job in ("", record.job)]
        fault = fault_of(record, tuple(published))
    except (ValueError, RecursionError) as error:
        raise JobFileError(file, f"is no exported record: {error}") from error
    if fault:
        print(f"entry {fault.place} {fault.why}")
        return FAULTY
    named = len(photos_named(record.entries))
    seen = f", {named} photos {'not looked at' if record.photos is None else 'right'}" if named else ""
    crew = "" if record.names_its_crew else ", crew not proven"
    held = f", through {len(published)} published heads" if published else ", no published head given"
    print(f"{len(record.entries)} entries, unbroken{seen}{crew}{held}, head {record.head}")
    return 0


def _bytes(file: str) -> bytes:
    try:
        if file == "-":
            return sys.stdin.buffer.read(LARGEST_BUNDLE + 1)
        path = Path(file)
        if path.stat().st_size > LARGEST_BUNDLE:
            raise JobFileError(file, "too large")
        return path.read_bytes()
    except OSError as error:
        raise JobFileError(file, f"cannot be read: {error}") from error


def _read(file: str) -> str:
    try:
        if file == "-":
            return sys.stdin.read()
        path = Path(file)
        if path.stat().st_size > 10 * LARGEST_FILE:
            raise JobFileError(file, "too large")
        return path.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        raise JobFileError(file, f"cannot be read: {error}") from error


if __name__ == "__main__":
    sys.exit(main())
