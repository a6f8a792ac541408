"""What a person holds: a tool of the crew's kit, and what its readings are taken against at present."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.http import HttpRequest

from groundwork.assess import Assessment
from groundwork.entries import Anchor
from groundwork.levels import Reference
from groundwork.tools import Method
from nivelum.crews.models import Crew, Tool
from nivelum.jobs.access import Visit

IN_HAND = "in_hand"


@dataclass(frozen=True)
class Hand:
    """The tool in hand, what it is set up on if it is, and the crew's other tools."""

    tool: Tool
    anchor: Anchor | None
    reference: Reference | None
    kit: tuple[Tool, ...]

    @property
    def method(self) -> Method:
        return Method(self.tool.method)

    @property
    def reads_by_itself(self) -> bool:
        return bool(self.tool.driver) and self.method.has_a_line_of_sight


def kit(crew: Crew) -> tuple[Tool, ...]:
    """The crew's tools in use, in the order people reach for them; two queries."""
    tools = Tool.objects.filter(crew=crew, retired=False).prefetch_related("tests")
    order = list(Method)
    return tuple(sorted(tools, key=lambda tool: (order.index(Method(tool.method)), tool.name)))


def is_of(tool: Tool, anchor: Anchor) -> bool:
    """Whether what was set up was this tool; what came without a name is any of its method."""
    instrument = anchor.instrument
    return instrument.method == tool.method and instrument.name in ("", tool.name)


def newest(assessment: Assessment, tool: Tool) -> Anchor | None:
    """What the tool stands on at present: the newest set-up of it that still holds."""
    standing = (a for key, a in reversed(assessment.logbook.anchors.items()) if key in assessment.levels.references)
    return next((anchor for anchor in standing if is_of(tool, anchor)), None)


def hand(request: HttpRequest, visit: Visit, assessment: Assessment) -> Hand:
    """What the person holds at this job: as what they send says, else as they last said, else what was set up last by
    anyone, else the first."""
    tools = kit(visit.job.crew)
    said = request.POST.get("tool") or request.session.get(IN_HAND, {}).get(str(visit.job.id))
    tool = next((t for t in tools if str(t.id) == said), None) or _last_used(assessment, tools) or tools[0]
    anchor = newest(assessment, tool)
    return Hand(tool, anchor, assessment.levels.references[anchor.id] if anchor else None, tools)


def _last_used(assessment: Assessment, tools: tuple[Tool, ...]) -> Tool | None:
    for key, anchor in reversed(assessment.logbook.anchors.items()):
        if key in assessment.levels.references:
            return next((tool for tool in tools if is_of(tool, anchor)), None)
    return None


def take(request: HttpRequest, visit: Visit, tool_id: UUID) -> None:
    """Remembers what the person holds at this job. Raises `Tool.DoesNotExist`."""
    tool = Tool.objects.get(id=tool_id, crew=visit.job.crew, retired=False)
    held: dict[str, Any] = request.session.get(IN_HAND, {})
    request.session[IN_HAND] = held | {str(visit.job.id): str(tool.id)}
