"""Sign-offs: may we go on?"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.job import Acceptance
from groundwork.measures import Finding
from groundwork.schools import Slot
from groundwork.stages import StageAnswer, alone_finding
from nivelum.crews.models import Membership
from nivelum.crews.pins import NotProven
from nivelum.crews.policy import TO_SIGN, Verb, may
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.models import Entry
from nivelum.jobs.outbox import Refusal, Settled, Way
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Author, Made, Snapshot, snapshot
from nivelum.recording.door import RecordedAt, answered, not_understood, recorded
from nivelum.signoffs.evidence import EVIDENCE
from nivelum.signoffs.forms import (
    AcceptForm,
    LookForm,
    ObservationForm,
    PictureForm,
    SignerForm,
    SignForm,
    WithdrawForm,
)
from nivelum.signoffs.services import (
    SIGNED,
    NotSigned,
    Signer,
    accept_finding,
    sign_stage,
    signer,
    verb_to_accept,
    withdraw,
)


@require_GET
@job_view(Verb.SEE)
def sign_offs(request: Request, visit: Visit) -> HttpResponse:
    return render(request, "signoffs/signoffs.html", _context(visit, request.GET.get("stage", "")))


@require_GET
@job_view(Verb.SEE)
def sign_offs_now(request: Request, visit: Visit) -> HttpResponse:
    """The same, for a screen that stays open while others work."""
    return render(request, "signoffs/now.html", _context(visit, request.GET.get("stage", "")))


@require_POST
@job_view(Verb.MEASURE)
def sign(request: Request, visit: Visit) -> HttpResponse:
    """Signs a stage."""

    def act(by: Signer, data: dict[str, Any], author: Author) -> Entry:
        return sign_stage(
            by.visit, data["stage"], data["seen"], data["entry_id"], author, data["slot"], by.proof,
            data["answered_number"],
        )  # fmt: skip

    return _proven(request, visit, SignForm(request.POST), act)


@require_POST
@job_view(Verb.MEASURE)
def accept(request: Request, visit: Visit) -> HttpResponse:
    """Accepts a stop in writing."""

    def act(by: Signer, data: dict[str, Any], author: Author) -> Entry:
        return accept_finding(
            by.visit, data["stage"], data["finding"], data["reason"], data["entry_id"], author, by.proof
        )  # fmt: skip

    return _proven(request, visit, AcceptForm(request.POST), act)


@require_POST
@job_view(Verb.MEASURE)
def take_back(request: Request, visit: Visit) -> HttpResponse:
    """Takes a sign-off or an acceptance back."""

    def act(by: Signer, data: dict[str, Any], author: Author) -> Entry:
        return withdraw(by.visit, data["withdraws"], data["reason"], data["entry_id"], author, by.proof)

    return _proven(request, visit, WithdrawForm(request.POST), act)


@require_POST
@job_view(Verb.MEASURE)
def look(request: Request, visit: Visit) -> HttpResponse:
    """Answers one of a stage's questions."""
    return _observe(request, visit, LookForm(request.POST), "words")


@require_POST
@job_view(Verb.MEASURE)
def picture(request: Request, visit: Visit) -> HttpResponse:
    """Keeps a photo for a stage."""
    form = PictureForm(request.POST, request.FILES, keeps_places=visit.job.crew.keeps_places)
    return _observe(request, visit, form, "photo")


def device(request: Request) -> str:
    """What PINs are counted by: the session somebody signed in on with a password."""
    return request.session.session_key or ""


def _proven(
    request: Request, visit: Visit, form: SignerForm, act: Callable[[Signer, dict[str, Any], Author], Entry]
) -> HttpResponse:
    """Does what only someone proven may do, and shows the stage with what came of it."""
    stage, refusal = _named(request, visit), ""
    if form.is_valid():
        data = form.cleaned_data
        try:
            by = signer(visit, data["signer"], data["pin"], device(request))
            visit.written.append(act(by, data, Author(by.visit.person, data["device_at"])))
        except NotProven as error:
            form.add_error("pin", str(error))
        except NotSigned as error:
            refusal = str(error)
            if visit.from_outbox:
                raise Settled(_not_signed(visit, stage, error)) from error
    if visit.from_outbox:
        raise Settled(visit.written[0] if visit.written else not_understood(form))
    return _answer(request, visit, stage, {"refusal": refusal, "sent": form})


def _not_signed(visit: Visit, stage: str, error: NotSigned) -> Refusal:
    """A signature made without a signal that cannot stand: what came between, and where to look at it."""
    where = reverse("sign-offs", args=[visit.job.id]) + f"?stage={stage}"
    says = _("See who signed") if error.code == SIGNED else _("Look at the stage as it stands, then sign it")
    return Refusal(error.code, str(error), (Way("go", says, where),))


