"""Signing in, and the crew's own page."""

from uuid import UUID

from django.contrib import messages
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.views import LoginView
from django.core.exceptions import ValidationError
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_POST

from nivelum.crews.forms import CrewForm, PegTestForm, PinForm, SignInForm, ToolForm, sureness, usual
from nivelum.crews.models import Membership, Tool, ToolMethod
from nivelum.crews.pins import set_pin
from nivelum.crews.policy import Verb, may, require
from nivelum.crews.requests import Request
from nivelum.crews.tries import remember


class SignIn(LoginView):
    template_name = "sign_in.html"
    authentication_form = SignInForm
    redirect_authenticated_user = True

    def form_valid(self, form: AuthenticationForm) -> HttpResponse:
        response = super().form_valid(form)
        remember(self.request, response, form.get_user().get_username())
        return response


def crew(request: Request, crew_id: UUID) -> HttpResponse:
    """The people of a crew and the rod they read; a lead may change the crew's name and rod."""
    own = get_object_or_404(Membership.objects.select_related("crew"), crew=crew_id, person=request.user)
    form = CrewForm(instance=own.crew)
    if request.method == "POST":
        require(own.role, Verb.RUN_CREW)
        form = CrewForm(request.POST, instance=own.crew)
        if form.is_valid():
            form.save()
            messages.success(request, _("Saved. Every screen now shows this rod."))
            return redirect("crew", crew_id=crew_id)
    return _crew_page(request, own, form, PinForm())


def _crew_page(request: Request, own: Membership, form: CrewForm, pin: PinForm) -> HttpResponse:
    people = Membership.objects.filter(crew=own.crew_id).select_related("person").order_by("person__name")
    context = {"own": own, "people": people, "form": form, "pin": pin, "may_run": may(own.role, Verb.RUN_CREW)}
    unit = own.crew.unit
    kit = Tool.objects.filter(crew=own.crew_id).prefetch_related("tests")
    context |= {"unit": unit, "kit": [(tool, *sureness(tool, unit)) for tool in kit]}
    with own.crew.in_its_words():
        return render(request, "crew.html", context, status=422 if form.errors or pin.errors else 200)


@require_POST
def own_pin(request: Request, crew_id: UUID) -> HttpResponse:
    """Sets one's own PIN."""
    own = get_object_or_404(Membership.objects.select_related("crew"), crew=crew_id, person=request.user)
    form = PinForm(request.POST)
    if form.is_valid():
        try:
            set_pin(request.user, form.cleaned_data["pin"])
        except ValidationError as error:
            form.add_error("pin", error)
        else:
            messages.success(request, _("Your PIN is set. With it you can sign on anybody’s device."))
            return redirect("crew", crew_id=crew_id)
    return _crew_page(request, own, CrewForm(instance=own.crew), form)


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
