"""The record as one page that reads like a site diary: what was signed on what evidence, what was accepted, what was
done each day, how to prove it."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum
from typing import Any

from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from groundwork.bedding import percent_held
from groundwork.built import AsBuilt
from groundwork.edgework import EdgeKind
from groundwork.job import Acceptance, SignOff
from groundwork.record import Head
from groundwork.schools import school
from groundwork.stages import Handover, StageAnswer, handover
from nivelum.drawing.alone import standing_alone
from nivelum.drawing.surfaces import View, surface_plan
from nivelum.edging.kinds import kind_words
from nivelum.jobs.models import Entry, Job
from nivelum.jobs.services import Made, Snapshot, snapshot, snapshot_at
from nivelum.jobs.templatetags.measures import surface_word
from nivelum.laying.kinds import pattern_words
from nivelum.recording.moments import told_minute
from nivelum.records.codes import qr
from nivelum.records.finish import SignedFinish, finish_of
from nivelum.records.plain import plain_words
from nivelum.records.telling import days


class Part(StrEnum):
    """What of a record is shown; a link shows those that were chosen for it."""

    PLAIN = "plain"
    STAGES = "stages"
    DRAWINGS = "drawings"
    DEVIATIONS = "deviations"
    PHOTOS = "photos"
    DIARY = "diary"
    HANDOVER = "handover"


PART_WORDS = {
    Part.PLAIN: gettext_lazy("In plain words, for a client"),
    Part.STAGES: gettext_lazy("Stages and who signed them"),
    Part.DRAWINGS: gettext_lazy("Drawings of the surfaces signed"),
    Part.DEVIATIONS: gettext_lazy("What was accepted"),
    Part.PHOTOS: gettext_lazy("Photos"),
    Part.DIARY: gettext_lazy("The diary, day by day"),
    Part.HANDOVER: gettext_lazy("Handover: from when, and its care"),
}


@dataclass(frozen=True)
class SignedEdge:
    """A run of edge as it was signed: the number of its side, what it is, how long, metres; each joint with how far
    its top was off its level and it off its line, where that was known; when it was bedded, if anyone said."""

    side: int
    what: str
    long: float
    joints: list[tuple[int, float | None, float | None]]
    bedded: list[str]


@dataclass(frozen=True)
class SignedBed:
    """A bed as it was signed, metres: ends of rails, those shot and the worst of them; thickness on the whole, least
    and greatest; bays with their gap and what became of them; batches of mortar; flags with the percent
    that had hold; what a trial patch came down by."""

    rails: tuple[int, int, float] | None
    thickness: tuple[float, ...] | None
    bays: list[tuple[str, float | None, str]]
    batches: int
    flags: list[tuple[str, int]]
    drop: float | None


@dataclass(frozen=True)
class SignedPaving:
    """Paving as it was signed: its pattern, the unit's sides, metres, pieces; how many rows were taped and the worst
    of them, metres; m² laid, units by batch code."""

    pattern: str
    long: float
    wide: float
    whole: int
    cut: int
    slivers: int
    rows: int
    worst: float
    laid: float
    packs: list[tuple[str, int]]


@dataclass(frozen=True)
class Signed:
    """A stage as it was signed: its signatures and the evidence frozen with the newest of them; `drawn` where its
    surface can be drawn as it was then."""

    answer: StageAnswer
    signatures: list[tuple[SignOff, Made]]
    drawn: str
    number: int

    @property
    def evidence(self) -> dict[str, Any]:
        return self.signatures[-1][0].evidence

    @property
    def stations(self) -> dict[str, int]:
        """How many stations came to each verdict."""
        found: dict[str, int] = {}
        for row in self.evidence.get("stations", ()):
            found[row["verdict"]] = found.get(row["verdict"], 0) + 1
        return found

    @property
    def edges(self) -> list[SignedEdge]:
        """The edges it was signed on."""
        return [
            SignedEdge(
                edge["side"] + 1, kind_words(EdgeKind(edge["what"])), edge["long_m"],
                [(j["joint"], _metres(j["off_mm"]), _metres(j["line_mm"])) for j in edge["joints"]],
                [told_minute(datetime.fromisoformat(at)) for at in _bedded(edge)],
            )
            for edge in self.evidence.get("edges", ())
        ]  # fmt: skip

    @property
    def finish(self) -> SignedFinish:
        """What it was signed on of the end of the work."""
        return finish_of(self.evidence)

    @property
    def paving(self) -> SignedPaving | None:
        """The paving it was signed on; None on any other stage, or where none was laid out."""
        paving = self.evidence.get("paving")
        return _paving(paving) if paving and "layout" in paving else None

    @property
    def bed(self) -> SignedBed | None:
        """The bed it was signed on; None on any other stage, or where nothing of it was measured."""
        bed = self.evidence.get("bed")
        if not bed:
            return None
        thick = bed.get("thickness")
        rails = [_metres(each["off_mm"]) for each in bed.get("rails", ())]
        known = [off for off in rails if off is not None]
        return SignedBed(
            (len(rails), len(known), max(map(abs, known), default=0.0)) if rails else None,
            tuple(thick[f"{each}_mm"] / 1000 for each in ("mean", "least", "greatest")) if thick else None,
            [(each["bay"], _metres(each["gap_mm"]), each["closed"] or "") for each in bed.get("bays", ())],
            len(bed.get("batches", ())),
            [(each["flag"], percent_held(each["contact"])) for each in bed.get("flags", ())],
            _metres(bed["trial"]["drop_mm"]) if "trial" in bed else None,
        )  # fmt: skip


def _paving(paving: dict[str, Any]) -> SignedPaving:
    layout, rows = paving["layout"], paving["rows"]
    offs = [off for row in rows for off in row["off_mm"].values()]
    return SignedPaving(
        pattern_words(layout["pattern"]), layout["unit_mm"][0] / 1000, layout["unit_mm"][1] / 1000, layout["whole"],
        layout["cut"], layout["slivers"], len(rows), max(map(abs, offs), default=0.0) / 1000, paving["laid_m2"],
        list(paving["packs"].items()),
    )  # fmt: skip


def _metres(mm: float | None) -> float | None:
    return None if mm is None else mm / 1000


def _bedded(edge: dict[str, Any]) -> list[str]:
    return [edge["bedded"]["at"]] if "bedded" in edge else []


PORTION = 100
"""So many entries of the diary come at a time, the first hundred of the record and so on; the newest of them with
what is begun of the next."""


def diary_portion(job: Job, last: int, *, newest: bool = False) -> dict[str, Any]:
    """The diary up to entry `last`, from where its portion begins, and how many entries there are before that. One
    query."""
    first = max((last - 1) // PORTION - newest, 0) * PORTION + 1
    entries = Entry.objects.filter(job=job, number__range=(first, last)).order_by("number")
    return {"diary": days(entries, job.crew.unit), "first": first, "earlier": first - 1}


def record_page(job: Job, parts: Iterable[Part] = tuple(Part), *, whole: bool = True) -> dict[str, Any]:
    """The context of the record's page, with `parts` of it, its diary `whole` or a portion; a handful of queries and
    one more a stage signed."""
    shot, shown = snapshot(job), frozenset(parts)
    assessment = shot.assessment
    head = Head(shot.head, shot.number, str(job.id))
    context: dict[str, Any] = {
        "job": job,
        "unit": job.crew.unit,
        "parts": {str(part) for part in shown},
        "assessment": assessment,
        "school": school(assessment.job.specification.school),
        "stage_line": assessment.stages.line,
        "in_hand": assessment.stages.in_hand,
        "head": head,
        "head_code": qr(str(head)),
        "number": shot.number,
        "on": timezone.localdate(),
    }
    if Part.PLAIN in shown:
        context["plain"] = plain_words(shot, with_photos=Part.PHOTOS in shown)
        context["plain_handover"], context["plain_counted"] = handed_over(shot)
    if shown & {Part.STAGES, Part.DRAWINGS}:
        context["signed"] = signed_stages(shot, drawn=Part.DRAWINGS in shown)
    if Part.DEVIATIONS in shown:
        context["deviations"] = deviations(shot)
    if Part.PHOTOS in shown:
        context["photos"] = [
            (photo, answer.stage, shot.made[photo.id]) for answer in assessment.stages.line for photo in answer.photos
        ]
    if Part.DIARY in shown:
        every = Entry.objects.filter(job=job).order_by("number")
        context |= {"diary": days(every, job.crew.unit)} if whole else diary_portion(job, shot.number, newest=True)
    if Part.HANDOVER in shown:
        context["handover"], context["counted_from"] = handed_over(shot)
    return context


def signed_stages(shot: Snapshot, drawn: bool = True) -> list[Signed]:
    """The stages that were signed, in order, overtaken ones among them."""
    found = []
    for answer in shot.assessment.stages.line:
        signatures = list(answer.signed.values()) or ([answer.sign_off] if answer.sign_off else [])
        if signatures:
            made = [(s, shot.made[s.id]) for s in signatures]
            number = max(each.number for _s, each in made)
            surface = signatures[-1].evidence.get("surface", "") if drawn else ""
            found.append(Signed(answer, made, surface, number))
    return found


def deviations(shot: Snapshot) -> list[tuple[StageAnswer, Acceptance, Made, bool]]:
    """Every stop that was accepted and not taken back, and whether it still stands."""
    return [
        (answer, acceptance, shot.made[acceptance.id], acceptance in answer.acceptances)
        for answer in shot.assessment.stages.line
        for acceptance in answer.accepted.values()
    ]


def signed_drawing(job: Job, number: int) -> str | None:
    """The surface a sign-off was given on, entry `number`, as a drawing by itself, as it stood then; None where there
    is no such sign-off or nothing to draw."""
    entry = Entry.objects.filter(job=job, number=number, kind=SignOff.KIND).first()
    surface = entry.body["evidence"].get("surface") if entry else None
    if entry is None or surface is None:
        return None
    then = snapshot_at(job, number).assessment
    if not isinstance(then.surfaces.built(surface), AsBuilt):
        return None
    unit = job.crew.unit
    seen = surface_plan(then, surface, View.LEVELS, unit)
    name = surface_word(then.job.specification.surface(surface))
    title = _("{surface} as signed by {name}").format(surface=name, name=entry.by_name)
    return standing_alone(seen.drawing, title, [(line.css, line.says) for line in seen.keys])


def handed_over(shot: Snapshot) -> tuple[Handover, bool]:
    """What is handed over, and whether it is counted from joints that were filled or signed, or only from today."""
    assessment = shot.assessment
    joints = assessment.stages.of("joints").sign_off if "joints" in assessment.stages.steps else None
    filled = assessment.jointing.filled_at
    day: date = timezone.localtime(shot.made[joints.id].at).date() if joints else timezone.localdate()
    if filled is not None:
        day = filled.date()
    curing = assessment.works.curing
    of = school(assessment.job.specification.school)
    return handover(of, assessment.job.brief.traffic, day, curing.may if curing else ()), bool(joints or filled)
