"""The schools of base on this job, ranked and side by side."""

from dataclasses import replace

from django.http import Http404, HttpResponse
from django.shortcuts import render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from groundwork.assess import Assessment, overtaken
from groundwork.schools import School, school, schools
from groundwork.soundness import Advice, advice, advise, completed
from groundwork.stages import StageAnswer
from nivelum.bases.forms import KeepForm
from nivelum.bases.views.leaf import keep, leaf_screen, stage_keys, tried_on
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.drawing.kept import kept
from nivelum.drawing.section import section
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.services import Snapshot, snapshot


@require_GET
@job_view(Verb.SEE)
def adviser(request: Request, visit: Visit) -> HttpResponse:
    """Every school on this job, ranked; two of them side by side where `one` and `other` name them."""
    return _adviser(request, visit)


@require_POST
@job_view(Verb.DESIGN)
def take_school(request: Request, visit: Visit) -> HttpResponse:
    """Takes a school's usual base for the job."""
    key = request.POST.get("school", "")
    if key not in schools():
        raise Http404
    job = snapshot(visit.job).assessment.job
    back = reverse("base", args=[visit.job.id])
    refusal = keep(request, visit, replace(job, specification=completed(job, school(key))), back)
    return refusal if isinstance(refusal, HttpResponse) else _adviser(request, visit, refusal.message)


def _adviser(request: Request, visit: Visit, refusal: str = "") -> HttpResponse:
    shot = snapshot(visit.job)
    job, unit = shot.assessment.job, visit.job.crew.unit
    pair = [key for key in (request.GET.get("one"), request.GET.get("other")) if key in schools()]
    beside = [advice(job, school(key)) for key in pair if key]
    deepest = max((a.specification.excavation_depth for a in beside), default=0.0)
    middle = job.area.representative_point()
    finished = job.design.level((middle.x, middle.y))
    context = leaf_screen(visit, shot, "schools") | {
        "advised": [(a, *_taking(shot, a.school)) for a in _advised(shot.assessment)],
        "beside": [(a, section(a.specification, finished, unit, depth_shown=deepest, narrow=True)) for a in beside],
        "pair": pair,
        "refusal": refusal,
    }
    template = "base/beside.html" if request.htmx and request.method == "GET" else "base/schools.html"
    return render(request, template, context, status=422 if refusal else 200)


@kept
def _advised(assessment: Assessment) -> tuple[Advice, ...]:
    return advise(assessment.job)


def _taking(shot: Snapshot, chosen: School) -> tuple[KeepForm, tuple[StageAnswer, ...]]:
    """What goes with taking a school: the form that does, and what it would overtake."""
    job, signed = shot.assessment.job, any(answer.gate.is_signed for answer in shot.assessment.stages.line)
    lost = _lost(shot, chosen) if signed else ()
    return KeepForm(initial={"version": job.version, "knows": stage_keys(lost)}), lost


def _lost(shot: Snapshot, chosen: School) -> tuple[StageAnswer, ...]:
    """What taking a school would overtake: tried once for a record as it stands."""
    known: tuple[str, tuple[StageAnswer, ...]] | None = shot.parts.get(("lost", chosen.key))
    if known is None or known[0] != shot.head:
        job = shot.assessment.job
        tried = tried_on(shot, replace(job, specification=completed(job, chosen)))
        known = shot.parts["lost", chosen.key] = shot.head, overtaken(shot.assessment, tried)
    return known[1]
