"""How a stage stands, and what gates it whatever it is: what it stands on, what was seen, what was measured."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from groundwork.job import Acceptance, SignOff, Withdrawal
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.observations import Observed, Pictured, Seen
from groundwork.schools import Ask, Slot, Stage


class Gate(StrEnum):
    """How a stage stands."""

    NOT_YET = "not yet"
    READY_TO_CHECK = "ready to check"
    HELD = "held"
    READY = "ready to sign"
    SIGNED = "signed"
    SIGNED_ACCEPTED = "signed with acceptances"
    OVERTAKEN = "overtaken"

    @property
    def is_signed(self) -> bool:
        return self in (Gate.SIGNED, Gate.SIGNED_ACCEPTED)


@dataclass(frozen=True)
class Step:
    """A stage where it stands in a job: the stages it `stands_on` and those it `opens`, by key; whose signatures it
    wants; what it asks here."""

    stage: Stage
    stands_on: tuple[str, ...]
    opens: tuple[str, ...]
    slots: tuple[Slot, ...]
    asks: tuple[Ask, ...]


@dataclass(frozen=True)
class Question:
    """A question and the newest answer to it, None where nobody has looked; `photos` are those taken for it."""

    ask: Ask
    answer: Seen | None = None
    words: str = ""
    entry: str = ""
    photos: tuple[Pictured, ...] = ()

    @property
    def holds(self) -> bool:
        return self.answer in (None, Seen.NO)


@dataclass(frozen=True)
class StageAnswer:
    """A stage's gate, what holds it, and what was signed. `signed` by slot is what stands now, `awaits` whose
    signatures are still wanted, `accepted` by a finding's identity."""

    step: Step
    gate: Gate
    findings: tuple[Finding, ...] = ()
    asked: tuple[Question, ...] = ()
    photos: tuple[Pictured, ...] = ()
    signed: Mapping[Slot, SignOff] = field(default_factory=dict)
    sign_off: SignOff | None = None
    withdrawal: Withdrawal | None = None
    accepted: Mapping[str, Acceptance] = field(default_factory=dict)

    @property
    def stage(self) -> Stage:
        return self.step.stage

    @property
    def stops(self) -> tuple[Finding, ...]:
        """The stops nobody has accepted."""
        return tuple(f for f in self.findings if f.severity is Severity.STOP and f.identity not in self.accepted)

    @property
    def acceptances(self) -> tuple[Acceptance, ...]:
        """Those that cover a stop as it stands."""
        stops = {f.identity for f in self.findings if f.severity is Severity.STOP}
        return tuple(a for a in self.accepted.values() if a.finding in stops)

    @property
    def holding(self) -> int:
        """How many stations, questions or other things hold the stage; stations not shot yet left out."""
        return sum(f.weight for f in self.stops if f.rule != "D06")

    @property
    def unshot(self) -> int:
        return sum(len(f.stations) for f in self.findings if f.rule == "D06")

    @property
    def awaits(self) -> tuple[Slot, ...]:
        return tuple(slot for slot in self.step.slots if slot not in self.signed)

    @property
    def may_be_signed(self) -> bool:
        return self.gate is Gate.READY or (self.gate is Gate.OVERTAKEN and not self.stops)


def gate(opened: bool, begun: bool, stops: Sequence[Finding], accepted: bool, complete: bool, ever: bool) -> Gate:
    """A stage's gate. `complete`: every signature stands on the answer as it is; `ever`: they all did once.
    Signatures stay when a later entry changes what they stand on, and are overtaken until new ones supersede them."""
    if complete:
        return Gate.SIGNED_ACCEPTED if accepted else Gate.SIGNED
    if ever:
        return Gate.OVERTAKEN
    if not begun:
        return Gate.READY_TO_CHECK if opened else Gate.NOT_YET
    return Gate.HELD if stops else Gate.READY


def standing_signatures(
    sign_offs: Sequence[SignOff], slots: Sequence[Slot], still: Callable[[dict[str, Any]], bool]
) -> dict[Slot, SignOff]:
    """The newest signature in each slot that was given on evidence that `still` answers the same, no person in two
    slots. `sign_offs` of one stage, oldest first, none of them withdrawn."""
    found: dict[Slot, SignOff] = {}
    for each in sign_offs:
        others = {s.person for slot, s in found.items() if slot is not each.slot}
        if each.slot in slots and still(each.evidence) and not (each.person and each.person in others):
            found[each.slot] = each
    return found


def was_complete(sign_offs: Sequence[SignOff]) -> bool:
    """Whether a stage's signatures, none of them withdrawn, ever stood complete: the first of a round is the one the
    others join, and nobody signs twice in it."""
    rounds: dict[str, list[SignOff]] = {}
    for sign_off in sign_offs:
        together = rounds.setdefault(sign_off.joins or sign_off.id, [])
        together.append(sign_off)
        if set(standing_signatures(together, sign_off.slots, lambda _evidence: True)) == set(sign_off.slots):
            return True
    return False


def asked(step: Step, observed: Sequence[Observed | Pictured]) -> tuple[Question, ...]:
    """Each of a stage's questions with its newest answer; a photo taken for one that wants a photo says yes to it."""
    found = []
    for ask in step.asks:
        mine = [each for each in observed if each.ask == ask.key]
        photos = tuple(each for each in mine if isinstance(each, Pictured))
        last = next((e for e in reversed(mine) if isinstance(e, Observed) or ask.photo), None)
        if last is None:
            found.append(Question(ask, photos=photos))
        elif isinstance(last, Pictured):
            found.append(Question(ask, Seen.YES, last.caption, last.id, photos))
        else:
            found.append(Question(ask, last.answer, last.words, last.id, photos))
    return tuple(found)


def asked_findings(answers: Sequence[Question]) -> list[Finding]:
    """G06: not looked at; G07, ours: looked at and not right."""
    found = []
    if open_ := [a for a in answers if a.answer is None]:
        found.append(
            Finding(
                "G06", Severity.STOP, Words("not looked at yet: {n}", counts={"n": len(open_)}),
                Words("every question answered by someone who looked"),
                "What only eyes can judge is judged by nobody unless somebody is asked.",
                "Check on site, and say what you saw.", Source.PRACTICE, acceptable=False, number=len(open_),
            )
        )  # fmt: skip
    found += [
        Finding(
            "G07", Severity.STOP, Words("“{asks}”: no. {words}", names={"asks": a.ask.asks, "words": a.words}),
            Words("yes, or not here with a reason"), a.ask.why, "Put it right, look again and say so.",
            Source.PRACTICE,
        )
        for a in answers if a.answer is Seen.NO
    ]  # fmt: skip
    return found


def alone_finding() -> Finding:
    """G11, ours: nobody else looks. It holds nothing: accepted in writing it stands in the place of a second look."""
    return Finding(
        "G11", Severity.STOP, Words("nobody but the lead looked at it"),
        Words("a second pair of eyes"),
        "Whoever built it sees what they meant to build.",
        "Ask somebody to look: another crew’s lead, the client’s engineer. Or say in the record that nobody did.",
        Source.PRACTICE,
    )  # fmt: skip
