"""The crew's week: who is where, the proposal with its reasons; what must be is fixed, and it is asked again."""

from collections.abc import Callable, Iterable
from datetime import date, datetime
from typing import Any
from uuid import UUID

from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.views.decorators.http import require_GET, require_POST
from django_htmx.http import HttpResponseClientRedirect
from icalendar import Calendar, Event

from nivelum.crews.models import Crew, Membership, Person
from nivelum.crews.policy import Verb, may, require
from nivelum.crews.requests import Request, posted_number
from nivelum.days.models import KeptWeek, WeekSaid
from nivelum.days.solving import PROPOSED, ToSolve, files, percent, propose
from nivelum.days.weekly import asked_week, in_hand, keep_week, told_of, workers
from nivelum.days.words import day_words
from nivelum.exchange.views import download
from nivelum.money.shown import HIRED
from nivelum.orders.forms import DayField
from nivelum.recording.moments import minute_now
from nivelum.weather.services import weather_of, working_time
from nivelum.workshop.bench import Busy, TooMuch
from nivelum.workshop.shelf import Found, InTheMaking

SHOWN_DAYS = 15
HALF = {0: gettext_lazy("morning"), 1: gettext_lazy("afternoon")}
WHY = {
    "weather": gettext_lazy("the weather"), "setting": gettext_lazy("what has to set first"),
    "machine": gettext_lazy("there is no other {which}"), "off": gettext_lazy("{which} is off"),
    "job": gettext_lazy("{which}, which was promised too"), "said": gettext_lazy("what was fixed or moved"),
}  # fmt: skip


class SaidForm(forms.Form):
    """Who is at a task, or when it begins, or both."""

    on = DayField(required=False)
    half = forms.TypedChoiceField(choices=[(0, HALF[0]), (1, HALF[1])], coerce=int, required=False)

    def __init__(self, *arguments: Any, tasks: list[tuple[str, str]], people: list[tuple[str, str]], **options: Any):
        super().__init__(*arguments, **options)
        self.fields["task"] = forms.ChoiceField(choices=tasks)
        self.fields["person"] = forms.ChoiceField(choices=[("", _("whoever")), *people], required=False)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if not data.get("person") and not data.get("on") and not self.errors:
            self.add_error("on", _("Say who, or when, or both."))
        return data


def _own(request: Request, crew_id: UUID, verb: Verb = Verb.SEE) -> Membership:
    own = get_object_or_404(Membership.objects.select_related("crew"), crew=crew_id, person=request.user)
    require(own.role, verb)
    return own


@require_GET
def week(request: Request, crew_id: UUID) -> HttpResponse:
    """The page."""
    own = _own(request, crew_id)
    with own.crew.in_its_words():
        return render(request, "days/week.html", _context(request, own))


def _context(request: Request, own: Membership, form: SaidForm | None = None) -> dict[str, Any]:
    crew = own.crew
    kept = list(KeptWeek.objects.filter(crew=crew)[:2])
    newest = kept[0] if kept else None
    tasks = [
        (each["task"], f"{each['job_name']}: {each['title']}") for each in (newest.data["placed"] if newest else ())
    ]
    people = [(str(person.pk), person.name) for person in workers(crew)]
    said = [
        {"pk": each.pk, "what": dict(tasks).get(f"{each.job_id}|{each.task}", each.job.name),
         "who": each.person.name if each.person else "",
         "when": f"{day_words(each.on)}, {HALF[each.half]}" if each.on else ""}
        for each in WeekSaid.objects.filter(crew=crew).select_related("job", "person")
    ]  # fmt: skip
    return {
        "own": own, "may_run": may(own.role, Verb.RUN_CREW), "kept": newest, "said": said, "room": "week",
        "form": form or SaidForm(tasks=tasks, people=people, auto_id="id_f_%s"),
        "jobs_in_hand": len(in_hand(crew)) if newest is None else 0,
        **(_shown(newest, kept[1] if len(kept) > 1 else None, people) if newest else {}),
    }  # fmt: skip


