"""Edges: does every edge stand in line, at its height?"""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any
from uuid import UUID, uuid5

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.assess import Assessment
from groundwork.edges import BACKFILL, SET, EdgeRun, HaunchWait, JointAnswer, Strung, bends, fills
from groundwork.edgework import HIGHEST_STRING, EdgeKind, EdgePlanned, EdgeShot
from groundwork.measures import Measured, MeasureError, Unit, Words, parse_layer
from groundwork.shape import exactly
from groundwork.verdict import Call, Suspicion
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.edges import edge_plan, edge_section
from nivelum.drawing.kept import kept
from nivelum.edging.forms import (
    HELD,
    AcrossForm,
    BackfillForm,
    BeddedForm,
    BoardForm,
    EdgeForm,
    HeldForm,
    LineForm,
    SpikesForm,
    StrungForm,
    TopForm,
    usual_sizes,
)
from nivelum.edging.kinds import held_words, kind_words
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.models import Entry
from nivelum.jobs.outbox import Settled
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Author, Snapshot, snapshot
from nivelum.readings.hand import Hand, hand
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.doubt import read_once
from nivelum.recording.fields import bare
from nivelum.recording.forms import EntryForm
from nivelum.recording.moments import minute_words
from nivelum.recording.services import record
from nivelum.recording.setting import SettingPlace, set_rows, travels

LONGEST_NUMBER = 6
USUAL_OVER = {Unit.MILLIMETRES: "100", Unit.METRES: "100", Unit.FEET_INCHES: "4", Unit.FEET_TENTHS: "0.3"}


@require_GET
@job_view(Verb.SEE)
def edges(request: Request, visit: Visit) -> HttpResponse:
    """The sides with what stands along each; of the run in hand every joint."""
    context = _context(request, visit, snapshot(visit.job), request.GET.get("joint", ""))
    return shown(request, _at(visit, request.GET.get("side", "")), context)


@require_GET
@job_view(Verb.SEE)
def edges_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    asked = request.GET.get("joint", "")
    return render(request, "edges/now.html", _context(request, visit, snapshot(visit.job), asked))


@require_POST
@job_view(Verb.MEASURE)
def plan_edge(request: Request, visit: Visit) -> HttpResponse:
    """What is to stand along a side, in the place of what was planned there; or all round, but for walls that are
    there."""
    form = EdgeForm(request.POST, unit=visit.job.crew.unit)
    if form.is_valid() and form.cleaned_data["round"]:
        return _all_round(request, visit, form)
    return _kept(request, visit, form, "upstand", "edge_form")


def _all_round(request: Request, visit: Visit, form: EdgeForm) -> HttpResponse:
    """One plan a side, each under an identifier that follows from the one sent, so that sent again it is written
    once; none where one of them cannot be."""
    planned, assessment = form.value(), snapshot(visit.job).assessment
    plans = [_round(planned, assessment, side) for side in range(len(assessment.site.outline))]
    for plan in plans:
        if found := plan.wrong(assessment.standing):
            why = found.words.text(visit.job.crew.unit, _)
            field = found.field if found.field in form.fields else "upstand"
            form.add_error(field, _("Side {n}: {why}.").format(n=plan.side + 1, why=why))
            return _kept(request, visit, form, "upstand", "edge_form")
    others = [plan for plan in plans if plan.side != planned.side]
    try:
        done = recorded(visit, form, "upstand")
    except Settled as settled:
        if isinstance(settled.outcome, Entry):
            _write(visit, others)
        raise
    if done:
        _write(visit, others)
    return _told(request, visit, done, "edge_form", form)


def _write(visit: Visit, plans: list[EdgePlanned]) -> None:
    visit.written.extend(record(visit, plan, Author(visit.person)) for plan in plans)


def _round(planned: EdgePlanned, assessment: Assessment, side: int) -> EdgePlanned:
    """What is planned along one side as along the others, but for a wall that is there."""
    if side == planned.side:
        return planned
    by_wall = assessment.edges.options(side)[0].kind is EdgeKind.WALL
    own = str(uuid5(UUID(planned.id), str(side)))
    return replace(planned, id=own, side=side, what=EdgeKind.WALL if by_wall else planned.what)


