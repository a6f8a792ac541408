"""Courses: what each row should tape from the string, what it does, how it comes home; how far it is laid."""

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.assess import Assessment
from groundwork.laying import RULE, WHERE
from groundwork.laywork import CourseTaped
from groundwork.measures import FOOT, LONGEST_TAPE, Unit
from groundwork.verdict import Call, Suspicion
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.kept import kept
from nivelum.drawing.paving import course_drawing
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.models import Entry
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.laying.forms import PLACES, LaidForm, ModuleForm, RowForm, SquareForm
from nivelum.laying.screens import laying_screen
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.doubt import read_once
from nivelum.recording.forms import EntryForm
from nivelum.recording.setting import SettingPlace, set_rows, travels

LONGEST_NUMBER = 6


@require_GET
@job_view(Verb.SEE)
def courses(request: Request, visit: Visit) -> HttpResponse:
    """Rows to tape, and what comes next."""
    return shown(request, _at(visit), _courses(visit, snapshot(visit.job), _asked(request.GET)))


@require_GET
@job_view(Verb.SEE)
def courses_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    return render(request, "laying/courses_now.html", _courses(visit, snapshot(visit.job), _asked(request.GET)))


@require_POST
@job_view(Verb.MEASURE)
def tape_course(request: Request, visit: Visit) -> HttpResponse:
    """What was taped from the string to a row; what looks misread is asked about first."""
    there = snapshot(visit.job).assessment.laying
    form = RowForm(request.POST, unit=visit.job.crew.unit)

    def again(taped: CourseTaped) -> tuple[str, str]:
        at = reverse("courses", args=[visit.job.id])
        return place_words(taped.row, taped.spot), f"{at}?row={taped.row}&where={taped.spot}"

    done, doubt = read_once(visit, form, lambda _taped: None, there.misread, again)
    return _told(request, visit, done, "tape_form", form, doubt)


@require_POST
@job_view(Verb.MEASURE)
def course_work(request: Request, visit: Visit, what: str) -> HttpResponse:
    """What else is recorded of rows: `module`, `square` or `laid`."""
    unit = visit.job.crew.unit
    makes: dict[str, EntryForm] = {
        "module": ModuleForm(request.POST, unit=unit),
        "square": SquareForm(request.POST, unit=unit),
        "laid": LaidForm(request.POST),
    }
    if what not in makes:
        raise Http404
    done = recorded(visit, makes[what], {"module": "tape", "square": "diagonal", "laid": "row"}[what])
    return _told(request, visit, done, f"{what}_form", makes[what])


def _told(
    request: Request, visit: Visit, done: Entry | None, name: str, form: EntryForm, doubt: Suspicion | None = None
) -> HttpResponse:  # fmt: skip
    wrong = {} if done else {name: form, "suspicion": doubt}
    asked = None if done else _asked(request.POST)
    last = {"last": done.body.get("row")} if done and done.kind == CourseTaped.KIND else {}
    return answered(request, done, _at(visit), lambda: _courses(visit, snapshot(visit.job), asked) | last | wrong)


def _asked(given: Any) -> tuple[int, str] | None:
    row, where = given.get("row", ""), given.get("where", "")
    if row.isdecimal() and len(row) < LONGEST_NUMBER and where in WHERE:
        return int(row), where
    return None


def place_words(row: int, where: str) -> str:
    """A place that is taped."""
    return _("row {row}, {where}").format(row=row, where=PLACES[where])


def _courses(visit: Visit, shot: Snapshot, asked: tuple[int, str] | None) -> dict[str, Any]:
    assessment, unit = shot.assessment, visit.job.crew.unit
    there = assessment.laying
    row, where = asked if asked and asked[0] in there.targets else there.next_place or (0, "left")
    fields = {"row": str(row), "where": where}
    last = there.last_taped
    return laying_screen(visit, shot, "courses") | {
        "row": row, "where": where, "called": place_words(row, where), "target": there.targets.get(row),
        "drawing": course_drawing(assessment, unit, row, where) if there.paving else "",
        "actions": there.action(last) if last else (), "last_row": last,
        "rows": [(each, there.targets[each], there.taped.get(each)) for each in _shown(there)],
        "wheres": WHERE, "closings": [(PLACES[w], c) for w, c in there.closings.items()],
        "findings": [f for f in there.findings if f.rule in ("Y01", "Y06", "Y07")], 
        "triangle": there.triangle(0.1 if unit.is_metric else FOOT / 2),
        "tape_form": RowForm(unit=unit), "module_form": ModuleForm(unit=unit), "square_form": SquareForm(unit=unit),
        "laid_form": LaidForm(initial={"row": there.laid_rows or ""}),
        "travels": travels(_read_by(assessment, unit), fields) if there.targets else None,
    }  # fmt: skip


def _shown(there: Any) -> list[int]:
    return sorted({*there.to_tape, *there.taped})


@kept
def _read_by(assessment: Assessment, unit: Unit) -> dict[str, Any]:
    """Every place in the order they are taped with what it should be, for a page without a signal."""
    there = assessment.laying
    places = (
        SettingPlace(
            {"row": str(row), "where": where}, place_words(row, where), _("row {row}").format(row=row),
            there.targets[row], there.foreseen(row),
            row in there.taped and where in there.taped[row].off and there.taped[row].call is Call.GOOD,
        )
        for row in there.to_tape for where in WHERE
    )  # fmt: skip
    return set_rows(places, RULE, unit, LONGEST_TAPE)


def _at(visit: Visit) -> RecordedAt:
    return RecordedAt("laying/courses.html", "laying/courses_now.html", reverse("courses", args=[visit.job.id]))
