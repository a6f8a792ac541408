"""What this job teaches: shown to the lead, who may keep it for the crew's next jobs."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.measures import Unit, format_amount, format_area
from groundwork.schools import stagebook
from groundwork.stages import Lesson, LessonKind
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.lessons import keep_lessons, kept_lessons, learnt, lessons_of
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import snapshot
from nivelum.jobs.templatetags.measures import material_word


def lesson_words(kind: LessonKind) -> str:
    """What a lesson is of."""
    return {
        LessonKind.SETTLEMENT: _("Seating lets units down by"),
        LessonKind.BULKING: _("Loose over compacted, times as thick"),
        LessonKind.SAND: _("Filling used, times what was reckoned"), LessonKind.RATE: _("Laid in a person-hour"),
        LessonKind.PASSES: _("Passes until it was tight"),
        LessonKind.HOURS: _("Hours, times what the table has"),
    }[kind]  # fmt: skip


def value_words(kind: LessonKind, value: float, unit: Unit) -> str:
    """A lesson's value, or its spread, as the trade has it."""
    match kind:
        case LessonKind.SETTLEMENT:
            return format_amount(value, unit)
        case LessonKind.RATE:
            return format_area(value, unit)
        case LessonKind.PASSES:
            return f"{value:.0f}" if abs(value - round(value)) < 0.05 else f"{value:.1f}"
    return f"{value:.2f}"


@require_GET
@job_view(Verb.SEE)
def lessons_page(request: Request, visit: Visit) -> HttpResponse:
    """What was measured here, beside what the crew's other jobs taught."""
    shot, unit = snapshot(visit.job), visit.job.crew.unit
    context = job_screen(visit, shot, "record") | {
        "lessons": [_told(e, learnt(visit.job, e.kind, e.material), unit) for e in lessons_of(shot)],
        "kept": kept_lessons(visit.job), "may_design": visit.may(Verb.DESIGN),
    }  # fmt: skip
    return render(request, "record/lessons.html", context)


@require_POST
@job_view(Verb.DESIGN)
def keep(request: Request, visit: Visit) -> HttpResponse:
    """Keeps what was measured here for the crew's next jobs."""
    keep_lessons(visit.job, lessons_of(snapshot(visit.job)), visit.person)
    messages.success(request, _("Kept for the crew’s next jobs."))
    return redirect("lessons", job_id=visit.job.id)


def _of(each: Lesson, unit: Unit) -> str:
    """The material it is of, or the stage."""
    if each.kind is LessonKind.HOURS:
        return _(stagebook()[each.material].title)
    return material_word(each.material, unit) if each.material else ""


def _told(each: Lesson, others: Lesson | None, unit: Unit) -> dict[str, Any]:
    return {
        "what": lesson_words(each.kind), "of": _of(each, unit),
        "value": value_words(each.kind, each.value, unit),
        "spread": value_words(each.kind, each.spread, unit) if each.number > 1 else "", "number": each.number,
        "others": value_words(each.kind, others.value, unit) if others else "",
        "others_spread": value_words(each.kind, others.spread, unit) if others and others.number > 1 else "",
    }  # fmt: skip