@require_POST
@job_view(Verb.MEASURE)
def edge_top(request: Request, visit: Visit) -> HttpResponse:
    """What was read on top of an edge at a joint; what looks misread is asked about first."""
    assessment = snapshot(visit.job).assessment
    held, there = hand(request, visit, assessment), assessment.edges
    form = TopForm(request.POST, unit=visit.job.crew.unit, method=held.method)
    side = _number(request.POST.get("side", ""))

    def unsure(top: EdgeShot) -> Words | None:
        run = there.runs.get(-1 if side is None else side)
        if run is None or run.plan.id != top.edge or top.joint >= len(run.joints):
            return None
        return there.too_unsure(run.side, top.joint, assessment.levels.references.get(top.set_up))

    def again(top: EdgeShot) -> tuple[str, str]:
        at = reverse("edges", args=[visit.job.id])
        return _("joint {n}").format(n=top.joint), f"{at}?side={side or 0}&joint={top.joint}"

    done, doubt = read_once(visit, form, unsure, there.misread, again)
    return _told(request, visit, done, "top_form", form, doubt)


@require_POST
@job_view(Verb.MEASURE)
def edge_string(request: Request, visit: Visit) -> HttpResponse:
    """What was taped from a string over both ends down to the top at a joint."""
    form = StrungForm(request.POST, unit=visit.job.crew.unit)
    return _told(request, visit, recorded(visit, form, "reading"), "string_form", form)


@require_POST
@job_view(Verb.MEASURE)
def edge_line(request: Request, visit: Visit) -> HttpResponse:
    """How far an edge stands off its line at a joint."""
    return _kept(request, visit, LineForm(request.POST, unit=visit.job.crew.unit), "off", "line_form")


@require_POST
@job_view(Verb.MEASURE)
def edge_bedded(request: Request, visit: Visit) -> HttpResponse:
    """When bed and haunch of an edge were made."""
    return _kept(request, visit, BeddedForm(request.POST, unit=visit.job.crew.unit), "degrees", "bedded_form")


@require_POST
@job_view(Verb.MEASURE)
def edge_board(request: Request, visit: Visit) -> HttpResponse:
    """A board of forms, left out or closed again."""
    return _kept(request, visit, BoardForm(request.POST), "board", "board_form")


@require_POST
@job_view(Verb.MEASURE)
def side_work(request: Request, visit: Visit, what: str) -> HttpResponse:
    """What `holds` a side, the `spikes` in its edging, the soil `behind` it."""
    makes: dict[str, tuple[EntryForm, str]] = {
        "holds": (HeldForm(request.POST), "holds"), "spikes": (SpikesForm(request.POST), "number"),
        "behind": (BackfillForm(request.POST, unit=visit.job.crew.unit), "below"),
    }  # fmt: skip
    if what not in makes:
        raise Http404
    return _kept(request, visit, *makes[what], f"{what}_form")


def _kept(request: Request, visit: Visit, form: EntryForm, field: str, name: str) -> HttpResponse:
    return _told(request, visit, recorded(visit, form, field), name, form)


def _told(
    request: Request, visit: Visit, done: Entry | None, name: str, form: EntryForm, doubt: Suspicion | None = None
) -> HttpResponse:  # fmt: skip
    """The room as it is now, with what the entry came to, or the form that was not taken and why."""
    stays = "" if done else request.POST.get("joint", "")

    def now() -> dict[str, Any]:
        shot = snapshot(visit.job)
        found = _context(request, visit, shot, stays)
        if done is None:
            planning = _planning(request, shot, found["side"], found["run"]) if name == "edge_form" else {}
            return found | planning | {name: form, "suspicion": doubt}
        if done.kind in ("edge_top", "edge_string") and found["run"]:
            found["told"] = shot.assessment.edges.joints(found["side"]).get(done.body["joint"])
        return found

    return answered(request, done, _at(visit, request.POST.get("side", "")), now)


def _at(visit: Visit, side: str) -> RecordedAt:
    where = reverse("edges", args=[visit.job.id]) + ("" if _number(side) is None else f"?side={side}")
    return RecordedAt("edges/edges.html", "edges/now.html", where)


