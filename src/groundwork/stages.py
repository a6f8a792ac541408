"""The stages of the work in their order, and what holds one of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from groundwork.findings import Finding, Severity


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
