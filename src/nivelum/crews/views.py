"""Signing in, and the crew's own page."""

from uuid import UUID

from django.contrib import messages
from django.contrib.auth.views import LoginView
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _

from nivelum.crews.forms import CrewForm
from nivelum.crews.models import Membership
from nivelum.crews.policy import Verb, may, require


class SignIn(LoginView):
    template_name = "sign_in.html"
    redirect_authenticated_user = True


def crew(request: HttpRequest, crew_id: UUID) -> HttpResponse:
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
    people = Membership.objects.filter(crew=crew_id).select_related("person").order_by("person__name")
    context = {"own": own, "people": people, "form": form, "may_run": may(own.role, Verb.RUN_CREW)}
    return render(request, "crew.html", context, status=422 if form.errors else 200)
