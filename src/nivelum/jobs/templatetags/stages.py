"""The line of stages, which stands on every screen of a job: drawn once for an assessment."""

from typing import Any
from uuid import UUID

from django import template
from django.template.loader import render_to_string
from django.utils.safestring import SafeString

from groundwork.assess import Assessment
from nivelum.drawing.kept import kept

register = template.Library()


@register.simple_tag(takes_context=True)
def line_of_stages(context: template.Context, swapped: bool = False) -> SafeString:
    """The stages of the job on the screen; `swapped` where they are swapped in by themselves."""
    shown = str(context.get("shown_stage", "")) if context.get("room") == "sign-offs" else ""
    return _drawn(context["assessment"], context["job"].id, shown, swapped)


@kept
def _drawn(assessment: Assessment, job_id: UUID, shown: str, swapped: bool) -> SafeString:
    given: dict[str, Any] = {"job_id": job_id, "line": assessment.stages.line, "in_hand": assessment.stages.in_hand}
    return render_to_string("course.html", given | {"shown": shown, "oob": swapped})