def _shown(newest: KeptWeek, before: KeptWeek | None, people: list[tuple[str, str]]) -> dict[str, Any]:
    data = newest.data
    placed = data["placed"]
    days = list(dict.fromkeys(day for day, _half in data["halves"]))
    rows = [
        {"name": name, "cells": [_cell(placed, day, who) for day in days]} for who, name in people
    ]  # fmt: skip
    used = {(day, half) for each in placed for day, half in each["halves"]}
    last = max((day for day, _half in used), default=days[0] if days else "")
    shown = [day for day in days if day <= last][:SHOWN_DAYS]
    machines = dict.fromkeys(machine for each in placed for machine in each["machines"])
    return {
        "days": [day_words(date.fromisoformat(day)) for day in shown],
        "rows": [row | {"cells": row["cells"][: len(shown)]} for row in rows],
        "machines": [
            {"name": str(HIRED.get(machine, machine)), "cells": [_at_machine(placed, day, machine) for day in shown]}
            for machine in machines
        ],
        "jobs": [_job(each) for each in data["jobs"]], "gap": round(data["gap"] * 100), "stopped": data["stopped"],
        "changed": _changed(data, before.data) if before else [],
        "made": newest.made_at, "late": sum(bool(each["late"]) for each in data["jobs"]),
    }  # fmt: skip


def _cell(placed: Iterable[dict[str, Any]], day: str, who: str) -> list[dict[str, str]]:
    """What somebody does on a day, half by half."""
    found = []
    for half in range(2):
        mine = [e for e in placed if [day, half] in e["halves"] and any(p == who for p, _n in e["people"])]
        found += [
            {"half": str(HALF[half]), "job": e["job_name"].partition(",")[0], "title": e["title"]} for e in mine
        ]
    whole = len(found) == 2 and found[0]["job"] == found[1]["job"] and found[0]["title"] == found[1]["title"]
    return [found[0] | {"half": ""}] if whole else found


def _at_machine(placed: Iterable[dict[str, Any]], day: str, machine: str) -> list[str]:
    return list(dict.fromkeys(
        e["job_name"].partition(",")[0] for e in placed if machine in e["machines"] and any(d == day for d,
        _h in e["halves"])
    ))  # fmt: skip


def _job(each: dict[str, Any]) -> dict[str, Any]:
    why = [str(WHY[what]).format(which=HIRED.get(which, which)) for what, which in each["why"]]
    return each | {
        "days_late": (each["late"] or 0) / 2, "why": why,
        "by_itself": each["asked_why"] and not why,
    }  # fmt: skip


def _changed(now: dict[str, Any], before: dict[str, Any]) -> list[tuple[str, str, str]]:
    """Jobs that end on another day than they did in the proposal before."""

    def ends(data: dict[str, Any]) -> dict[str, str]:
        found: dict[str, str] = {}
        for each in data["placed"]:
            found[each["job"]] = max(found.get(each["job"], ""), *(day for day, _half in each["halves"]))
        return found

    old, new = ends(before), ends(now)
    names = {each["job"]: each["name"] for each in now["jobs"]}
    return [
        (names[job], day_words(date.fromisoformat(old[job])), day_words(date.fromisoformat(day)))
        for job, day in new.items()
        if job in old and old[job] != day
    ]


@require_POST
def ask_week(request: Request, crew_id: UUID) -> HttpResponse:
    """Asks for a proposal."""
    own = _own(request, crew_id, Verb.RUN_CREW)
    told, stop = files(str(crew_id))
    stop.unlink(missing_ok=True)
    with own.crew.in_its_words():
        asked = asked_week(own.crew, minute_now())
        if not asked.question.slots or not asked.question.people:
            return _told(request, own, {"wrong": _("Nobody works in these weeks.")})
        content = ToSolve(asked.question, str(told), str(stop), told_of(asked))
        return _answer(request, own, lambda whose: PROPOSED.get(whose, asked.digest, lambda: content, propose))


@require_GET
def asked_for_week(request: Request, crew_id: UUID) -> HttpResponse:
    """How far it is, or the page once it is made."""
    own = _own(request, crew_id, Verb.RUN_CREW)
    begun = request.GET.get("begun", "")
    with own.crew.in_its_words():
        return _answer(request, own, lambda whose: PROPOSED.again(whose, begun))


@require_POST
def stop_week(request: Request, crew_id: UUID) -> HttpResponse:
    """What has been found by now will do."""
    own = _own(request, crew_id, Verb.RUN_CREW)
    files(str(crew_id))[1].touch()
    begun = request.POST.get("begun", "")
    with own.crew.in_its_words():
        return _answer(request, own, lambda whose: PROPOSED.again(whose, begun))


