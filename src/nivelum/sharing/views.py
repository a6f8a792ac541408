"""Links for client, inspector and engineer: making them, and what they open."""

from collections.abc import Callable
from functools import wraps
from typing import Any
from uuid import UUID

from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from groundwork.schools import Slot
from nivelum.crews.models import Membership
from nivelum.crews.pins import NotProven, prove
from nivelum.crews.policy import Verb, may
from nivelum.crews.requests import Request
from nivelum.crews.tokens import told_to_nobody
from nivelum.exchange.views import download
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.photos import PHOTO_NAME, kept, shown
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Author, snapshot
from nivelum.money.shown import newest_estimate
from nivelum.records.codes import qr
from nivelum.records.exports import calendar
from nivelum.records.page import PART_WORDS, Part, handed_over, record_page, signed_drawing
from nivelum.records.views import drawing_of, pdf_of
from nivelum.sharing.forms import ShareForm
from nivelum.sharing.models import For, Share
from nivelum.sharing.services import make_share, share_of, withdraw_share
from nivelum.signoffs.evidence import evidence_shown
from nivelum.signoffs.forms import AcceptForm, SignerForm, SignForm
from nivelum.signoffs.services import NotSigned, accept_finding, sign_stage, verb_to_accept


@require_http_methods(["GET", "HEAD", "POST"])
@job_view(Verb.SHARE)
def shares(request: Request, visit: Visit) -> HttpResponse:
    """The links of a job, and making one: its address is shown this once."""
    form, made = ShareForm(crew=visit.job.crew), {}
    if request.method == "POST":
        form = ShareForm(request.POST, crew=visit.job.crew)
        if form.is_valid():
            data = form.cleaned_data
            whom = For(data["whom"])
            engineer = data["engineer"] if whom is For.ENGINEER else None
            share, token = make_share(
                visit, whom, data["label"], map(Part, data["parts"]), data["days"], engineer, data["shows_money"]
            )
            address = request.build_absolute_uri(reverse("shared", args=[token]))
            made = {"made": share, "address": address, "code": qr(address)}
            form = ShareForm(crew=visit.job.crew)
    context = job_screen(visit, snapshot(visit.job), "record") | made | {
        "form": form,
        "shares": Share.objects.filter(job=visit.job).select_related("made_by"),
        "part_words": PART_WORDS,
    }  # fmt: skip
    return render(request, "shared/shares.html", context, status=422 if form.errors else 200)


@require_POST
@job_view(Verb.SHARE)
def withdraw(request: Request, visit: Visit) -> HttpResponse:
    """Closes a link."""
    try:
        share_id = UUID(request.POST.get("share", ""))
    except ValueError as error:
        raise Http404 from error
    withdraw_share(get_object_or_404(Share, id=share_id, job=visit.job))
    return redirect("shares", job_id=visit.job.id)


Opened = Callable[..., HttpResponseBase]


def shared_view(*parts: Part) -> Callable[[Opened], Opened]:
    """Hands the view the `Share` that `token` opens, if it shows one of `parts`, where any are named: 404 for what
    opens nothing, 410 once it has ended."""

    def decorate(view: Opened) -> Opened:
        @wraps(view)
        def opened(request: Request, token: str, **named: Any) -> HttpResponseBase:
            share = share_of(token)
            if share is None or (parts and not set(map(str, parts)) & set(share.parts)):
                raise Http404
            if not share.is_open:
                return told_to_nobody(render(request, "shared/ended.html", status=410))
            with share.job.crew.in_its_words():
                return told_to_nobody(view(request, share, token, **named))

        return login_not_required(opened)

    return decorate


@shared_view()
@require_GET
def opened(request: Request, share: Share, token: str) -> HttpResponse:
    """What a link shows."""
    Share.objects.filter(id=share.id).update(opened_at=timezone.now())
    return _page(request, share, token)


@shared_view()
@require_GET
def pdf(request: Request, share: Share, token: str) -> HttpResponse:
    """The same as a PDF."""
    return pdf_of(request, share.job, reverse("shared", args=[token]), map(Part, share.parts))


