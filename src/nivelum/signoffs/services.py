"""Signing a stage: the evidence frozen as the signer saw it, once; accepting a stop; taking either back."""

from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.utils.translation import gettext as _

from groundwork.job import Acceptance, SignOff, Withdrawal
from groundwork.measures import Finding
from groundwork.schools import Slot
from groundwork.stages import alone_finding
from nivelum.crews.models import Membership
from nivelum.crews.pins import prove
from nivelum.crews.policy import TO_SIGN, Verb, require, roles_that_may
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Entry
from nivelum.jobs.services import (
    Author,
    Snapshot,
    append_value,
    lock,
    sent_before,
    snapshot,
    snapshot_at,
    snapshot_seen,
)

OWN_SESSION: dict[str, Any] = {"by": "session"}


class NotSigned(Exception):
    """The stage was not signed; the message says why and what to do, `code` which of the reasons it is."""

    def __init__(self, message: str, code: str = "held") -> None:
        super().__init__(message)
        self.code = code


SIGNED, OVERTAKEN = "signed", "overtaken"
"""Somebody else has signed; something was recorded that the signer has not seen."""


@dataclass(frozen=True)
class Signer:
    """Somebody at a job who has proven who they are; `proof` says how, for the record."""

    visit: Visit
    proof: dict[str, Any]


def signer(visit: Visit, person_id: int | None, pin: str, device: str) -> Signer:
    """Whoever is signed in, or whoever of the crew proves to be there by a PIN. Raises `NotProven`."""
    if person_id is None or person_id == visit.person.pk:
        return Signer(visit, OWN_SESSION)
    member = prove(visit.job.crew, person_id, pin, device)
    return Signer(
        Visit(visit.job, member.person, member.role), {"by": "pin", "on_the_session_of": visit.person.pk}
    )  # fmt: skip


@transaction.atomic
def sign_stage(
    visit: Visit,
    stage: str,
    evidence_seen: str,
    entry_id: UUID,
    author: Author,
    slot: Slot = Slot.LEAD,
    proof: dict[str, Any] = OWN_SESSION,
    seen_at: int | None = None,
) -> Entry:
    """Signs `stage` on the evidence that stands now, if it is what the signer saw and nothing holds it.

    `seen_at` is the newest entry that was on the signer's screen: what they have recorded themself since is known to
    them too, signal or none. Signers of one job go one after the other, so two at once end in one sign-off a slot.
    Sent again, it answers with the sign-off as first written.

    Raises `NotSigned`, `Conflict` for an identifier used before, `KeyError` for a stage this job has not,
    `PermissionDenied` where that signature takes another role.
    """
    require(visit.role, TO_SIGN[slot])
    lock(visit.job)
    if known := sent_before(visit.job, SignOff.KIND, author, entry_id, stage=stage, slot=str(slot)):
        return known
    shot = snapshot(visit.job)
    answer = shot.assessment.stages.of(stage)
    if signed := answer.signed.get(slot):
        raise NotSigned(_("{name} has signed this stage already.").format(name=signed.by), SIGNED)
    if not answer.may_be_signed:
        raise NotSigned(_("Something holds this stage: see the list, and sign when it is cured."))
    if slot not in answer.step.slots:
        raise NotSigned(_("This stage does not want that signature."))
    if not _was_seen(visit, stage, evidence_seen, seen_at, shot):
        raise NotSigned(_("Something was recorded since you opened this page. Look again, then sign."), OVERTAKEN)
    if str(visit.person.pk) in {standing.person for standing in answer.signed.values()}:
        raise NotSigned(_("It takes two people: somebody else signs this."))
    together = next(iter(answer.signed.values()), None)
    sign_off = SignOff(
        str(entry_id),
        stage,
        visit.person.name,
        shot.assessment.stages.evidence_of(stage),
        slot=slot,
        slots=answer.step.slots,
        joins=(together.joins or together.id) if together else None,
        role=visit.role,
        proof=proof,
        supersedes=answer.sign_off.id if answer.sign_off and not together else None,
        seen_at=seen_at,
    )
    return append_value(visit.job, sign_off, author)


