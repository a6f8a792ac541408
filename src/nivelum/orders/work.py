"""Work: hours by stage at the crew's pace, against what was worked; tools by stage; what is on hire."""

from collections.abc import Iterable, Mapping
from itertools import groupby
from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.labour import KitItem, Task
from groundwork.measures import Unit, format_area, format_distance, format_volume
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.lessons import hours_so_far, paces_of
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.money.services import Plan, plan_of, terms_of
from nivelum.money.shown import HIRED, stage_title
from nivelum.orders.forms import HireEndedForm, HireForm, HoursForm
from nivelum.orders.kinds import day_words
from nivelum.orders.screens import order_screen
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.forms import EntryForm, StrikeForm

PER = {"m3": format_volume, "m2": format_area, "m": format_distance}
FIRST = {"worked": "hours", "hire": "first", "back": "last", "strike": "strikes"}
"""Where what is wrong of a form as a whole is told."""


def _in_an_hour(task: Task, unit: Unit) -> str:
    """What one person does in an hour at this crew's pace."""
    amount = task.done.rate.amount / task.pace
    formatted = PER.get(task.done.rate.per)
    return formatted(amount, unit) if formatted else f"{amount:.0f}"


def _stages(plan: Plan, worked: Mapping[str, float], unit: Unit) -> list[dict[str, Any]]:
    """Stage by stage what is done, in how many hours, and what was worked."""
    return [
        {
            "title": stage_title(stage), "hours": plan.hours[stage], "worked": worked.get(stage),
            "tasks": [(_(task.done.rate.title), task.done.says, _in_an_hour(task, unit), task.hours) for task in of],
        }
        for stage, of in groupby(plan.tasks, key=lambda task: task.stage)
    ]  # fmt: skip


def _kit(items: Iterable[KitItem]) -> list[tuple[str, list[tuple[str, bool]]]]:
    return [
        (stage_title(stage), [(_(item.what), bool(item.hire)) for item in of])
        for stage, of in groupby(items, key=lambda item: item.stage)
    ]


def _work(visit: Visit, shot: Snapshot) -> dict[str, Any]:
    unit, assessment = visit.job.crew.unit, shot.assessment
    terms, paces, today = terms_of(visit.job.crew), paces_of(visit.job), timezone.localdate()
    plan = plan_of(assessment, paces, terms, today)
    worked, items = hours_so_far(shot), assessment.labour.kit
    here = {each.what: each for each in assessment.labour.on_hire if each.last is None}
    hires = [
        {"key": hire.what, "title": str(HIRED[hire.what]), "first": day_words(hire.first),
         "last": day_words(hire.last), "here": here.get(hire.what),
         "since": day_words(here[hire.what].first) if hire.what in here else ""}
        for hire in {each.what: each for each in reversed(plan.hires)}.values()
    ]  # fmt: skip
    choices = [(stage, stage_title(stage)) for stage in assessment.stages.steps]
    initial = {"on": today.isoformat(), "people": terms.people, "stage": assessment.stages.in_hand.stage.key}
    written = assessment.labour.entries[::-1]
    said = {stage: round(hours, 2) for stage, hours in worked.items()}
    return order_screen(visit, shot, "hours") | {
        "amounts": assessment.labour.amounts, "hours_key": f"{paces} {said} {terms.people} {terms.hours_a_day}",
        "stages": lambda: _stages(plan, worked, unit), "items": items, "kit": lambda: _kit(items), "hires": hires,
        "people": terms.people, "a_day": terms.hours_a_day,
        "all_hours": sum(plan.hours.values()), "all_worked": sum(worked.values()),
        "written": [(e, stage_title(e.stage), day_words(e.on)) for e in written[:12]], "paced": bool(paces),
        "hours_form": HoursForm(stages=choices, initial=initial, auto_id="id_h_%s"),
        "hire_form": HireForm(initial={"first": today.isoformat()}), "back_form": HireEndedForm(),
        "today": today.isoformat(), "strike_form": StrikeForm(),
    }  # fmt: skip


@require_GET
@job_view(Verb.SEE)
def work(request: Request, visit: Visit) -> HttpResponse:
    """Hours, kit, hire."""
    return shown(request, _at(visit), _work(visit, snapshot(visit.job)))


@require_GET
@job_view(Verb.SEE)
def work_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    return render(request, "orders/work_now.html", _work(visit, snapshot(visit.job)))


@require_POST
@job_view(Verb.MEASURE)
def record_hours(request: Request, visit: Visit, what: str) -> HttpResponse:
    """Hours `worked`, something on `hire` or `back` from it, one of these struck out."""
    steps = snapshot(visit.job).assessment.stages.steps
    makes: dict[str, EntryForm] = {
        "worked": HoursForm(request.POST, stages=[(key, stage_title(key)) for key in steps], auto_id="id_h_%s"),
        "hire": HireForm(request.POST), "back": HireEndedForm(request.POST), "strike": StrikeForm(request.POST),
    }  # fmt: skip
    if what not in makes:
        raise Http404
    form = makes[what]
    done = recorded(visit, form, FIRST[what])
    named = {"worked": "hours_form", "hire": "hire_form", "back": "back_form", "strike": "strike_form"}
    wrong: dict[str, Any] = (
        {} if done else {named[what]: form, "wrong_of": request.POST.get("what") or request.POST.get("hire")}
    )
    return answered(request, done, _at(visit), lambda: _work(visit, snapshot(visit.job)) | wrong)


def _at(visit: Visit) -> RecordedAt:
    return RecordedAt("orders/work.html", "orders/work_now.html", reverse("hours", args=[visit.job.id]))
