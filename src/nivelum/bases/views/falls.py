"""The falls, planned between the fixed heights."""

from dataclasses import replace

from django.http import HttpResponse, QueryDict
from django.shortcuts import render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.falls import NoFalls, PlannedFalls, plan_falls, settled
from groundwork.job import Job
from nivelum.bases.forms import FallsForm
from nivelum.bases.views.leaf import NotKeptBecause, as_typed, keep, leaf_screen, tried_on
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.site import SiteLayers, site_plan
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import snapshot


@require_GET
@job_view(Verb.SEE)
def falls(request: Request, visit: Visit) -> HttpResponse:
    """The falls as designed, or planned anew between the fixed heights."""
    return _falls(request, visit, request.GET)


@require_POST
@job_view(Verb.DESIGN)
def keep_falls(request: Request, visit: Visit) -> HttpResponse:
    """Keeps the falls planned from what the form says, worked out again here."""
    job = snapshot(visit.job).assessment.job
    form = FallsForm(request.POST, job=job)
    plan = _plan(job, form) if form.is_valid() else None
    refusal: HttpResponse | NotKeptBecause = NotKeptBecause(_("There are no such falls to keep."))
    if isinstance(plan, PlannedFalls):
        back = reverse("falls", args=[visit.job.id])
        refusal = keep(
            request, visit, replace(job, facets=settled(plan.facets, job.facets)), back, as_typed(request.POST, form)
        )
    if isinstance(refusal, HttpResponse):
        return refusal
    return _falls(request, visit, request.POST, refusal.message)


def _plan(job: Job, form: FallsForm) -> PlannedFalls | NoFalls:
    depth, access = job.specification.excavation_depth, bool(job.brief.level_access)
    straight = not form.cleaned_data["aside"]
    return plan_falls(
        form.pieces, job.heights, form.falls, job.features, job.ground, depth, access, straight, job.edge
    )


def _falls(request: Request, visit: Visit, data: QueryDict, refusal: str = "") -> HttpResponse:
    shot = snapshot(visit.job)
    job = shot.assessment.job
    form = FallsForm(data if "layout" in data else None, job=job)
    plan = _plan(job, form) if form.is_bound and form.is_valid() else None
    tried = shot.assessment
    if isinstance(plan, PlannedFalls):
        tried = tried_on(shot, replace(job, facets=settled(plan.facets, job.facets)))
    context = leaf_screen(visit, shot, "falls", tried) | {
        "form": form,
        "plan": plan,
        "planned": isinstance(plan, PlannedFalls),
        "refusal": refusal,
        "drawing": site_plan(tried.job, visit.job.crew.unit, SiteLayers(levels=True, names=True)),
        "excavation_now": job.ground.excavation(job.facets, job.specification.excavation_depth),
        "of_levels": [f for f in tried.soundness if f.rule in ("S02", "S03", "S04", "S21")],
    }
    template = "base/falls_now.html" if request.htmx and request.method == "GET" else "base/falls.html"
    return render(request, template, context, status=422 if refusal else 200)
