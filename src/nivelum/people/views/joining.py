"""Getting in: by name and password or a passkey, by a link that was handed on, and as the first of a server."""

from typing import Any

from allauth.account.internal.flows.login import record_authentication
from allauth.account.views import LoginView
from allauth.mfa.webauthn.views import LoginWebAuthnView
from allauth.usersessions.models import UserSession
from django.contrib import messages
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.db import IntegrityError, transaction
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_http_methods

from nivelum.crews.first import is_empty, one_at_a_time
from nivelum.crews.models import CrewRole, Person
from nivelum.crews.requests import Request
from nivelum.crews.tokens import told_to_nobody
from nivelum.crews.tries import remember
from nivelum.people.forms import CodeForm, FoundForm, NewPersonForm, PasswordForm, SignInForm
from nivelum.people.links import NotDone, handed
from nivelum.people.members import found_crew, join, new_password
from nivelum.people.words import role_table

BACKEND = "django.contrib.auth.backends.ModelBackend"


class SignIn(LoginView):  # type: ignore[misc] # it comes without types
    """By name and password; on a server that has nobody, on to its first crew."""

    template_name = "people/sign_in.html"
    form_class = SignInForm

    def get(self, request: HttpRequest, *arguments: Any, **named: Any) -> HttpResponseBase:
        if is_empty():
            return redirect("first")
        response: HttpResponseBase = super().get(request, *arguments, **named)
        return response

    def form_valid(self, form: SignInForm) -> HttpResponse:
        response: HttpResponse = super().form_valid(form)
        remember(self.request, response, form.cleaned_data["login"])
        return response


class SignInByPasskey(LoginWebAuthnView):  # type: ignore[misc] # it comes without types
    """By a passkey alone."""

    def form_invalid(self, form: Any) -> HttpResponse:
        messages.error(self.request, _("That passkey is not known here. Sign in with your password."))
        return redirect("sign-in")


sign_in_by_passkey = login_not_required(SignInByPasskey.as_view())


@login_not_required
@sensitive_post_parameters("password")
@require_http_methods(["GET", "HEAD", "POST"])
def joining(request: Request, token: str) -> HttpResponseBase:
    """A crew one was invited to: as who one is, or as somebody new."""
    link = handed(token)
    if link is None or link.person is not None:
        raise Http404
    if not link.is_open:
        return _ended(request)
    known = request.user.is_authenticated
    sent = request.POST if request.method == "POST" and not known else None
    form = NewPersonForm(sent, initial={"name": link.label})
    refusal = ""
    if request.method == "POST" and (known or form.is_valid()):
        try:
            with transaction.atomic():
                person = request.user if known else form.person_made()
                join(link, person)
        except NotDone as error:
            refusal = str(error)
        except IntegrityError:  # somebody took the name at the same moment
            form.add_error("username", _("Somebody has that name already: choose another."))
        else:
            messages.success(request, _("You are of {crew} now.").format(crew=link.crew.name))
            return redirect("yard") if known else _signed_in(request, person)
    may_do = [words for words, roles in role_table() if roles[CrewRole.values.index(link.role)]]
    context = {"link": link, "form": form, "refusal": refusal, "may_do": may_do, "known": known}
    with link.crew.in_its_words():
        return told_to_nobody(
            render(request, "people/join.html", context, status=422 if form.errors or refusal else 200)
        )


@login_not_required
@sensitive_post_parameters("password")
@require_http_methods(["GET", "HEAD", "POST"])
def password_again(request: Request, token: str) -> HttpResponseBase:
    """A new password for whoever has forgotten theirs."""
    link = handed(token)
    if link is None or link.person is None:
        raise Http404
    if not link.is_open:
        return _ended(request)
    form = PasswordForm(request.POST or None, person=link.person)
    refusal = ""
    if form.is_valid():
        try:
            person = new_password(link, form.cleaned_data["password"])
        except NotDone as error:
            refusal = str(error)
        else:
            return _signed_in(request, person)
    context = {"link": link, "form": form, "refusal": refusal}
    with link.crew.in_its_words():
        return told_to_nobody(
            render(request, "people/new_password.html", context, status=422 if form.errors or refusal else 200)
        )


@login_not_required
@sensitive_post_parameters("password", "code")
@require_http_methods(["GET", "HEAD", "POST"])
def first(request: Request) -> HttpResponseBase:
    """The first crew of a server and its lead, for whoever has the code; not there once somebody is."""
    if not is_empty():
        raise Http404
    sent = request.POST if request.method == "POST" else None
    code, crew, person = CodeForm(sent), FoundForm(sent, prefix="crew"), NewPersonForm(sent)
    if sent is not None and all([code.is_valid(), crew.is_valid(), person.is_valid()]):
        with transaction.atomic():
            one_at_a_time()
            if not is_empty():
                raise Http404
            lead = person.person_made()
            found_crew(lead=lead, **crew.cleaned_data)
        return _signed_in(request, lead)
    wrong = bool(code.errors or crew.errors or person.errors)
    context = {"code": code, "crew": crew, "person": person}
    return told_to_nobody(render(request, "people/first.html", context, status=422 if wrong else 200))


def _ended(request: HttpRequest) -> HttpResponseBase:
    return told_to_nobody(render(request, "people/ended.html", status=410))


def _signed_in(request: HttpRequest, person: Person) -> HttpResponse:
    """Whoever has just made or renewed their account goes on signed in."""
    login(request, person, BACKEND)
    record_authentication(request, person, "password")
    UserSession.objects.create_from_request(request)
    response = redirect("yard")
    remember(request, response, person.username)
    return response
