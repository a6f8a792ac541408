"""Bedding: will the bed be even before anyone lays on it?"""

from dataclasses import replace
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.assess import Assessment, overtaken
from groundwork.bedding import PACKED_EVERY, PLACES, covered, notch, with_settlement
from groundwork.bedwork import RailShot
from groundwork.job import Job
from groundwork.levels import Reference
from groundwork.measures import Unit, Words
from groundwork.shape import exactly
from groundwork.stages import LessonKind
from groundwork.verdict import Call, Suspicion
from nivelum.bases.forms import KeepForm
from nivelum.bases.views.leaf import keep, stage_keys, tried_on
from nivelum.beds.forms import DipForm, PlanForm, RailShotForm, TodayForm, TrialForm
from nivelum.beds.kinds import end_words
from nivelum.beds.screens import bed_screen
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.beds import bay_words, bed_drawing, rail_drawing
from nivelum.drawing.kept import kept
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.lessons import learnt
from nivelum.jobs.models import Entry
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.readings.hand import hand
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.doubt import read_once
from nivelum.recording.fields import bare
from nivelum.recording.forms import EntryForm, StrikeForm
from nivelum.recording.services import may_strike
from nivelum.recording.setting import SettingPlace, set_rows, travels


@require_GET
@job_view(Verb.SEE)
def rails(request: Request, visit: Visit) -> HttpResponse:
    """Where rails lie, what should be read at each end, how they were set."""
    return shown(request, _at_rails(visit), _rails(request, visit, snapshot(visit.job), _asked(request)))


@require_GET
@job_view(Verb.SEE)
def rails_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    return render(request, "bed/now.html", _rails(request, visit, snapshot(visit.job), _asked(request)))


def _asked(request: Request) -> tuple[str, str]:
    return request.GET.get("rail", ""), request.GET.get("end", "")


@require_POST
@job_view(Verb.MEASURE)
def plan_rails(request: Request, visit: Visit) -> HttpResponse:
    """A new plan of rails, in the place of the one before."""
    return _kept(request, visit, PlanForm(request.POST, unit=visit.job.crew.unit), "board", "plan_form")


@require_POST
@job_view(Verb.MEASURE)
def rail_shot(request: Request, visit: Visit) -> HttpResponse:
    """What was read on top of a rail at one of its ends."""
    assessment = snapshot(visit.job).assessment
    held, bed = hand(request, visit, assessment), assessment.bedding
    form = RailShotForm(request.POST, unit=visit.job.crew.unit, method=held.method)

    def unsure(read: RailShot) -> Words | None:
        if bed.planned is None or read.plan != bed.planned.id or (read.rail, read.end) not in bed.ends:
            return None
        return bed.too_unsure(read.rail, read.end, assessment.levels.references.get(read.set_up))

    def again(read: RailShot) -> tuple[str, str]:
        at = reverse("rails", args=[visit.job.id])
        return f"{read.rail}, {end_words(bed.planned, read.end)}", f"{at}?rail={read.rail}&end={read.end}"

    done, doubt = read_once(visit, form, unsure, bed.misread, again)
    return _told(request, visit, done, "shot_form", form, doubt)


@require_POST
@job_view(Verb.MEASURE)
def rail_dip(request: Request, visit: Visit) -> HttpResponse:
    """The gap under a string along a rail."""
    return _kept(request, visit, DipForm(request.POST, unit=visit.job.crew.unit), "gap", "dip_form")


