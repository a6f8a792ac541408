"""A bed in mortar: what was mixed and until when it is good, flags lifted to look."""

from typing import Any

from django.http import HttpResponse
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from groundwork.base import Role
from groundwork.bedding import TWO_PEOPLE, flag_mass, percent_held, to_lift
from nivelum.beds.forms import ENDED, BatchEndedForm, BatchForm, FlagForm, FlagSizeForm
from nivelum.beds.kinds import mix_words
from nivelum.beds.screens import bed_screen
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.recording.door import RecordedAt, answered, recorded, shown
from nivelum.recording.forms import EntryForm
from nivelum.recording.moments import minute_now, minute_words


@require_GET
@job_view(Verb.SEE)
def mortar(request: Request, visit: Visit) -> HttpResponse:
    """Batches with their times, and flags that were lifted."""
    return shown(request, _at(visit), _mortar(request, visit, snapshot(visit.job)))


@require_POST
@job_view(Verb.MEASURE)
def batch(request: Request, visit: Visit) -> HttpResponse:
    """A batch mixed, or what became of one."""
    ends = "batch" in request.POST
    form: EntryForm = BatchEndedForm(request.POST) if ends else BatchForm(request.POST, unit=visit.job.crew.unit)
    return _kept(request, visit, form, "how" if ends else "amount", "ended_form" if ends else "batch_form")


@require_POST
@job_view(Verb.MEASURE)
def flag(request: Request, visit: Visit) -> HttpResponse:
    """A flag lifted to look at its back."""
    return _kept(request, visit, FlagForm(request.POST), "contact", "flag_form")


def _kept(request: Request, visit: Visit, form: EntryForm, field: str, name: str) -> HttpResponse:
    done = recorded(visit, form, field)
    wrong: dict[str, Any] = {} if done else {name: form}
    return answered(request, done, _at(visit), lambda: _mortar(request, visit, snapshot(visit.job)) | wrong)


def _mortar(request: Request, visit: Visit, shot: Snapshot) -> dict[str, Any]:
    bed, unit, now = shot.assessment.bedding, visit.job.crew.unit, minute_now()
    size = FlagSizeForm(request.GET if "long" in request.GET else None, unit=unit)
    usual = FlagSizeForm({name: field.initial for name, field in size.fields.items()}, unit=unit)
    read = size if size.is_bound else usual
    flags = {}
    if read.is_valid():
        long, wide = (read.cleaned_data[name].metres for name in ("long", "wide"))
        paving = shot.assessment.site.specification.layer(Role.PAVING)
        number, lifts = to_lift(shot.assessment.site.area.area, long, wide)
        mass = flag_mass(long, wide, paving.thickness if paving else 0.0)
        flags = {"number": number, "lifts": lifts, "mass": mass, "two": mass > TWO_PEOPLE}
    typed = {"at": timezone.localtime(), "degrees": 15 if unit.is_metric else 60, "parts": 4}
    return bed_screen(visit, shot, "mortar") | {
        "batches": [
            (each, mix_words(each.mixed.parts), minute_words(each.mixed.at), minute_words(each.until),
             each.is_past(now))
            for each in reversed(bed.batches)
        ],
        "findings": [f for f in bed.findings if f.rule in ("K07", "K10")],
        "held": [(where, percent_held(contact)) for where, contact in bed.flags.items()],
        "flags": flags, "size_form": size, "ends": ENDED.items(),
        "batch_form": BatchForm(unit=unit, initial=typed | {"amount": 80 if unit.is_metric else 3}),
        "flag_form": FlagForm(), "ended_form": BatchEndedForm(),
    }  # fmt: skip


def _at(visit: Visit) -> RecordedAt:
    return RecordedAt("bed/mortar.html", "bed/mortar_now.html", reverse("mortar", args=[visit.job.id]))
