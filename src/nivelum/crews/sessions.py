"""Whose session a request is, told to the device that sends it: it keeps pages and entries apart by person."""

from collections.abc import Callable, Sequence
from typing import Any, cast

from django.contrib.auth import SESSION_KEY
from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.utils import translation
from django.utils.deprecation import MiddlewareMixin

from nivelum.crews.models import chosen_language
from nivelum.crews.requests import Request

PERSON = "Nivelum-Person"


class SignInFirst(LoginRequiredMiddleware):
    """The sign-in page for whoever opens a page; for what a page fetches or sends by itself, that it is needed."""

    def handle_no_permission(  # type: ignore[override] # the stubs know of the redirect only
        self, request: HttpRequest, view_func: Callable[..., Any]
    ) -> HttpResponseBase:
        if cast(Request, request).htmx or "application/json" in request.headers.get("Accept", ""):
            return HttpResponse(status=401)
        return super().handle_no_permission(request, view_func)


class NamePerson(MiddlewareMixin):
    """Every answer to somebody signed in says whom it is for."""

    def process_response(self, request: Request, response: HttpResponseBase) -> HttpResponseBase:
        if person := request.session.get(SESSION_KEY):
            response[PERSON] = person
        return response


class SpeakAsAsked(MiddlewareMixin):
    """The language somebody has chosen for themself goes before their browser's and their crew's."""

    def process_view(
        self, request: Request, _view: Callable[..., Any], _positional: Sequence[Any], _named: dict[str, Any]
    ) -> None:
        chosen = request.user.language if request.user.is_authenticated else ""
        chosen_language.set(chosen)
        if chosen:
            translation.activate(chosen)
            request.LANGUAGE_CODE = chosen