@require_GET
@job_view(Verb.SEE)
def bed_thickness(request: Request, visit: Visit) -> HttpResponse:
    """How thick the bed will be over the base as shot, and how far to screed today."""
    shot = snapshot(visit.job)
    bed, unit = shot.assessment.bedding, visit.job.crew.unit
    asked, crews = "people" in request.GET, learnt(visit.job, LessonKind.RATE)
    takes_crews = crews is not None and request.GET.get("rate") == "crew"
    form = TodayForm(request.GET if asked else None)
    square_metres, rate = 0.0, shot.assessment.laying.rate or bed.laying_rate
    if crews is not None and takes_crews:
        rate = crews.value
    if asked and form.is_valid():
        square_metres = form.cleaned_data["people"] * form.cleaned_data["hours"] * rate
    reached = covered(shot.assessment.laying.to_lay(bed.plan.bays), square_metres) if bed.plan else []
    context = bed_screen(visit, shot, "bed-thickness") | {
        "bed": bed, "form": form, "rate": rate, "is_own": shot.assessment.laying.rate is not None and not takes_crews,
        "learnt": crews, "takes_crews": takes_crews,
        "square_metres": square_metres,
        "covers": sum(bay.area * share for bay, share in reached), "bays": bay_words(reached, unit),
        "scene": bed_drawing(shot.assessment, unit, square_metres),
        "findings": [f for f in bed.findings if f.rule in ("K02", "K03", "K04")],
    }  # fmt: skip
    return render(request, "bed/thickness.html", context, status=422 if form.errors else 200)


@require_GET
@job_view(Verb.SEE)
def trial(request: Request, visit: Visit) -> HttpResponse:
    """What seating takes off, unit by unit of a trial patch."""
    return shown(request, _at_trial(visit), _trial(visit, snapshot(visit.job)))


@require_POST
@job_view(Verb.MEASURE)
def trial_unit(request: Request, visit: Visit) -> HttpResponse:
    """A unit before and after; or one struck out."""
    strikes = "strikes" in request.POST
    form: EntryForm = StrikeForm(request.POST) if strikes else TrialForm(request.POST, unit=visit.job.crew.unit)
    done = recorded(visit, form, "strikes" if strikes else "before")
    wrong = {} if done else {"strike_form" if strikes else "form": form}
    return answered(request, done, _at_trial(visit), lambda: _trial(visit, snapshot(visit.job)) | wrong)


@require_POST
@job_view(Verb.DESIGN)
def take_trial(request: Request, visit: Visit) -> HttpResponse:
    """The trial's drop takes the place of the school's settlement: a new version of the design."""
    seated = snapshot(visit.job).assessment.bedding.trial
    changed = _with_trial(snapshot(visit.job))
    if seated is None or changed is None:
        messages.error(request, _("Measure at least {n} units first.").format(n=PLACES))
        return redirect("trial", job_id=visit.job.id)
    kept = keep(request, visit, changed, reverse("trial", args=[visit.job.id]))
    if isinstance(kept, HttpResponse):
        return kept
    messages.error(request, kept.message)
    return redirect("trial", job_id=visit.job.id)


def _with_trial(shot: Snapshot) -> Job | None:
    """The design with what the trial patch came down by; None where too few units were measured, or the bed is too
    thin for that."""
    seated, job = shot.assessment.bedding.trial, shot.assessment.job
    if seated is None or not seated.is_enough:
        return None
    try:
        return replace(job, specification=with_settlement(job.specification, seated.drop))
    except ValueError:
        return None


def _trial(visit: Visit, shot: Snapshot) -> dict[str, Any]:
    bed = shot.assessment.bedding
    seated, changed = bed.trial.seated if bed.trial else (), _with_trial(shot)
    lost = overtaken(shot.assessment, tried_on(shot, changed)) if changed else ()
    return bed_screen(visit, shot, "trial") | {
        "bed": bed, "form": TrialForm(unit=visit.job.crew.unit), "strike_form": StrikeForm(), "places": PLACES,
        "units": [(u, u.before.metres - u.after.metres, may_strike(visit, shot.made[u.id].by_id)) for u in seated],
        "findings": [f for f in bed.findings if f.rule == "K06"], "may_design": visit.may(Verb.DESIGN),
        "changed": changed, "overtaken": lost, "learnt": learnt(visit.job, LessonKind.SETTLEMENT),
        "keep": KeepForm(initial={"version": shot.assessment.job.version, "knows": stage_keys(lost)}),
    }  # fmt: skip


def _kept(request: Request, visit: Visit, form: EntryForm, field: str, name: str) -> HttpResponse:
    """Records what `form` holds; the rails as they then stand."""
    return _told(request, visit, recorded(visit, form, field), name, form)


