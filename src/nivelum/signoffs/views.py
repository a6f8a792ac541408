"""Sign-offs: may we go on?"""

from typing import Any

from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from groundwork.stages import EXCAVATION
from nivelum.crews.policy import Verb
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Author, snapshot
from nivelum.signoffs.forms import SignForm
from nivelum.signoffs.services import NotSigned, sign_stage


@require_GET
@job_view(Verb.SEE)
def sign_offs(request: HttpRequest, visit: Visit) -> HttpResponse:
    return render(request, "signoffs/signoffs.html", _context(visit))


@require_GET
@job_view(Verb.SEE)
def sign_offs_now(request: HttpRequest, visit: Visit) -> HttpResponse:
    """The same, for a screen that stays open while others work."""
    return render(request, "signoffs/now.html", _context(visit))


@require_POST
@job_view(Verb.SIGN)
def sign(request: HttpRequest, visit: Visit) -> HttpResponse:
    """Signs the excavation."""
    form = SignForm(request.POST)
    refusal = ""
    if form.is_valid():
        data = form.cleaned_data
        author = Author(visit.person, data["device_at"])
        try:
            sign_stage(visit, EXCAVATION.key, data["seen"], data["entry_id"], author)
        except NotSigned as not_signed:
            refusal = str(not_signed)
    context = _context(visit) | {"refusal": refusal, "form_errors": form.errors}
    if refusal or form.errors:
        template = "signoffs/now.html" if request.htmx else "signoffs/signoffs.html"
        return render(request, template, context, status=422)
    if request.htmx:
        return render(request, "signoffs/now.html", context)
    return HttpResponseRedirect(reverse("sign-offs", args=[visit.job.id]))


def _context(visit: Visit) -> dict[str, Any]:
    shot = snapshot(visit.job)
    dig = shot.assessment.stage(EXCAVATION.key)
    answers = shot.assessment.ground.values()
    deviations = [a.judgement.deviation for a in answers if a.judgement.deviation is not None]
    return job_screen(visit, shot, "sign-offs") | {
        "dig": dig,
        "signed": shot.made.get(dig.sign_off.id) if dig.sign_off else None,
        "answers": answers,
        "shot": shot.assessment.shot_count(),
        "highest": max(deviations, default=None),
        "lowest": min(deviations, default=None),
        "tolerance": shot.assessment.tolerance,
        "may_sign": visit.may(Verb.SIGN),
        "form": SignForm(initial={"seen": shot.assessment.evidence_hash}),
        "head": shot.head,
    }
