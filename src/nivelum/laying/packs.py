"""What the layout takes by size, packs and pallets; which packs are open, and of which batch."""

from typing import Any

from django.http import HttpResponse
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from groundwork.laying import OPEN_TOGETHER
from groundwork.laying import packs as packs_for
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.laying.forms import EmptiedForm, PackForm, PalletForm, SparesForm
from nivelum.laying.screens import laying_screen
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.forms import EntryForm


@require_GET
@job_view(Verb.SEE)
def packs(request: Request, visit: Visit) -> HttpResponse:
    """Units to have, packs open and used up."""
    return shown(request, _at(visit), _packs(request, visit, snapshot(visit.job)))


@require_POST
@job_view(Verb.MEASURE)
def pack_opened(request: Request, visit: Visit) -> HttpResponse:
    """A pack opened, with its batch code, and a photo of its label if any."""
    return _kept(request, visit, PackForm(request.POST, request.FILES), "code", "pack_form")


@require_POST
@job_view(Verb.MEASURE)
def pack_emptied(request: Request, visit: Visit) -> HttpResponse:
    """A pack that is used up."""
    return _kept(request, visit, EmptiedForm(request.POST), "pack", "emptied_form")


@require_POST
@job_view(Verb.MEASURE)
def spares_left(request: Request, visit: Visit) -> HttpResponse:
    """Units kept for repairs."""
    return _kept(request, visit, SparesForm(request.POST), "left", "spares_form")


def _kept(request: Request, visit: Visit, form: EntryForm, field: str, name: str) -> HttpResponse:
    done = recorded(visit, form, field)
    return answered(
        request, done, _at(visit),
        lambda: _packs(request, visit, snapshot(visit.job)) | ({} if done else {name: form}),
    )  # fmt: skip


def _packs(request: Request, visit: Visit, shot: Snapshot) -> dict[str, Any]:
    there, unit = shot.assessment.laying, visit.job.crew.unit
    pallet = PalletForm(request.GET if "pack" in request.GET else None, unit=unit)
    area = sum(each.area for each in there.taken_off)
    number = None
    if pallet.is_bound and pallet.is_valid():
        number = packs_for(area, pallet.cleaned_data["pack"])
    return laying_screen(visit, shot, "packs") | {
        "taken_off": there.taken_off, "area": area, "mass": sum(each.mass for each in there.taken_off),
        "pallet_form": pallet, "pallets": number, "open_now": there.packs.open_now,
        "codes": there.packs.codes.items(), "others": {pack.id for pack in there.packs.others},
        "findings": [f for f in there.findings if f.rule in ("Y08", "Y09")], "together": OPEN_TOGETHER,
        "pack_form": PackForm(), "emptied_form": EmptiedForm(), "spares_form": SparesForm(), "spares": there.spares,
    }  # fmt: skip


def _at(visit: Visit) -> RecordedAt:
    return RecordedAt("laying/packs.html", "", reverse("packs", args=[visit.job.id]))