def _told(
    request: Request, visit: Visit, done: Entry | None, name: str, form: EntryForm, doubt: Suspicion | None = None
) -> HttpResponse:  # fmt: skip
    wrong = {} if done else {name: form, "suspicion": doubt}
    context = {"last": (done.body.get("rail", ""), done.body.get("end", ""))} if done else {}
    asked = ("", "") if done else (request.POST.get("rail", ""), request.POST.get("end", ""))
    return answered(
        request, done, _at_rails(visit), lambda: _rails(request, visit, snapshot(visit.job), asked) | context | wrong
    )


def _rails(request: Request, visit: Visit, shot: Snapshot, asked: tuple[str, str]) -> dict[str, Any]:
    """Everything of the rails; in hand the end `asked` for, or the next one."""
    assessment, unit = shot.assessment, visit.job.crew.unit
    bed, held = assessment.bedding, hand(request, visit, assessment)
    chosen = asked if asked in bed.ends else bed.next_end
    in_hand = dict(zip(("rail", "end"), chosen or ("", ""), strict=True))
    end = bed.ends[chosen] if chosen else None
    target = bed.target(*chosen, held.reference) if chosen else None
    return bed_screen(visit, shot, "rails") | {
        "bed": bed, "hand": held, "chosen": chosen, "end": end, "target": target,
        "in_sight": target is not None and held.reference is not None and held.reference.in_sight(target),
        "drawing": rail_drawing(assessment, unit, chosen) if bed.has_rails else "",
        "lines": _lines(shot, held.reference), "findings": [f for f in bed.findings if f.rule in ("K01", "K05")],
        "packs": bed.packs(end.rail.name) if end else (), "notch": notch(assessment.site, 0.0),
        "should_hang": bed.hangs(end.rail) if end else 0.0,
        "sags": bed.under_the_board(),
        "unsure": bed.too_unsure(*chosen, held.reference) if chosen and target is not None else None,
        "plan_form": PlanForm(unit=unit, initial=_as_planned(shot)), "shot_form": RailShotForm(unit=unit),
        "dip_form": DipForm(unit=unit),
        "travels": travels(_read_by(assessment, unit, held.reference.id if held.reference else ""), in_hand)
        if bed.ends else None, "packed_every": PACKED_EVERY,
    }  # fmt: skip


@kept
def _read_by(assessment: Assessment, unit: Unit, set_up: str) -> dict[str, Any]:
    """Every end in the order they are walked with what should be read there against a set-up, for a page without a
    signal."""
    bed, reference = assessment.bedding, assessment.levels.references.get(set_up)
    places = (
        SettingPlace(
            {"rail": rail, "end": end}, f"{rail}, {end_words(bed.planned, end)}", rail,
            bed.target(rail, end, reference), bed.foreseen(rail, end, reference), each.call is Call.GOOD,
        )
        for (rail, end), each in bed.ends.items()
    )  # fmt: skip
    return set_rows(places, bed.rule, unit)


def _as_planned(shot: Snapshot) -> dict[str, Any]:
    """The plan as it would be typed now, whatever rod it was typed for."""
    plan, unit = shot.assessment.bedding.planned, shot.assessment.job.unit
    if plan is None:
        return {}
    return {
        "board": exactly(plan.board.metres, unit), "way": plan.way, "tube": bare(plan.tube.metres, unit),
        "longest": exactly(plan.longest.metres, unit),
    }  # fmt: skip


def _lines(shot: Snapshot, reference: Reference | None) -> list[dict[str, Any]]:
    """Every rail with both its ends and what should be read there."""
    bed = shot.assessment.bedding
    if bed.plan is None or bed.planned is None:
        return []
    longest = bed.planned.longest.metres
    return [
        {
            "rail": rail,
            "tubes": rail.tubes(longest),
            "hangs": bed.dipped.get(rail.name),
            "ends": [(bed.ends[rail.name, end], bed.target(rail.name, end, reference)) for end in ("start", "end")],
        }
        for rail in bed.plan.rails.values()
    ]


def _at_rails(visit: Visit) -> RecordedAt:
    return RecordedAt("bed/rails.html", "bed/now.html", reverse("rails", args=[visit.job.id]))


def _at_trial(visit: Visit) -> RecordedAt:
    return RecordedAt("bed/trial.html", "bed/units.html", reverse("trial", args=[visit.job.id]))
