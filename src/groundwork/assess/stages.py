"""The stages of a job as they stand: gates, what holds them, who signed, and on what."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import timedelta
from typing import Any

from groundwork.assess.conditions import CONDITIONS, Condition
from groundwork.assess.parts import Parts
from groundwork.assess.reopening import PASSING, answer_in
from groundwork.job import Acceptance, SignOff, Withdrawal
from groundwork.measures import Finding, Severity, Source, Words, finding_data
from groundwork.observations import Observation, Observed, Pictured
from groundwork.record import entry_hash
from groundwork.schools import Slot
from groundwork.stages import (
    Gate,
    Question,
    StageAnswer,
    Step,
    alone_finding,
    asked,
    asked_findings,
    gate,
    sequence,
    standing_signatures,
    was_complete,
)
from groundwork.workings import JobPart, carried


class Stages(JobPart):
    """The stages of the job whose `parts` they are held by."""

    PART = "stages"

    def __init__(self, parts: Parts) -> None:
        super().__init__(parts.workings)
        self._parts = parts

    @property
    @carried
    def steps(self) -> dict[str, Step]:
        """The stages of this job by key, in their order."""
        return sequence(self._parts.site, self._parts.case.school)

    @carried
    def of(self, key: str) -> StageAnswer:
        """How a stage stands. Raises `KeyError` for a stage this job has not."""
        return self._stage(self.steps[key])

    @property
    @carried
    def line(self) -> tuple[StageAnswer, ...]:
        """Every stage of the job, in order."""
        return tuple(map(self.of, self.steps))

    @carried
    def course(self, key: str) -> tuple[Gate, int, int]:
        """A stage as the line of stages shows it: its gate, how many things hold it, how many stations are unshot;
        the same as before a step where nothing of that changed. Raises `KeyError` for a stage this job has not."""
        answer = self.of(key)
        return answer.gate, answer.holding, answer.unshot

    @property
    def in_hand(self) -> StageAnswer:
        """The first stage that is not signed, or else the last of them."""
        return self.of(self.in_hand_key)

    @property
    @carried
    def in_hand_key(self) -> str:
        """Its key."""
        *_others, last = self.steps
        return next((key for key in self.steps if not self.course(key)[0].is_signed), last)

    @carried
    def _seen(self, key: str) -> tuple[Observation, ...]:
        """What was seen and photographed for a stage, oldest first."""
        return tuple(e for e in self._parts.logbook.of_kind(Observation).values() if e.stage == key)

    @carried
    def asked(self, key: str) -> tuple[Question, ...]:
        """A stage's questions and the newest answer to each."""
        seen = [e for e in self._seen(key) if isinstance(e, Observed | Pictured)]
        return asked(self.steps[key], seen)

    @carried
    def photos(self, key: str) -> tuple[Pictured, ...]:
        """The photos taken for a stage, oldest first."""
        return tuple(e for e in self._seen(key) if isinstance(e, Pictured))

    @property
    @carried
    def withdrawn(self) -> dict[str, Withdrawal]:
        """What was taken back, by the sign-off or acceptance."""
        return {w.withdraws: w for w in self._parts.decisions()[2]}

    @carried
    def sign_offs(self, key: str) -> tuple[SignOff, ...]:
        """The signatures of a stage that were not withdrawn, oldest first."""
        return tuple(s for s in self._parts.decisions()[0] if s.stage == key and s.id not in self.withdrawn)

    @carried
    def accepted(self, key: str) -> dict[str, Acceptance]:
        """The stops of a stage that were accepted, by their identity."""
        return {a.finding: a for a in self._parts.decisions()[1] if a.stage == key and a.id not in self.withdrawn}

    @carried
    def _last_withdrawn(self, key: str) -> Withdrawal | None:
        """How the newest signature of a stage was withdrawn, if it was."""
        last = next((s for s in reversed(self._parts.decisions()[0]) if s.stage == key), None)
        return self.withdrawn.get(last.id) if last else None

    @carried
    def evidence_of(self, key: str) -> dict[str, Any]:
        """What a stage is signed on, as JSON values. Raises `KeyError` for a stage this job has not."""
        return self._evidence_for(key)

    @carried
    def evidence_hash(self, key: str) -> str:
        """What identifies a stage's evidence, on a signer's screen and in the record."""
        return entry_hash(self.evidence_of(key))

    @carried
    def _condition(self, key: str) -> Condition:
        return CONDITIONS[key](self._parts)

    def _found(self, key: str) -> tuple[Finding, ...]:
        """Everything found on a stage but what it stands on."""
        return (
            *self._condition(key).findings,
            *asked_findings(self.asked(key)),
        )

    def _stage(self, step: Step) -> StageAnswer:
        key = step.stage.key
        condition, photos = self._condition(key), self.photos(key)
        asked_ = self.asked(key)
        findings = (*self._stands_on(step), *self._waits(key), *self._found(key))
        accepted, sign_offs = self.accepted(key), self.sign_offs(key)
        alone = alone_finding()
        if Slot.SECOND in step.slots and alone.identity in accepted:
            step = replace(step, slots=tuple(slot for slot in step.slots if slot is not Slot.SECOND))
            findings = (*findings, alone)
        signed = standing_signatures(sign_offs, step.slots, lambda evidence: self._still(key, evidence))
        stops = [f for f in findings if f.severity is Severity.STOP]
        begun = condition.begun or bool(photos) or any(a.answer for a in asked_)
        stands = gate(
            opened=not any(f.rule == "G01" for f in stops),
            begun=begun,
            stops=[f for f in stops if f.identity not in accepted],
            accepted=any(f.identity in accepted for f in stops),
            complete=set(signed) == set(step.slots),
            ever=was_complete(sign_offs),
        )
        if stands.is_signed:
            findings = tuple(f for f in findings if f.rule not in PASSING)
        return StageAnswer(
            step,
            stands,
            findings,
            asked_,
            photos,
            signed,
            sign_offs[-1] if sign_offs else None,
            self._last_withdrawn(key),
            accepted,
        )

    def _still(self, key: str, signed: dict[str, Any]) -> bool:
        """Whether a stage still comes to what was signed: the answer of what is computed, and every question that was
        answered then. What is asked only since reopens nothing."""
        now = self.evidence_of(key)
        return answer_in(key, signed) == answer_in(key, now) and _answers(signed).items() <= _answers(now).items()

    def _stands_on(self, step: Step) -> Iterator[Finding]:
        """G01: what a stage stands on is signed first; of what lies further back, the nearest that is not."""
        seen, row = set(), list(step.stands_on)
        while row:
            answer = self.of(row.pop(0))
            if answer.stage.key in seen:
                continue
            seen.add(answer.stage.key)
            if answer.gate.is_signed:
                row += answer.step.stands_on
                continue
            overtaken_ = answer.gate is Gate.OVERTAKEN
            yield Finding(
                "G01",
                Severity.STOP,
                Words("{stage} was signed, but has changed since" if overtaken_ else "{stage} is not signed",
                      names={"stage": answer.stage.title, "key": answer.stage.key}),
                Words("signed before what stands on it"),
                "What is checked on something nobody has signed may have to be done again.",
                "Sign it first.",
                Source.PRACTICE,
                acceptable=False,
            )  # fmt: skip

    def _waits(self, key: str) -> Iterator[Finding]:
        """G10, ours: what was placed at a stage before has to set first, counted from the day that was signed."""
        for wait in self._parts.case.school.waits_before(key):
            signed = [s.on for s in self.sign_offs(wait.after) if s.on is not None]
            if not signed or self._parts.site.today is None:
                continue
            ready = min(signed) + timedelta(days=wait.days)
            if left := max((ready - self._parts.site.today).days, 0):
                yield Finding(
                    "G10",
                    Severity.STOP,
                    Words(
                        "{what}: {n} days left",
                        counts={"n": left},
                        names={"what": wait.what},
                        one="{what}: {n} day left",
                    ),
                    Words("not before {day}", days={"day": ready}),
                    "What is built on it before it has set moves it, and it never sets right again.",
                    "Do what else can be done, and come back.",
                    Source.PRACTICE,
                )

    def _evidence_for(self, key: str) -> dict[str, Any]:
        accepted = self.accepted(key)
        findings = [
            finding_data(f, self._parts.site.unit) | _accepted_data(accepted.get(f.identity))
            for f in self._found(key)
        ]
        return {
            "stage": key,
            "version": self._parts.site.version,
            **self._condition(key).evidence,
            "asked": [
                {"ask": a.ask.key, "asks": a.ask.asks, "answer": a.answer and str(a.answer), "words": a.words,
                 "entry": a.entry}
                for a in self.asked(key)
            ],
            "photos": [{"photo": p.photo, "caption": p.caption, "entry": p.id} for p in self.photos(key)],
            "findings": findings,
        }  # fmt: skip


def _accepted_data(acceptance: Acceptance | None) -> dict[str, Any]:
    if acceptance is None:
        return {}
    return {"accepted": {"by": acceptance.by, "role": acceptance.role, "reason": acceptance.reason}}


def _answers(evidence: dict[str, Any]) -> dict[str, Any]:
    return {row["ask"]: row["answer"] for row in evidence.get("asked", ())}
