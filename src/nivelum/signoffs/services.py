"""Signing a stage: the evidence frozen as the signer saw it, once."""

from uuid import UUID

from django.db import transaction
from django.utils.translation import gettext as _

from groundwork.findings import Finding
from groundwork.stages import Gate
from nivelum.crews.policy import Verb, require
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Entry, Kind
from nivelum.jobs.services import Author, append, lock, snapshot


class NotSigned(Exception):
    """The stage was not signed; the message says why and what to do."""


@transaction.atomic
def sign_stage(visit: Visit, stage: str, evidence_seen: str, entry_id: UUID, author: Author) -> Entry:
    """Signs `stage` on the evidence that stands now, if it is what the signer saw and nothing holds it.

    Signers of one job go one after the other, so two at once end in one sign-off. Sent again, it answers with
    the sign-off as first written. Raises `NotSigned`, `KeyError` for a stage that is not judged.
    """
    lock(visit.job)
    if known := Entry.objects.filter(id=entry_id, job=visit.job, kind=Kind.SIGN_OFF, by=visit.person).first():
        return known
    shot = snapshot(visit.job)
    answer = shot.assessment.stage(stage)
    if answer.gate is Gate.SIGNED and answer.sign_off:
        raise NotSigned(_("{name} has signed this stage already.").format(name=answer.sign_off.by))
    if not answer.may_be_signed:
        raise NotSigned(_("Something holds this stage: see the list, and sign when it is cured."))
    if evidence_seen != shot.assessment.evidence_hash(stage):
        raise NotSigned(_("Something was recorded since you opened this page. Look again, then sign."))
    signed = {
        "stage": stage,
        "evidence": shot.assessment.evidence_of(stage),
        "supersedes": answer.sign_off.id if answer.sign_off else None,
    }
    return append(visit.job, Kind.SIGN_OFF, signed, author, entry_id)


@transaction.atomic
def accept_finding(visit: Visit, stage: str, finding: str, reason: str, entry_id: UUID, author: Author) -> Entry:
    """Accepts a stop that holds `stage` in writing; `finding` is its identity as it was seen.

    Sent again, it answers with the acceptance as first written. Raises `NotSigned` where there is no such stop any
    more, `PermissionDenied` where it takes another role: an engineer for what bears on the structure.
    """
    lock(visit.job)
    if known := Entry.objects.filter(id=entry_id, job=visit.job, kind=Kind.ACCEPTANCE, by=visit.person).first():
        return known
    found = next((f for f in snapshot(visit.job).assessment.stage(stage).stops if f.identity == finding), None)
    if found is None:
        raise NotSigned(_("That has changed since you opened this page. Look again."))
    require(visit.role, verb_to_accept(found))
    body = {"stage": stage, "rule": found.rule, "finding": finding, "role": visit.role, "reason": reason.strip()}
    return append(visit.job, Kind.ACCEPTANCE, body, author, entry_id)


def verb_to_accept(finding: Finding) -> Verb:
    return Verb.ACCEPT_STRUCTURE if finding.structural else Verb.ACCEPT