def _was_seen(visit: Visit, stage: str, evidence: str, seen_at: int | None, now: Snapshot) -> bool:
    """Whether the evidence as it stands is what the signer saw, or that and nothing but what they recorded since."""
    stands = now.assessment.stages.evidence_hash(stage)
    if evidence == stands:
        return True
    if seen_at is None or not 0 < seen_at < now.number:
        return False
    shown = snapshot_at(visit.job, seen_at).assessment
    if stage not in shown.stages.steps or evidence != shown.stages.evidence_hash(stage):
        return False
    known = snapshot_seen(visit.job, seen_at, visit.person).assessment
    return stage in known.stages.steps and known.stages.evidence_hash(stage) == stands


@transaction.atomic
def accept_finding(
    visit: Visit,
    stage: str,
    finding: str,
    reason: str,
    entry_id: UUID,
    author: Author,
    proof: dict[str, Any] = OWN_SESSION,
) -> Entry:
    """Accepts a stop that holds `stage` in writing; `finding` is its identity as it was seen.

    Sent again, it answers with the acceptance as first written. Raises `NotSigned` where there is no such stop any
    more or nobody may accept it, `PermissionDenied` where it takes another role: an engineer for what bears on the
    structure.
    """
    lock(visit.job)
    if known := sent_before(visit.job, Acceptance.KIND, author, entry_id, stage=stage, finding=finding):
        return known
    answer = snapshot(visit.job).assessment.stages.of(stage)
    found = next((f for f in answer.stops if f.identity == finding), None)
    if Slot.SECOND in answer.awaits and finding == alone_finding().identity:
        found = alone_finding()
        if others := others_who_look(visit):
            raise NotSigned(_("{name} can give it the second look.").format(name=others[0].person.name))
    if found is None:
        raise NotSigned(_("That has changed since you opened this page. Look again."), OVERTAKEN)
    if not found.acceptable:
        raise NotSigned(_("Nobody may accept that: it has to be cured."))
    require(visit.role, verb_to_accept(found))
    acceptance = Acceptance(
        str(entry_id), stage, finding, visit.person.name, visit.role, reason.strip(), found.rule, proof
    )
    return append_value(visit.job, acceptance, author)


@transaction.atomic
def withdraw(
    visit: Visit,
    withdraws: UUID,
    reason: str,
    entry_id: UUID,
    author: Author,
    proof: dict[str, Any] = OWN_SESSION,
) -> Entry:
    """Takes back a sign-off or an acceptance, which stays in the record. One's own, or anybody's for those who may
    strike out what others recorded. Raises `NotSigned` where there is none such, `PermissionDenied`."""
    lock(visit.job)
    if known := sent_before(visit.job, Withdrawal.KIND, author, entry_id, withdraws=str(withdraws)):
        return known
    found = Entry.objects.filter(
        id=withdraws, job=visit.job, kind__in=(SignOff.KIND, Acceptance.KIND)
    ).first()  # fmt: skip
    if found is None or str(withdraws) in snapshot(visit.job).assessment.stages.withdrawn:
        raise NotSigned(_("That was taken back already."), SIGNED)
    if found.by_id != visit.person.pk and not visit.may(Verb.STRIKE_ANY):
        raise PermissionDenied
    withdrawal = Withdrawal(
        str(entry_id), str(withdraws), visit.person.name, reason.strip(), found.body["stage"], visit.role, proof
    )
    return append_value(visit.job, withdrawal, author)


def others_who_look(visit: Visit) -> list[Membership]:
    """Those of the crew besides the visitor who can give a second look. One query."""
    able = visit.job.crew.memberships.filter(role__in=roles_that_may(Verb.LOOK_AGAIN)).exclude(person=visit.person)
    return list(able.select_related("person").order_by("person__name"))


def verb_to_accept(finding: Finding) -> Verb:
    return Verb.ACCEPT_STRUCTURE if finding.structural else Verb.ACCEPT