def _context(request: Request, visit: Visit, shot: Snapshot, asked: str) -> dict[str, Any]:
    """Everything of the room; of the run in hand the joint `asked` for, or the next one."""
    assessment, unit = shot.assessment, visit.job.crew.unit
    there, held = assessment.edges, hand(request, visit, assessment)
    side = _side(request, shot)
    run = there.runs.get(side)
    joints = there.joints(side) if run else {}
    number = _number(asked)
    joint = number if number in joints else there.next_joint(side) if run else None
    return job_screen(visit, shot, "edges") | {
        "leaf": "edges", "may_measure": visit.may(Verb.MEASURE), "hand": held, "side": side, "run": run,
        "sides": [(n, _stands(shot, n)) for n in range(len(assessment.site.outline))],
        "what": kind_words(run.plan.what) if run else "",
        "plan": edge_plan(assessment, unit, side),
        "findings": [f for f in there.findings if f.found.names.get("side") == str(side + 1)],
        "held": there.held[side], "held_words": held_words(there.held[side]), "spikes": there.spiked.get(side),
        "behind": there.behind.get(side), "backfill": BACKFILL, "all_held": there.held_findings,
        "holds_form": HeldForm(), "spikes_form": SpikesForm(), "behind_form": BackfillForm(unit=unit),
        "holds": HELD.items(),
        **(_at_run(request, shot, run, held, joint) if run else {}),
        **(_planning(request, shot, side, run) if _plans(request, run) else {}),
    }  # fmt: skip


def _at_run(request: Request, shot: Snapshot, run: EdgeRun, held: Hand, joint: int | None) -> dict[str, Any]:
    """A run as it stands, what is to be read at the joint in hand by what is held, and what has to set."""
    assessment, unit, side = shot.assessment, shot.assessment.job.unit, run.side
    there = assessment.edges
    joints = there.joints(side)
    joint = joint if joint is not None or not joints else min(joints)
    over = _over(request, unit)
    strung = there.string(side, over.metres) if over else None
    if strung and (joint is None or not strung.is_between(joint)):
        joint = _under_the_string(joints, strung)
    set_up = held.reference.id if held.reference else ""
    targets, rows = _read_by(assessment, unit, side, set_up, over.metres if over else None)
    target = targets.get(joint) if joint is not None else None
    by_level = not over and target is not None and joint is not None
    return {
        "joints": [(each, targets[n], run.off_string(n)) for n, each in joints.items()], "joint": joint,
        "answer_at": joints.get(joint) if joint is not None else None, "target": target,
        "in_sight": bool(over) or (target is not None and held.reference is not None
                                   and held.reference.in_sight(target)),
        "unsure": there.too_unsure(side, joint, held.reference) if by_level and joint is not None else None,
        "over": over, "strung": strung,
        "usual_over": USUAL_OVER[unit] if there.string(side, 0.1) and len(joints) > 2 else "",
        "resets": there.resets(side), "takes": there.takes(side),
        "section": edge_section(assessment, unit, side, joint),
        "travels": travels(rows, {"joint": str(joint)}),
        "wait": _wait(there.haunch(side)), "sets": run.plan.what.is_set_in_concrete,
        "boards": range(1, len(run.pieces) + 1) if run.plan.what is EdgeKind.FORM else (),
        "board_out": next((board for n, board in there.boards_out if n == side), None),
        "top_form": TopForm(unit=unit), "line_form": LineForm(unit=unit),
        "string_form": StrungForm(unit=unit) if over else None,
        "bedded_form": BeddedForm(unit=unit, initial=_mild(unit)) if run.plan.what.is_set_in_concrete else None,
        "board_form": BoardForm() if run.plan.what is EdgeKind.FORM else None,
    }  # fmt: skip


def _mild(unit: Unit) -> dict[str, Any]:
    """What one says of concrete made now on a mild day."""
    return {"at": timezone.localtime(), "degrees": 15 if unit.is_metric else 60}


def _plans(request: Request, run: EdgeRun | None) -> bool:
    """Whether the side in hand is to be planned: none stands there, or somebody wants another."""
    return run is None or not {"plan", "across"}.isdisjoint(request.GET)


