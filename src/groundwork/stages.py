"""The stages of the work in their order, and what holds one of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from groundwork.measure import Unit
from groundwork.words import Words


class Severity(StrEnum):
    STOP = "stop"
    WARNING = "warning"
    NOTE = "note"


class Source(StrEnum):
    """The standing of a limit."""

    PUBLISHED = "published"
    MEMORY = "published, quoted from memory"
    PRACTICE = "common practice, no published source"


@dataclass(frozen=True)
class Finding:
    """What was found against a rule: its limit, why it matters, what to do, and the limit's standing.
    `stations` are where it was found; `structural` ones are accepted by an engineer only."""

    rule: str
    severity: Severity
    found: Words
    limit: Words
    why: str
    cure: str
    source: Source
    stations: tuple[str, ...] = ()
    structural: bool = False

    @property
    def identity(self) -> str:
        """What was found as one line in millimetres, by which an acceptance names it: when the finding changes,
        so does this, and the acceptance no longer covers it."""
        return f"{self.rule}: {self.found.text(Unit.MILLIMETRES)}"


@dataclass(frozen=True)
class Stage:
    """One stage; `judged` where this version of Nivelum checks it."""

    key: str
    title: str
    judged: bool = False


BRIEF = Stage("brief", "Brief", judged=True)
SET_OUT = Stage("set-out", "Set-out", judged=True)
EXCAVATION = Stage("excavation", "Dig", judged=True)

STAGES = (
    BRIEF,
    SET_OUT,
    EXCAVATION,
    Stage("subgrade", "Subgrade"),
    Stage("separation", "Fabric"),
    Stage("early-edges", "Kerbs"),
    Stage("base-lifts", "Lifts"),
    Stage("bound-base", "Bound"),
    Stage("base-proof", "Proof"),
    Stage("bedding", "Bedding"),
    Stage("laying", "Laying"),
    Stage("late-edges", "Cuts"),
    Stage("seating", "Seating"),
    Stage("joints", "Joints"),
    Stage("handover", "Handover"),
)


class Gate(StrEnum):
    """How a stage stands."""

    UNJUDGED = "not checked here yet"
    NOT_BEGUN = "not begun"
    HELD = "held"
    READY = "ready to sign"
    SIGNED = "signed"
    OVERTAKEN = "overtaken"


def gate(begun: bool, findings: Sequence[Finding], signed: bool, answer_holds: bool) -> Gate:
    """A judged stage's gate. A sign-off stays when a later reading changes the answer it was signed on, and
    is shown as overtaken until a new one supersedes it."""
    if signed:
        return Gate.SIGNED if answer_holds else Gate.OVERTAKEN
    if not begun:
        return Gate.NOT_BEGUN
    return Gate.HELD if any(f.severity is Severity.STOP for f in findings) else Gate.READY
