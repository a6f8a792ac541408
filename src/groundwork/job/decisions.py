"""What people decide on a job: they sign a stage, accept a stop in writing, take back either. Nobody strikes a
decision out, and no job file brings one: it stands with the record of who made it."""

from dataclasses import dataclass, field
from datetime import date
from typing import Annotated, Any

from groundwork.kinds import Entry
from groundwork.schools import Slot

BY, PERSON, ON = "@by", "@person", "@on"
"""What is known of a decision beside its body: the name it was made under, who that is, and the day."""


@dataclass(frozen=True)
class SignOff(Entry, kind="sign_off", struck=False, in_files=False):
    """A stage signed, with the evidence frozen as it stood. `person` tells two signers apart; `slot` is whose
    signature it is of those the stage wanted then, `slots`; it `joins` the first one on the same evidence and
    `supersedes` one it overtakes; `on` is the day, where it is known. The first of them named neither slots nor
    what they join."""

    stage: str
    by: Annotated[str, BY]
    evidence: dict[str, Any]
    person: Annotated[str, PERSON] = ""
    slot: Slot = Slot.LEAD
    slots: tuple[Slot, ...] = (Slot.LEAD,)
    joins: str | None = None
    on: Annotated[date | None, ON] = None
    role: str = ""
    proof: dict[str, Any] = field(default_factory=dict)
    supersedes: str | None = None
    seen_at: int | None = None


@dataclass(frozen=True)
class Acceptance(Entry, kind="acceptance", struck=False, in_files=False):
    """A stop accepted in writing: `finding` says which one and how it stood, `role` in which right."""

    stage: str
    finding: str
    by: Annotated[str, BY]
    role: str
    reason: str
    rule: str = ""
    proof: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Withdrawal(Entry, kind="withdrawal", struck=False, in_files=False):
    """A sign-off or an acceptance taken back; it stays in the record and no longer counts."""

    withdraws: str
    by: Annotated[str, BY]
    reason: str
    stage: str = ""
    role: str = ""
    proof: dict[str, Any] = field(default_factory=dict)