def _planning(request: Request, shot: Snapshot, side: int, run: EdgeRun | None) -> dict[str, Any]:
    """What can stand along a side, ranked, and whether whole units close the width across before it is fixed."""
    assessment, unit = shot.assessment, shot.assessment.job.unit
    there, school = assessment.edges, assessment.case.school
    options = there.options(side)
    planned = _as_planned(run) if run else {"what": str(options[0].kind)}
    usual = assessment.site.specification.details.joint.width, *school.joint_bounds
    asked = request.GET if "across" in request.GET else None
    form = AcrossForm(asked, unit=unit, joint=usual)
    courses = None
    if asked is None and run is None:
        tried = AcrossForm({name: field.initial for name, field in form.fields.items()}, unit=unit, joint=usual)
        courses = tried.courses() if tried.is_valid() else None
    elif asked is not None and form.is_valid():
        courses = form.courses()
    return {
        "plans": True,
        "options": [(option, kind_words(option.kind), usual_sizes(option.kind, unit)) for option in options],
        "edge_form": EdgeForm(unit=unit, initial={"side": side} | planned),
        "across_form": form, "courses": courses, "asked_across": asked is not None,
        "across": fills(assessment.site, side, courses) if courses else (),
        "bends": bends(assessment.site, side, courses) if courses else None,
    }  # fmt: skip


def _under_the_string(joints: Mapping[int, JointAnswer], strung: Strung) -> int | None:
    """The first joint between the string's ends that is not right, else the first between them."""
    between = [n for n in joints if strung.is_between(n)]
    return next((n for n in between if joints[n].call is not Call.GOOD), next(iter(between), None))


def _wait(wait: HaunchWait | None) -> dict[str, Any] | None:
    """From when on one may work beside a haunch, in words."""
    if wait is None:
        return None
    return {
        "made": minute_words(wait.made.at), "laid": wait.laid and minute_words(wait.laid),
        "plated": wait.plated and minute_words(wait.plated),
    }  # fmt: skip


def _over(request: Request, unit: Unit) -> Measured | None:
    """How far over the ends a string is pulled that is worked by, as it was typed; None without one."""
    typed = request.POST.get("over") or request.GET.get("over", "")
    try:
        over = parse_layer(typed, unit) if typed else None
    except MeasureError:
        return None
    return over if over and 0 < over.metres <= HIGHEST_STRING else None


def _side(request: Request, shot: Snapshot) -> int:
    """The side asked for, counted from 0; else the first whose edge is not right yet, else the first with one."""
    asked = request.POST.get("side", request.GET.get("side", ""))
    there = shot.assessment.edges
    if (number := _number(asked)) is not None and number < len(shot.assessment.site.outline):
        return number
    open_ones = [side for side in there.runs if there.next_joint(side) is not None]
    return next(iter(open_ones or there.runs), 0)


def _number(text: str) -> int | None:
    """A side or a joint as an address names it; None for anything else."""
    return int(text) if text.isascii() and text.isdigit() and len(text) < LONGEST_NUMBER else None


def _stands(shot: Snapshot, side: int) -> str:
    """What stands along a side, and how far it is."""
    there = shot.assessment.edges
    if side not in there.runs:
        return held_words(there.held[side]) if there.held[side] else _("nothing planned")
    answers = there.joints(side).values()
    left = sum(each.call is not Call.GOOD for each in answers)
    what = kind_words(there.runs[side].plan.what)
    return _("{what}: {n} to set").format(what=what, n=left) if left else _("{what}: set").format(what=what)


def _as_planned(run: EdgeRun) -> dict[str, Any]:
    """The run's plan as it would be typed now, whatever rod it was typed for."""
    plan, unit = run.plan, run.job.unit
    sizes = {name: bare(getattr(plan, name).metres, unit) for name in ("joint", "width", "height")}
    upstand = plan.upstand.metres
    sizes["upstand"] = f"{'-' if upstand < 0 else ''}{bare(abs(upstand), unit)}"
    return sizes | {"length": exactly(plan.length.metres, unit), "what": str(plan.what)}


@kept
def _read_by(
    assessment: Assessment, unit: Unit, side: int, set_up: str, over: float | None
) -> tuple[dict[int, float | None], dict[str, Any]]:
    """What should be read at every joint of a run against a set-up, or taped from a string so far over its ends; and
    the same for a page without a signal."""
    there, called = assessment.edges, _("joint {n}")
    strung = there.string(side, over) if over else None
    reference = assessment.levels.references.get(set_up)
    joints = there.joints(side)
    targets = {n: strung.target(n) if strung else there.target(side, n, reference) for n in joints}
    places = (
        SettingPlace(
            {"joint": str(number)}, called.format(n=number), called.format(n=number), targets[number],
            strung.foreseen(number) if strung else there.foreseen(side, number, reference), answer.call is Call.GOOD,
        )
        for number, answer in joints.items()
        if strung is None or strung.is_between(number)
    )  # fmt: skip
    return targets, set_rows(places, SET, unit)
