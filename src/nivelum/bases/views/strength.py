"""What the ground carries, by cone or by its soil."""

from dataclasses import replace

from django.http import HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from groundwork.soundness import ground_strength
from groundwork.strength import layers as cone_layers
from groundwork.strength import log_text
from nivelum.bases.forms import ConeLogForm, TrafficForm
from nivelum.bases.views.leaf import as_typed, keep, leaf_screen
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.cone import cone_drawing
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import snapshot


@require_GET
@job_view(Verb.SEE)
def strength(request: Request, visit: Visit) -> HttpResponse:
    """What the ground carries, by cone or by its soil, and how thick a base that asks for."""
    return _strength(request, visit)


@require_POST
@job_view(Verb.DESIGN)
def keep_cone(request: Request, visit: Visit) -> HttpResponse:
    """Adds a cone log, in place of one of the same name."""
    job = snapshot(visit.job).assessment.job
    form = ConeLogForm(request.POST, request.FILES)
    if form.is_valid():
        logs = [log for log in job.cone_logs if log.name != form.cone_log.name]
        changed = replace(job, cone_logs=(*logs, form.cone_log))
        kept = keep(request, visit, changed, reverse("strength", args=[visit.job.id]), as_typed(request.POST, form))
        if isinstance(kept, HttpResponse):
            return kept
        form.add_error(None, kept.message)
    return _strength(request, visit, form)


@require_POST
@job_view(Verb.DESIGN)
def drop_cone(request: Request, visit: Visit) -> HttpResponse:
    """Leaves a cone log out of the design; the version that had it stays in the record."""
    job = snapshot(visit.job).assessment.job
    logs = tuple(log for log in job.cone_logs if log.name != request.POST.get("name"))
    kept = keep(request, visit, replace(job, cone_logs=logs), reverse("strength", args=[visit.job.id]))
    return kept if isinstance(kept, HttpResponse) else _strength(request, visit, refusal=kept.message)


def _strength(request: Request, visit: Visit, form: ConeLogForm | None = None, refusal: str = "") -> HttpResponse:
    shot = snapshot(visit.job)
    job, unit = shot.assessment.job, visit.job.crew.unit
    traffic = TrafficForm(request.GET if "reliability" in request.GET else None, initial={"axles": job.brief.axles})
    if not traffic.is_bound or not traffic.is_valid():
        asked = {name: traffic.get_initial_for_field(field, name) for name, field in traffic.fields.items()}
    else:
        asked = traffic.cleaned_data
    context = leaf_screen(visit, shot, "strength") | {
        "strength": ground_strength(shot.assessment.case, asked),
        "logs": [(log, cone_layers(log), cone_drawing(log, unit), log_text(log)) for log in job.cone_logs],
        "form": form or ConeLogForm(initial={"version": job.version}),
        "traffic": traffic,
        "refusal": refusal,
    }
    return render(request, "base/strength.html", context, status=422 if form and form.errors else 200)
