"""Sign-offs: may we go on?"""

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.urls import reverse
from django.utils.translation import gettext_lazy as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.assess import Assessment
from groundwork.stages import BRIEF, EXCAVATION, SET_OUT
from nivelum.crews.policy import Verb
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Author, snapshot
from nivelum.signoffs.forms import AcceptForm, SignForm
from nivelum.signoffs.services import NotSigned, accept_finding, sign_stage, verb_to_accept

EVIDENCE = {
    BRIEF.key: "signoffs/brief.html",
    SET_OUT.key: "signoffs/set_out.html",
    EXCAVATION.key: "signoffs/dig.html",
}
WORDS = {
    BRIEF.key: (_("Brief and levels, as they stand"), _("Sign the brief as {name}")),
    SET_OUT.key: (_("The set-out, as it stands"), _("Sign the set-out as {name}")),
    EXCAVATION.key: (_("The dig, as it stands"), _("Sign the dig as {name}")),
}
"""Each stage's heading and what its button says."""


@require_GET
@job_view(Verb.SEE)
def sign_offs(request: HttpRequest, visit: Visit) -> HttpResponse:
    return render(request, "signoffs/signoffs.html", _context(visit, request.GET.get("stage", "")))


@require_GET
@job_view(Verb.SEE)
def sign_offs_now(request: HttpRequest, visit: Visit) -> HttpResponse:
    """The same, for a screen that stays open while others work."""
    return render(request, "signoffs/now.html", _context(visit, request.GET.get("stage", "")))


@require_POST
@job_view(Verb.SIGN)
def sign(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Signs a stage."""
    stage, form, refusal = _named(request), SignForm(request.POST), ""
    if form.is_valid():
        data = form.cleaned_data
        author = Author(visit.person, data["device_at"])
        try:
            sign_stage(visit, stage, data["seen"], data["entry_id"], author)
        except NotSigned as not_signed:
            refusal = str(not_signed)
    return _answer(request, visit, stage, {"refusal": refusal, "form_errors": form.errors})


@require_POST
@job_view(Verb.ACCEPT)
def accept(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Accepts a stop in writing."""
    stage, form, refusal = _named(request), AcceptForm(request.POST), ""
    if form.is_valid():
        data = form.cleaned_data
        author = Author(visit.person, data["device_at"])
        try:
            accept_finding(visit, stage, data["finding"], data["reason"], data["entry_id"], author)
        except NotSigned as not_signed:
            refusal = str(not_signed)
    return _answer(request, visit, stage, {"refusal": refusal, "accept_form": form})


def _named(request: HttpRequest) -> str:
    stage = request.POST.get("stage", EXCAVATION.key)
    if stage not in EVIDENCE:
        raise Http404
    return stage


def _answer(request: HttpRequest, visit: Visit, stage: str, extra: dict[str, Any]) -> HttpResponse:
    context = _context(visit, stage) | extra
    wrong = extra["refusal"] or extra.get("form_errors") or (extra.get("accept_form") and extra["accept_form"].errors)
    if wrong or request.htmx:
        template = "signoffs/now.html" if request.htmx else "signoffs/signoffs.html"
        return render(request, template, context, status=422 if wrong else 200)
    return HttpResponseRedirect(reverse("sign-offs", args=[visit.job.id]) + f"?stage={stage}")


def _context(visit: Visit, asked: str) -> dict[str, Any]:
    shot = snapshot(visit.job)
    assessment = shot.assessment
    key = asked if asked in EVIDENCE else assessment.in_hand.stage.key
    step = assessment.stage(key)
    context = job_screen(visit, shot, "sign-offs") | {
        "step": step,
        "evidence_template": EVIDENCE[key],
        "judged": [answer for answer in assessment.stage_line if answer.stage.judged],
        "signed": shot.made.get(step.sign_off.id) if step.sign_off else None,
        "signed_version": step.sign_off.evidence.get("version") if step.sign_off else None,
        "findings": [
            (f, accepted, shot.made.get(accepted.id) if accepted else None, visit.may(verb_to_accept(f)))
            for f in step.findings
            for accepted in [step.accepted.get(f.identity)]
        ],
        "may_sign": visit.may(Verb.SIGN),
        "form": SignForm(initial={"seen": assessment.evidence_hash(key)}),
        "accept_form": AcceptForm(),
        "head": shot.head,
    }
    parts = {BRIEF.key: _of_the_brief, SET_OUT.key: _of_the_set_out, EXCAVATION.key: _of_the_dig}
    return (
        context
        | parts[key](assessment)
        | {
            "heading": WORDS[key][0],
            "sign_as": WORDS[key][1].format(name=visit.person.name),
            "may_be_accepted": key != EXCAVATION.key,
        }
    )


def _of_the_set_out(assessment: Assessment) -> dict[str, Any]:
    return {"set_out": assessment.set_out, "location": assessment.location, "margins": assessment.margins}


def _of_the_dig(assessment: Assessment) -> dict[str, Any]:
    answers = assessment.ground.values()
    deviations = [a.judgement.deviation for a in answers if a.judgement.deviation is not None]
    return {
        "answers": answers,
        "shot": assessment.shot_count(),
        "highest": max(deviations, default=None),
        "lowest": min(deviations, default=None),
        "tolerance": assessment.tolerance,
    }


def _of_the_brief(assessment: Assessment) -> dict[str, Any]:
    specification = assessment.job.specification
    return {
        "specification": specification,
        "school": assessment.case.school,
        "layers": [(layer, specification.compacted(layer)) for layer in specification.layers],
        "falls": [(facet, *facet.steepest) for facet in assessment.job.facets],
        "heights": [(height, assessment.job.design.level(height.at)) for height in assessment.job.heights],
    }
