"""May we go on? The stages in their order, what each asks and waits for, who has signed; what is handed over."""

from groundwork.stages.finish import (
    Finish,
    finish,
)
from groundwork.stages.gates import (
    Gate,
    Question,
    StageAnswer,
    Step,
    alone_finding,
    asked,
    asked_findings,
    gate,
    standing_signatures,
    was_complete,
)
from groundwork.stages.handing_over import (
    Handover,
    handover,
)
from groundwork.stages.lessons import (
    Lesson,
    LessonKind,
    combined,
    lessons,
)
from groundwork.stages.order import (
    sequence,
)

__all__ = [
    "Finish",
    "Gate",
    "Handover",
    "Lesson",
    "LessonKind",
    "Question",
    "StageAnswer",
    "Step",
    "alone_finding",
    "asked",
    "asked_findings",
    "combined",
    "finish",
    "gate",
    "handover",
    "lessons",
    "sequence",
    "standing_signatures",
    "was_complete",
]
