"""The programme: when it is done, what holds it, what has changed since yesterday; a task moved, a day promised."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.views.decorators.http import require_GET, require_POST
from icalendar import Calendar, Event

from groundwork.daywork import TaskMoved
from groundwork.measures import Unit
from groundwork.programme import PlannedTask, Programme
from groundwork.schools import stagebook
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.days.forms import PromisedForm, TaskMovedForm
from nivelum.days.plans import (
    DaysNow,
    as_moved,
    causes,
    keep_todays,
    kept_before,
    moved_of,
    programme_of,
    promised_of,
    since_then,
    standing,
)
from nivelum.days.screens import days_screen
from nivelum.days.words import HELD, day_words, half_day_words, hours_words, part_words, task_words, when_words
from nivelum.drawing.days import WrittenStage, programme_drawing
from nivelum.exchange.views import download
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.forms import EntryForm

CAUSES = {
    "time": gettext_lazy("the time that went by"), "record": gettext_lazy("what was recorded since"),
    "forecast": gettext_lazy("another forecast"),
}  # fmt: skip
SHOWN_HOLDS = 3


def courses(found: Programme) -> Mapping[str, WrittenStage]:
    """How each stage is written in a stone, and which of its neighbours it is unlike."""
    stages = dict.fromkeys(each.task.stage for each in found.tasks)
    return {key: WrittenStage(_(stagebook()[key].title), n) for n, key in enumerate(stages)}


def _row(each: PlannedTask, unit: Unit) -> dict[str, Any]:
    lost = [
        words.format(n=round(hours))
        for words, hours in (
            (_("some {n} h lost to weather"), each.lost_to_weather), (_("waits some {n} working hours"),
            each.lost_to_setting),
        )
        if hours >= 0.5
    ]  # fmt: skip
    return {
        "title": task_words(each.task, unit), "begins": half_day_words(each.begins),
        "ends": half_day_words(each.ends),
        "late": half_day_words(each.late), "lost": ", ".join(lost), "moved": each.moved and day_words(each.moved),
        "hours": each.task.person_hours,
    }  # fmt: skip


def _programme(visit: Visit, shot: Snapshot, of: DaysNow) -> dict[str, Any]:
    unit, found = visit.job.crew.unit, programme_of(shot, of)
    keep_todays(shot, of, found)
    kept, promised = kept_before(visit.job, of.now.date()), promised_of(shot.assessment)
    since = since_then(kept, found) if kept else None
    day = promised.day if promised else None
    choices = _choices(found, unit)
    return days_screen(visit, shot, "programme", of) | {
        "found": found, "rows": lambda: [_row(each, unit) for each in found.tasks],
        "likely": found.likely and half_day_words(found.likely), "late": found.late and half_day_words(found.late),
        "holds": [
            (str(HELD[hold.what]).format(task=part_words(hold.task)),
            round(hold.share * 100)) for hold in found.holds[:SHOWN_HOLDS]
        ],
        "drawing": lambda: programme_drawing(found, courses(found), of.working, of.forecast, day),
        "since": since, "since_by": hours_words(since.by) if since and since.by else "",
        "since_before": half_day_words(since.before) if since and since.before else "",
        "since_day": day_words(since.on) if since else "",
        "is_later": bool(since and since.by and since.by > timedelta()),
        "promised": promised, "promised_day": day and day_words(day),
        "held": found.chance_by(day) if day else None,
        "held_percent": round(found.chance_by(day) * 100) if day else 0,
        "known": found.known and when_words(found.known), "usual": of.terms.usual, "people": of.terms.people,
        "move_form": TaskMovedForm(tasks=choices, auto_id="id_m_%s"), "promise_form": PromisedForm(auto_id="id_p_%s"),
        "moved": [(part_words(task), day_words(e.not_before)) for task,
        e in moved_of(shot.assessment).items() if e.not_before],
    }  # fmt: skip


def _choices(found: Programme, unit: Unit) -> list[tuple[str, str]]:
    return [(each.task.key, task_words(each.task, unit)) for each in found.tasks]


@require_GET
@job_view(Verb.SEE)
def programme(request: Request, visit: Visit) -> HttpResponse:
    """Its page."""
    return shown(request, _at(visit), _programme(visit, snapshot(visit.job), standing(visit.job)))


@require_GET
@job_view(Verb.SEE)
def programme_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    return render(
        request, "days/programme_now.html", _programme(visit, snapshot(visit.job), standing(visit.job))
    )  # fmt: skip


@require_GET
@job_view(Verb.SEE)
def programme_why(request: Request, visit: Visit) -> HttpResponse:
    """What moved the likely end since it was kept last."""
    of = standing(visit.job)
    kept = kept_before(visit.job, of.now.date())
    if kept is None:
        raise Http404
    found = [
        (str(CAUSES[c.what]), hours_words(c.by), c.by > timedelta()) for c in causes(snapshot(visit.job), of, kept)
    ]
    return render(request, "days/why.html", {"causes": found})


@require_GET
@job_view(Verb.SEE)
def programme_tried(request: Request, visit: Visit) -> HttpResponse:
    """What would follow, were a task moved as it is typed: nothing is recorded."""
    shot, of = snapshot(visit.job), standing(visit.job)
    found = programme_of(shot, of)
    form = TaskMovedForm(request.GET, tasks=_choices(found, visit.job.crew.unit), auto_id="id_m_%s")
    form.fields["entry_id"].required = False
    if not form.is_valid():
        return render(request, "days/tried.html", {"wrong": next(iter(form.errors.values()))[0]})
    data = form.cleaned_data
    tried = as_moved(shot, of, TaskMoved("tried", data["task"], data["not_before"]))
    by = tried.likely - found.likely if tried.likely and found.likely else None
    follows = [
        (part_words(one.task.key), half_day_words(one.begins), half_day_words(other.begins))
        for one, other in zip(found.tasks, tried.tasks, strict=True)
        if half_day_words(one.begins) != half_day_words(other.begins)
    ]
    context = {
        "likely": tried.likely and half_day_words(tried.likely), "by": hours_words(by) if by else "",
        "is_later": bool(by and by > timedelta()), "is_same": by is not None and abs(by) < timedelta(hours=1),
        "follows": follows[:8],
    }  # fmt: skip
    return render(request, "days/tried.html", context)


@require_POST
@job_view(Verb.MEASURE)
def say_programme(request: Request, visit: Visit, what: str) -> HttpResponse:
    """A task is `moved`, or a day `promised`."""
    found = programme_of(snapshot(visit.job), standing(visit.job))
    makes: dict[str, tuple[EntryForm, str]] = {
        "moved": (
            TaskMovedForm(request.POST, tasks=_choices(found, visit.job.crew.unit), auto_id="id_m_%s"), "not_before"
        ),
        "promised": (PromisedForm(request.POST, auto_id="id_p_%s"), "day"),
    }  # fmt: skip
    if what not in makes:
        raise Http404
    form, field = makes[what]
    done = recorded(visit, form, field)
    wrong = {} if done else {"move_form" if what == "moved" else "promise_form": form}
    return answered(
        request, done, _at(visit), lambda: _programme(visit, snapshot(visit.job), standing(visit.job)) | wrong
    )  # fmt: skip


@require_GET
@job_view(Verb.SEE)
def programme_calendar(_request: Request, visit: Visit) -> HttpResponse:
    """Tasks as they are likely, and the end, for a calendar (iCalendar, RFC 5545)."""
    unit = visit.job.crew.unit
    found = programme_of(snapshot(visit.job), standing(visit.job))
    sheet = Calendar()
    sheet.add("prodid", "-//Nivelum//programme//")
    sheet.add("version", "2.0")
    for each in found.tasks:
        if each.begins is None or each.ends is None:
            continue
        sheet.add_component(_event(visit, each.task.key, task_words(each.task, unit), each.begins, each.ends))
    if found.likely:
        sheet.add_component(_event(visit, "done", _("likely done"), found.likely, found.likely))
    return download(sheet.to_ical().decode(), "text/calendar", visit.job.name, "programme", "ics")


def _event(visit: Visit, key: str, words: str, begins: datetime, ends: datetime) -> Event:
    event, zone = Event(), visit.job.crew.zone
    event.add("uid", f"{visit.job.id}-{key}@nivelum")
    event.add("dtstamp", timezone.now())
    event.add("dtstart", begins.replace(tzinfo=zone))
    event.add("dtend", ends.replace(tzinfo=zone))
    event.add("summary", f"{visit.job.name}: {words}")
    return event


def _at(visit: Visit) -> RecordedAt:
    return RecordedAt("days/programme.html", "days/programme_now.html", reverse("programme", args=[visit.job.id]))
