"""The crew's own page."""

from uuid import UUID

from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _

from nivelum.crews.forms import CrewForm, PegTestForm, ToolForm, sureness, usual
from nivelum.crews.log import noted
from nivelum.crews.models import Deed, Membership, Tool, ToolMethod
from nivelum.crews.policy import Verb, may, require
from nivelum.crews.requests import Request


def crew(request: Request, crew_id: UUID) -> HttpResponse:
    """The people of a crew and the rod they read; a lead may change the crew's name and rod."""
    own = get_object_or_404(Membership.objects.select_related("crew"), crew=crew_id, person=request.user)
    form = CrewForm(instance=own.crew)
    if request.method == "POST":
        require(own.role, Verb.RUN_CREW)
        form = CrewForm(request.POST, instance=own.crew)
        if form.is_valid():
            with transaction.atomic():
                form.save()
                changed = ", ".join(str(form.fields[name].label) for name in form.changed_data)
                noted(own.crew, request.user, Deed.CHANGED, detail=changed)
            messages.success(request, _("Saved. Every screen now shows this rod."))
            return redirect("crew", crew_id=crew_id)
    people = Membership.objects.filter(crew=own.crew_id).select_related("person").order_by("person__name")
    context = {"own": own, "people": people, "form": form, "may_run": may(own.role, Verb.RUN_CREW)}
    context["may_see_money"] = may(own.role, Verb.SEE_MONEY)
    unit = own.crew.unit
    kit = Tool.objects.filter(crew=own.crew_id).prefetch_related("tests")
    context |= {"unit": unit, "kit": [(tool, *sureness(tool, unit)) for tool in kit]}
    with own.crew.in_its_words():
        return render(request, "crew.html", context, status=422 if form.errors else 200)


def tool(request: Request, crew_id: UUID, tool_id: UUID | None = None) -> HttpResponse:
    """One tool of the kit, or a new one: what it is, how sure it is, and for a level its two-peg test."""
    own = get_object_or_404(Membership.objects.select_related("crew"), crew=crew_id, person=request.user)
    held = get_object_or_404(Tool, id=tool_id, crew=crew_id) if tool_id else Tool(crew=own.crew)
    form, test = ToolForm(instance=held, unit=own.crew.unit), PegTestForm(unit=own.crew.unit)
    if request.method == "POST":
        require(own.role, Verb.MEASURE if "midway_a" in request.POST else Verb.RUN_CREW)
        if "midway_a" in request.POST and tool_id:
            test = PegTestForm(request.POST, unit=own.crew.unit)
            if test.is_valid():
                done = test.test()
                done.tool, done.by = held, request.user
                done.save()
                messages.success(request, _("Tested. Set-ups from now on carry the correction."))
                return redirect("tool", crew_id=crew_id, tool_id=held.id)
        else:
            form = ToolForm(request.POST, instance=held, unit=own.crew.unit)
            if form.is_valid():
                form.save()
                messages.success(request, _("Saved. What is read with it from now on is judged by this."))
                return redirect("crew", crew_id=crew_id)
    with own.crew.in_its_words():
        said = usual(own.crew.unit)
    context = {
        "usual": said,
        "own": own,
        "tool": held,
        "form": form,
        "test": test,
        "tests": list(held.tests.select_related("by")) if tool_id else [],
        "is_level": tool_id and held.method in (ToolMethod.LASER, ToolMethod.OPTICAL),
        "has_bubble": held.method == ToolMethod.STRAIGHTEDGE,
        "may_run": may(own.role, Verb.RUN_CREW),
        "may_measure": may(own.role, Verb.MEASURE),
        "unit": own.crew.unit,
    }
    with own.crew.in_its_words():
        return render(request, "tool.html", context, status=422 if form.errors or test.errors else 200)
