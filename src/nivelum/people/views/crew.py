"""The people of a crew, for whoever leads it: invite, change a role, end a membership, help somebody back in."""

import tempfile
from typing import Any
from uuid import UUID

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import FileResponse, Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods, require_POST

from nivelum.crews.models import CrewRole, Membership
from nivelum.crews.policy import Verb, may, require
from nivelum.crews.requests import Request, posted_number
from nivelum.people.archive import take_crew
from nivelum.people.forms import InviteForm
from nivelum.people.links import NotDone, invite, link_for_password, take_back
from nivelum.people.members import change_role, end, take_pin
from nivelum.people.models import Handed
from nivelum.people.words import role_table
from nivelum.records.codes import qr

LINES = 40


@require_http_methods(["GET", "HEAD", "POST"])
def people(request: Request, crew_id: UUID) -> HttpResponse:
    """Who is of the crew; a lead invites somebody: the link is shown this once."""
    own = _own(request, crew_id)
    if request.method != "POST":
        return _page(request, own)
    require(own.role, Verb.RUN_CREW)
    form = InviteForm(request.POST)
    if not form.is_valid():
        return _page(request, own, form=form)
    data = form.cleaned_data
    try:
        made, token = invite(own.crew, request.user, data["role"], data["label"])
    except NotDone as error:
        return _page(request, own, form=form, refusal=str(error))
    return _page(request, own, **_shown(request, made, reverse("join", args=[token])))


@require_POST
def member(request: Request, crew_id: UUID, what: str) -> HttpResponse:
    """What a lead does for one of the crew: another `role`, `end` the membership, take the `pin` away, hand a link
    for a new `password`."""
    own = _own(request, crew_id)
    require(own.role, Verb.RUN_CREW)
    found = get_object_or_404(
        Membership.objects.select_related("crew", "person"), crew=own.crew_id, id=posted_number(request, "member")
    )  # fmt: skip
    name = found.person.name
    try:
        match what:
            case "role":
                role = request.POST.get("role", "")
                if role not in CrewRole.values:
                    raise Http404
                change_role(found, CrewRole(role), request.user)
                said = _("Done: {name}, {role}.").format(name=name, role=CrewRole(role).label)
            case "end":
                end(found, request.user)
                said = _("{name} is of this crew no longer. What they recorded stays under their name.").format(
                    name=name
                )
            case "pin":
                take_pin(found, request.user)
                said = _("{name} has no PIN any more, and sets another on their own page.").format(name=name)
            case "password":
                made, token = link_for_password(own.crew, request.user, found.person)
                return _page(request, own, **_shown(request, made, reverse("new-password", args=[token])))
            case _:
                raise Http404
    except NotDone as error:
        return _page(request, own, refusal=str(error))
    messages.success(request, said)
    return redirect("yard") if found.person == request.user and what == "end" else redirect("people", crew_id=crew_id)


@require_POST
def withdraw_invitation(request: Request, crew_id: UUID) -> HttpResponse:
    """Closes a link that nobody has used."""
    own = _own(request, crew_id)
    require(own.role, Verb.RUN_CREW)
    try:
        link_id = UUID(request.POST.get("link", ""))
    except ValueError as error:
        raise Http404 from error
    take_back(get_object_or_404(Handed, id=link_id, crew=own.crew_id), request.user)
    return redirect("people", crew_id=crew_id)


@require_POST
def all_of_it(request: Request, crew_id: UUID) -> FileResponse:
    """All of the crew's data as one archive."""
    own = _own(request, crew_id)
    require(own.role, Verb.RUN_CREW)
    file = tempfile.TemporaryFile()  # noqa: SIM115 (the answer closes it)
    take_crew(own.crew, request.user, file)
    file.seek(0)
    name = slugify(own.crew.name) or "crew"
    return FileResponse(file, as_attachment=True, filename=f"{name}.nivelum-crew.zip", content_type="application/zip")


def _own(request: Request, crew_id: UUID) -> Membership:
    return get_object_or_404(Membership.objects.select_related("crew"), crew=crew_id, person=request.user)


def _shown(request: Request, made: Handed, way: str) -> dict[str, Any]:
    where = request.build_absolute_uri(way)
    return {"made": made, "address": where, "code": qr(where)}


def _page(request: Request, own: Membership, **more: Any) -> HttpResponse:
    crew, form = own.crew, more.get("form") or InviteForm()
    may_run = may(own.role, Verb.RUN_CREW)
    context = {
        "own": own, "form": form, "may_run": may_run, "roles": CrewRole.choices, "table": role_table(),
        "people": crew.memberships.select_related("person").order_by("person__name"),
        "open_links": [each for each in crew.handed.select_related("made_by") if each.is_open] if may_run else [],
        "lines": Paginator(crew.lines.all(), LINES).get_page(request.GET.get("page")),
    } | more  # fmt: skip
    wrong = bool(form.errors or more.get("refusal"))
    with crew.in_its_words():
        return render(request, "people/people.html", context | {"form": form}, status=422 if wrong else 200)