def _answer(request: Request, own: Membership, make: Callable[[str], Found | None]) -> HttpResponse:
    crew, context = own.crew, dict[str, Any](own=own)
    try:
        made = make(f"week {crew.pk}")
    except Busy:
        context["wrong"] = _("Too much is being worked out just now: ask again in a minute.")
    except TooMuch:
        context["wrong"] = _("That took too long: fix more, or finish some jobs first.")
    else:
        if isinstance(made, InTheMaking):
            share, gap = percent(str(crew.pk))
            context |= {"share": share, "gap": gap, "making": made}
        elif made is None:
            context["wrong"] = _("That is not there any more: ask again.")
        elif keep_week(crew, made, own.person.name) is None:
            context["wrong"] = _("It cannot be as it was fixed: take something back.")
        else:
            where = reverse("week", args=[crew.pk])
            return HttpResponseClientRedirect(where) if request.htmx else redirect(where)
    return _told(request, own, context)


def _told(request: Request, own: Membership, context: dict[str, Any]) -> HttpResponse:
    """How it stands, on the page or in the part of it that asks."""
    if request.htmx:
        return render(request, "days/week_asked.html", {"own": own} | context)
    return render(request, "days/week.html", _context(request, own) | context)


@require_POST
def say_week(request: Request, crew_id: UUID) -> HttpResponse:
    """Fixes who is at a task, or when it begins; or takes that back."""
    own = _own(request, crew_id, Verb.RUN_CREW)
    crew = own.crew
    with crew.in_its_words():
        if "gone" in request.POST:
            WeekSaid.objects.filter(crew=crew, pk=posted_number(request, "gone")).delete()
            return redirect("week", crew_id=crew_id)
        context = _context(request, own)
        options = {name: context["form"].fields[name].choices for name in ("task", "person")}
        form = SaidForm(
            request.POST, tasks=list(options["task"]), people=list(options["person"])[1:], auto_id="id_f_%s"
        )
        if not form.is_valid():
            return render(request, "days/week.html", _context(request, own, form), status=422)
        data = form.cleaned_data
        job, _bar, task = data["task"].partition("|")
        person = Person.objects.get(pk=data["person"]) if data["person"] else None
        fixed = {"on": data["on"], "half": data["half"] or 0, "said_by": own.person.name}
        WeekSaid.objects.update_or_create(crew=crew, job_id=job, task=task, person=person, defaults=fixed)
        return redirect("week", crew_id=crew_id)


@require_GET
def my_days(request: Request, crew_id: UUID, person_id: int) -> HttpResponse:
    """The days of one of a crew, to print or to have on a phone."""
    own = _own(request, crew_id)
    with own.crew.in_its_words():
        person, rows = _of(own.crew, person_id)
        return render(request, "days/mine.html", {"own": own, "who": person, "rows": rows, "room": "week"})


@require_GET
def my_calendar(request: Request, crew_id: UUID, person_id: int) -> HttpResponse:
    """The same for a calendar (iCalendar, RFC 5545)."""
    own = _own(request, crew_id)
    with own.crew.in_its_words():
        person, rows = _of(own.crew, person_id)
        working = working_time(own.crew, weather_of(own.crew))
        sheet = Calendar()
        sheet.add("prodid", "-//Nivelum//week//")
        sheet.add("version", "2.0")
        for n, row in enumerate(rows):
            begins = working.opens(row["on"])
            event = Event()
            event.add("uid", f"{crew_id}-{person_id}-{row['on']}-{n}@nivelum")
            event.add("dtstamp", timezone.now())
            event.add("dtstart", _at(begins, own.crew))
            event.add("dtend", _at(working.closes(row["on"]), own.crew))
            event.add("summary", "; ".join(f"{each['job']}: {each['title']}" for each in row["does"]))
            sheet.add_component(event)
        return download(sheet.to_ical().decode(), "text/calendar", str(person), "week", "ics")


def _at(moment: datetime, crew: Crew) -> datetime:
    return moment.replace(tzinfo=crew.zone)


def _of(crew: Crew, person_id: int) -> tuple[str, list[dict[str, Any]]]:
    names = {person.pk: person.name for person in workers(crew)}
    kept = KeptWeek.objects.filter(crew=crew).first()
    if person_id not in names or kept is None:
        raise Http404
    days = dict.fromkeys(day for day, _half in kept.data["halves"])
    rows = [
        {"on": date.fromisoformat(day), "day": day_words(date.fromisoformat(day)),
         "does": _cell(kept.data["placed"], day, str(person_id))}
        for day in days
    ]  # fmt: skip
    return names[person_id], [row for row in rows if row["does"]]
