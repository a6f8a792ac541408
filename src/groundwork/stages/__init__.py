"""May we go on? The stages in their order, what each asks and waits for, who has signed; what is handed over."""

from groundwork.stages.gates import (
    Gate,
    Gauging,
    Question,
    StageAnswer,
    Step,
    asked,
    asked_findings,
    checked_findings,
    gate,
    standing_signatures,
    was_complete,
)
from groundwork.stages.handing_over import (
    Handover,
    handover,
)
from groundwork.stages.order import (
    sequence,
)

__all__ = [
    "Gate",
    "Gauging",
    "Handover",
    "Question",
    "StageAnswer",
    "Step",
    "asked",
    "asked_findings",
    "checked_findings",
    "gate",
    "handover",
    "sequence",
    "standing_signatures",
    "was_complete",
]
