"""One's own page: name, words, password, passkeys, where one is signed in, one's crews, one's data."""

from contextlib import nullcontext
from typing import Any, cast

from allauth.account.views import ReauthenticateView
from allauth.mfa.models import Authenticator
from allauth.mfa.webauthn.internal.auth import begin_registration
from allauth.mfa.webauthn.views import AddWebAuthnView, RemoveWebAuthnView
from allauth.usersessions.models import UserSession
from django.contrib import messages
from django.contrib.auth import logout, update_session_auth_hash
from django.core.exceptions import ValidationError
from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse_lazy
from django.utils.translation import gettext as _
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from nivelum.crews.forms import PinForm
from nivelum.crews.models import CrewRole, Membership
from nivelum.crews.pins import set_pin
from nivelum.crews.requests import Request, posted_number
from nivelum.crews.tries import LONGEST_PASSWORD
from nivelum.live.leaving import asked_anew
from nivelum.people.devices import device_words
from nivelum.people.forms import FoundForm, OwnPasswordForm, YouForm, is_theirs
from nivelum.people.hints import KEYS, WORDS
from nivelum.people.links import NotDone
from nivelum.people.members import end, erase, found_crew, sign_out
from nivelum.people.taking import data_of


@require_http_methods(["GET", "HEAD", "POST"])
def you(request: Request) -> HttpResponse:
    """One's own page; its first form is the name and the words."""
    form = YouForm(request.POST if request.method == "POST" else None, instance=request.user)
    if form.is_valid():
        form.save()
        messages.success(request, _("Saved."))
        return redirect("you")
    return _page(request, form=form)


@require_POST
@sensitive_post_parameters("old", "password")
def own_password(request: Request) -> HttpResponse:
    """A new password; every other device is signed out."""
    form = OwnPasswordForm(request.POST, person=request.user)
    if not form.is_valid():
        return _page(request, password=form)
    with transaction.atomic():
        request.user.set_password(form.cleaned_data["password"])
        request.user.save(update_fields=["password"])
        update_session_auth_hash(request, request.user)
        sign_out(request.user)
        UserSession.objects.create_from_request(request)
    messages.success(request, _("Your password is another now. Your other devices are signed out."))
    return redirect("you")


@require_POST
@sensitive_post_parameters("pin", "again")
def own_pin(request: Request) -> HttpResponse:
    """Sets one's own PIN."""
    form = PinForm(request.POST)
    if form.is_valid():
        try:
            set_pin(request.user, form.cleaned_data["pin"])
        except ValidationError as error:
            form.add_error("pin", error)
        else:
            messages.success(request, _("Your PIN is set. With it you can sign on anybody’s device."))
            return redirect("you")
    return _page(request, pin=form)


@require_POST
def end_session(request: Request) -> HttpResponse:
    """Signs out another device, or all others."""
    mine = UserSession.objects.filter(user=request.user)
    if request.POST.get("session") == "others":
        sign_out(request.user, but=request.session.session_key)
    else:
        get_object_or_404(mine, pk=posted_number(request, "session")).end()
        asked_anew(request.user)
    messages.success(request, _("Signed out there."))
    return redirect("you")


@require_POST
def leave(request: Request) -> HttpResponse:
    """Leaves a crew, from now on."""
    member = get_object_or_404(
        Membership.objects.select_related("crew", "person"), person=request.user, id=posted_number(request, "member")
    )  # fmt: skip
    try:
        end(member, request.user)
    except NotDone as error:
        return _page(request, refusal=str(error))
    messages.success(request, _("You are of {crew} no longer.").format(crew=member.crew.name))
    return redirect("you")


@require_POST
def found(request: Request) -> HttpResponse:
    """A crew of one's own besides, for whoever leads one."""
    if not request.user.memberships.filter(role=CrewRole.LEAD).exists():
        raise Http404
    form = FoundForm(request.POST)
    if not form.is_valid():
        return _page(request, founding=form)
    crew = found_crew(lead=request.user, **form.cleaned_data)
    messages.success(request, _("{crew} is founded, and you lead it.").format(crew=crew.name))
    return redirect("people", crew_id=crew.id)


@require_POST
@sensitive_post_parameters("old")
def forget(request: Request) -> HttpResponse:
    """Deletes one's account; the name one signed with stays in the records."""
    if not is_theirs(request.user, request.POST.get("old", "")[:LONGEST_PASSWORD]):
        return _page(request, refusal=_("That is not your password: nothing was deleted."))
    try:
        erase(request.user)
    except NotDone as error:
        return _page(request, refusal=str(error))
    logout(request)
    return redirect("sign-in")


@require_POST
def put_away(request: Request) -> HttpResponse:
    """A hint that is not wanted any more, or all of them."""
    key = request.POST.get("hint", "")
    request.user.hints = [each for each in request.user.hints if key not in (each, "all")]
    request.user.save(update_fields=["hints"])
    return HttpResponse() if request.htmx else redirect("yard")


@require_GET
def helped(request: Request) -> HttpResponse:
    """What every mark and word means, and the keys."""
    crews = {each.crew.region: each.crew for each in request.user.memberships.select_related("crew")}
    with next(iter(crews.values())).in_its_words() if len(crews) == 1 else nullcontext():
        return render(request, "people/help.html", {"words": WORDS, "keys": KEYS})


@require_GET
def listed_keys(request: Request) -> HttpResponse:
    """The keys alone, for whoever presses the question mark."""
    return render(request, "people/keys.html", {"keys": KEYS})


@require_GET
def own_data(request: Request) -> HttpResponse:
    """All that is kept of oneself, as a file."""
    return data_of(request.user)


class AddPasskey(AddWebAuthnView):  # type: ignore[misc] # it comes without types
    """A passkey that by itself says who one is."""

    template_name = "people/passkey.html"
    success_url = reverse_lazy("you")

    def get_context_data(self, **named: Any) -> dict[str, Any]:
        context: dict[str, Any] = super().get_context_data(**named)
        return context | {"options": begin_registration(self.request.user, True)}

    def get_success_url(self) -> str:
        messages.success(self.request, _("From now on you sign in with it, too."))
        return str(self.success_url)


class RemovePasskey(RemoveWebAuthnView):  # type: ignore[misc] # it comes without types
    template_name = "people/passkey_remove.html"
    success_url = reverse_lazy("you")


class ProveAgain(ReauthenticateView):  # type: ignore[misc] # it comes without types
    """The password once more, before a passkey is added or removed."""

    template_name = "people/prove.html"


def _page(request: Request, **more: Any) -> HttpResponse:
    person = request.user
    here = request.session.session_key
    sessions = sorted(UserSession.objects.purge_and_list(person), key=lambda each: each.session_key != here)
    leads = person.memberships.filter(role=CrewRole.LEAD).exists()
    forms = {
        "form": more.pop("form", None) or YouForm(instance=person),
        "password": more.pop("password", None) or OwnPasswordForm(person=person),
        "pin": more.pop("pin", None) or PinForm(),
        "founding": more.pop("founding", None) or FoundForm(),
    }
    context = forms | {
        "members": person.memberships.select_related("crew").order_by("crew__name"),
        "sessions": [(each, device_words(each.user_agent), each.session_key == here) for each in sessions],
        "passkeys": [each.wrap() for each in Authenticator.objects.filter(user=person)],
        "leads": leads,
    } | more  # fmt: skip
    wrong = any(cast(Any, form).errors for form in forms.values()) or "refusal" in more
    return render(request, "people/you.html", context, status=422 if wrong else 200)