@shared_view(Part.HANDOVER)
@require_GET
def dates(request: Request, share: Share, token: str) -> HttpResponse:
    given, _counted = handed_over(snapshot(share.job))
    return download(calendar(share.job, given), "text/calendar", share.job.name, "handover", "ics")


@shared_view(Part.DRAWINGS)
@require_GET
def drawing(request: Request, share: Share, token: str, number: int) -> HttpResponse:
    return drawing_of(signed_drawing(share.job, number))


@shared_view(Part.PHOTOS)
@require_GET
def photo(request: Request, share: Share, token: str, photo: str) -> HttpResponseBase:
    """A photo taken for a stage; those of tickets stay with the crew."""
    taken = {p.photo for answer in snapshot(share.job).assessment.stages.line for p in answer.photos}
    found = kept(share.job, photo) if PHOTO_NAME.fullmatch(photo) and photo in taken else None
    if found is None:
        raise Http404
    return shown(request, found, photo)


@shared_view()
@require_POST
def sign(request: Request, share: Share, token: str) -> HttpResponse:
    """An engineer signs through their link, with their PIN."""

    def act(visit: Visit, data: dict[str, Any], author: Author, proof: dict[str, Any]) -> None:
        sign_stage(visit, data["stage"], data["seen"], data["entry_id"], author, data["slot"], proof)

    return _proven(request, share, token, SignForm(request.POST), act)


@shared_view()
@require_POST
def accept(request: Request, share: Share, token: str) -> HttpResponse:
    """An engineer accepts a stop through their link, with their PIN."""

    def act(visit: Visit, data: dict[str, Any], author: Author, proof: dict[str, Any]) -> None:
        accept_finding(visit, data["stage"], data["finding"], data["reason"], data["entry_id"], author, proof)

    return _proven(request, share, token, AcceptForm(request.POST), act)


def _proven(
    request: Request,
    share: Share,
    token: str,
    form: SignerForm,
    act: Callable[[Visit, dict[str, Any], Author, dict[str, Any]], None],
) -> HttpResponse:
    if share.engineer is None or form.data.get("stage") not in snapshot(share.job).assessment.stages.steps:
        raise Http404
    refusal = ""
    if form.is_valid():
        data = form.cleaned_data
        try:
            member = prove(share.job.crew, share.engineer.pk, data["pin"], f"link {share.id}")
            visit = Visit(share.job, member.person, member.role)
            act(visit, data, Author(member.person, data["device_at"]), {"by": "link", "link": str(share.id)})
        except NotProven as error:
            form.add_error("pin", str(error))
        except NotSigned as error:
            refusal = str(error)
    if refusal or form.errors:
        return _page(request, share, token, {"refusal": refusal, "sent": form}, 422)
    return redirect("shared", token=token)


def _page(
    request: Request, share: Share, token: str, more: dict[str, Any] | None = None, status: int = 200
) -> HttpResponse:
    where = reverse("shared", args=[token])
    context = record_page(share.job, map(Part, share.parts)) | {
        "share": share,
        "token": token,
        "photos_at": f"{where}photos/",
        "drawings_at": f"{where}signed-",
        "money": newest_estimate(share.job) if share.shows_money else None,
        **(_for_the_engineer(share) if share.engineer else {}),
        **(more or {}),
    }
    return render(request, "shared/shared.html", context, status=status)


def _for_the_engineer(share: Share) -> dict[str, Any]:
    """What waits for an engineer: signatures, and stops only they may accept."""
    member = Membership.objects.filter(crew=share.job.crew, person=share.engineer).first()
    if member is None or not may(member.role, Verb.SIGN_STRUCTURE):
        return {}
    assessment = snapshot(share.job).assessment
    line = assessment.stages.line
    return {
        "to_sign": [
            (
                a,
                SignForm(initial={"seen": assessment.stages.evidence_hash(a.stage.key), "slot": Slot.ENGINEER}),
                evidence_shown(share.job, assessment, a.stage.key),
            )
            for a in line
            if a.may_be_signed and Slot.ENGINEER in a.awaits
        ],
        "to_accept": [
            (a, f) for a in line for f in a.stops
            if f.acceptable and verb_to_accept(f) is Verb.ACCEPT_STRUCTURE
        ],
    }  # fmt: skip