def _observe(request: Request, visit: Visit, form: ObservationForm, field: str) -> HttpResponse:
    """Records what was seen, and shows the stage with what came of it."""
    stage = _named(request, visit)
    recorded(visit, form, field)
    return _answer(request, visit, stage, {"sent": form})


def _named(request: Request, visit: Visit) -> str:
    stage = request.POST.get("stage", "")
    if stage not in snapshot(visit.job).assessment.stages.steps:
        raise Http404
    return stage


def _answer(request: Request, visit: Visit, stage: str, extra: dict[str, Any]) -> HttpResponse:
    done = not (extra.get("refusal") or extra["sent"].errors)
    way = reverse("sign-offs", args=[visit.job.id]) + f"?stage={stage}"
    place = RecordedAt("signoffs/signoffs.html", "signoffs/now.html", way)
    return answered(request, done, place, lambda: _context(visit, stage) | extra)


@dataclass(frozen=True)
class Wanted:
    """A signature a stage still wants, and who of the crew can give it; oneself first."""

    slot: Slot
    people: list[Membership]
    form: SignForm


@dataclass(frozen=True)
class Stop:
    """A finding with its acceptance, if any, and who of the crew may accept it."""

    finding: Finding
    accepted: Acceptance | None
    made: Made | None
    people: list[Membership]


def _context(visit: Visit, asked: str) -> dict[str, Any]:
    shot = snapshot(visit.job)
    assessment = shot.assessment
    key = asked if asked in assessment.stages.steps else assessment.stages.in_hand_key
    step, evidence = assessment.stages.of(key), assessment.stages.evidence_hash(key)
    members = visit.job.crew.memberships.select_related("person")
    crew = sorted(members, key=lambda m: (m.person_id != visit.person.pk, m.person.name))
    template, shown = EVIDENCE[key]
    context = job_screen(visit, shot, "sign-offs") | {
        "step": step,
        "shown_stage": key,
        "evidence_template": f"signoffs/evidence/{template}.html",
        "signatures": _signatures(shot, step),
        "taken_back": shot.made.get(step.withdrawal.id) if step.withdrawal else None,
        "stops": [_stop(f, step, shot, crew) for f in step.findings if f.rule != "G06"],
        "asked": [(a, shot.made.get(a.entry)) for a in step.asked],
        "wanted": _wanted(step, evidence, crew) if step.may_be_signed else [],
        "provisional": [] if step.may_be_signed else _provisional(visit, step, evidence, crew),
        "opens": [assessment.stages.steps[each].stage for each in step.step.opens],
        "may_measure": visit.may(Verb.MEASURE),
        "alone": _alone(visit, step, crew),
        "may_withdraw_any": visit.may(Verb.STRIKE_ANY),
        "me": visit.person.pk,
        "head": shot.head,
    }
    return context | shown(assessment)


def _alone(visit: Visit, step: StageAnswer, crew: list[Membership]) -> Stop | None:
    """What a lead who works alone may accept in the place of a second look; None where somebody else can look."""
    others = [m for m in crew if m.person_id != visit.person.pk and may(m.role, Verb.LOOK_AGAIN)]
    if others or Slot.SECOND not in step.awaits or not step.may_be_signed or not visit.may(Verb.ACCEPT):
        return None
    return Stop(alone_finding(), None, None, [m for m in crew if m.person_id == visit.person.pk])


def _signatures(shot: Snapshot, step: StageAnswer) -> list[tuple[Any, Made, bool]]:
    """Who signed, newest last: what stands now, else what was overtaken; and whether it stands."""
    standing = list(step.signed.values()) or ([step.sign_off] if step.sign_off else [])
    return [(s, shot.made[s.id], s in step.signed.values()) for s in standing]


def _stop(finding: Finding, step: StageAnswer, shot: Snapshot, crew: list[Membership]) -> Stop:
    accepted = step.accepted.get(finding.identity)
    verb = verb_to_accept(finding)
    people = [m for m in crew if finding.acceptable and may(m.role, verb)]
    return Stop(finding, accepted, shot.made.get(accepted.id) if accepted else None, people)


def _provisional(visit: Visit, step: StageAnswer, seen: str, crew: list[Membership]) -> list[Wanted]:
    """The signatures whoever looks could give a stage once what it lacks is done: without a signal they sign as it
    stands before them, and the server judges it when the signal is back."""
    mine = [m for m in crew if m.person_id == visit.person.pk]
    return [want for want in _wanted(step, seen, mine) if want.people]


def _wanted(step: StageAnswer, seen: str, crew: list[Membership]) -> list[Wanted]:
    signed = {s.person for s in step.signed.values()}
    return [
        Wanted(
            slot,
            [m for m in crew if may(m.role, TO_SIGN[slot]) and str(m.person_id) not in signed],
            SignForm(initial={"seen": seen, "slot": slot}),
        )
        for slot in step.awaits
    ]
