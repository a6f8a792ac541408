"""The brief: a job started and corrected."""

from dataclasses import replace
from typing import Any

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods, require_POST

from groundwork.soundness import first_facets
from nivelum.bases.forms import KeepForm
from nivelum.bases.services import NotKept, first_design, start_job
from nivelum.bases.sheet import SiteSheet
from nivelum.bases.views.leaf import as_typed, keep, leaf_screen, stage_keys
from nivelum.crews.models import Crew
from nivelum.crews.policy import Verb, roles_that_may
from nivelum.crews.requests import Request
from nivelum.drawing.site import outline_plan
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.models import Job
from nivelum.jobs.services import Author, IdentifierUsed, snapshot
from nivelum.recording.forms import EntryForm

MOST_EARLIER = 200
"""Of a crew's jobs so many are offered to begin like."""


@require_http_methods(["GET", "POST"])
@job_view(Verb.SEE)
def brief(request: Request, visit: Visit) -> HttpResponse:
    """The brief as it is, to be corrected by whoever may."""
    shot = snapshot(visit.job)
    job = shot.assessment.job
    if request.method == "GET":
        return _sheet(request, SiteSheet(job.unit, job), leaf_screen(visit, shot, "brief"))
    if not visit.may(Verb.DESIGN):
        raise PermissionDenied
    sheet = SiteSheet(job.unit, job, None, request.POST, request.FILES, _added(request))
    context = leaf_screen(visit, shot, "brief")
    if _only_looking(request):
        return _sheet(request, sheet, context)
    if sheet.site:
        changed = sheet.site
        if (changed.ring, changed.islands) != (job.ring, job.islands):
            changed = replace(changed, facets=first_facets(changed))
        kept = keep(
            request, visit, changed, reverse("base", args=[visit.job.id]), as_typed(request.POST, *sheet.every)
        )
        if isinstance(kept, HttpResponse):
            return kept
        again = KeepForm(initial={"version": job.version, "knows": stage_keys(kept.overtakes)})
        context |= {"refusal": kept.message, "keep": again}
    return _sheet(request, sheet, context, 422)


@require_http_methods(["GET", "POST"])
def new_job(request: Request) -> HttpResponse:
    """A job from nothing: the same sheet, empty."""
    crews = list(_crews_to_start_in(request))
    if not crews:
        raise PermissionDenied
    chosen = request.POST.get("crew", request.GET.get("crew", ""))
    crew = next((c for c in crews if str(c.id) == chosen), crews[0])
    with crew.in_its_words():
        return _new_job(request, crews, crew)


def _new_job(request: Request, crews: list[Crew], crew: Crew) -> HttpResponse:
    context: dict[str, Any] = {"crews": crews, "crew": crew, "room": "new", "keep": KeepForm(initial={"version": 0})}
    earlier = Job.objects.filter(crew=crew)
    asked = request.POST.get("like", request.GET.get("like", ""))
    chosen = next((job for job in earlier if str(job.id) == asked), None)
    like = snapshot(chosen).assessment.job if chosen else None
    by_name = sorted(earlier, key=lambda job: (not job.is_pattern, job.name.casefold()))
    patterns = [job for job in by_name if job.is_pattern]
    context |= {"patterns": patterns, "earlier": by_name[len(patterns) : MOST_EARLIER], "like": chosen}
    if request.method == "GET":
        return _sheet(request, SiteSheet(crew.unit, like=like), context)
    sheet = SiteSheet(crew.unit, None, like, request.POST, request.FILES, _added(request))
    if _only_looking(request):
        return _sheet(request, sheet, context)
    sent = EntryForm(request.POST)
    if sheet.site and sent.is_valid():
        author = Author(request.user, sent.cleaned_data["device_at"])
        try:
            job = start_job(crew, first_design(sheet.site, like), author, sent.cleaned_data["entry_id"])
            messages.success(
                request, _("Started, with a first proposal. Look at Base types and Falls, then sign the brief.")
            )
            return redirect("base", job_id=job.id)
        except NotKept as not_kept:
            context["refusal"] = not_kept.message
        except IdentifierUsed:
            context["refusal"] = _("That was sent before with something else in it. Reload the page and try again.")
    elif sent.errors:
        context["refusal"] = _("That did not arrive whole. Reload the page and try again.")
    return _sheet(request, sheet, context, 422)


@require_POST
@job_view(Verb.DESIGN)
def pattern(request: Request, visit: Visit) -> HttpResponse:
    """From now on the crew begins other jobs like this one, or no longer."""
    Job.objects.filter(id=visit.job.id).update(is_pattern="pattern" in request.POST)
    return redirect("brief", job_id=visit.job.id)


def _crews_to_start_in(request: Request) -> Any:
    roles = roles_that_may(Verb.DESIGN)
    return Crew.objects.filter(memberships__person=request.user, memberships__role__in=roles).order_by("name")


def _added(request: Request) -> str:
    return request.POST.get("add", "")


def _only_looking(request: Request) -> bool:
    return bool({"look", "add"} & set(request.POST)) or (bool(request.FILES) and "keep" not in request.POST)


def _sheet(request: Request, sheet: SiteSheet, context: dict[str, Any], status: int = 200) -> HttpResponse:
    drawing = outline_plan(sheet.ring, sheet.islands, sheet.features, sheet.unit) if sheet.outline else ""
    context |= {"sheet": sheet, "drawing": drawing, "unit": sheet.unit}
    template = "brief/area.html" if request.htmx and "look" in request.POST else "brief/brief.html"
    return render(request, template, context, status=status)
