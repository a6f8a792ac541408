"""The line of stages, which stands on every screen of a job and is the way about it: drawn once for an assessment."""

from typing import Any
from uuid import UUID

from django import template
from django.template.loader import render_to_string
from django.utils.safestring import SafeString

from groundwork.assess import Assessment
from nivelum.drawing.kept import kept
from nivelum.jobs.ways import in_hand, ways

register = template.Library()


@register.simple_tag(takes_context=True)
def line_of_stages(context: template.Context, swapped: bool = False) -> SafeString:
    """The stages of the job on the screen; `swapped` where they are swapped in by themselves."""
    here = str(context.get("room", ""))
    shown = str(context.get("shown_stage", "")) if here == "sign-offs" else ""
    return _drawn(context["assessment"], context["job"].id, here, shown, swapped)


@register.simple_tag(takes_context=True)
def ways_at_stages(context: template.Context) -> SafeString:
    """What is done at each stage, to be opened from the line of stages."""
    return _opened(context["assessment"], context["job"].id)


@kept
def _drawn(assessment: Assessment, job_id: UUID, here: str, shown: str, swapped: bool) -> SafeString:
    stages = assessment.stages
    line = [(step.stage, *stages.course(key)) for key, step in stages.steps.items()]
    given: dict[str, Any] = {"line": line, "in_hand": stages.in_hand_key, "door": in_hand(assessment, job_id)}
    return render_to_string("course.html", given | {"here": here, "shown": shown, "oob": swapped})


@kept
def _opened(assessment: Assessment, job_id: UUID) -> SafeString:
    every = [(step.stage, ways(assessment, job_id, key)) for key, step in assessment.stages.steps.items()]
    return render_to_string("ways.html", {"every": every})
