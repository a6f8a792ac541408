"""A request as views get it: of somebody signed in, with what htmx says of it."""

from django.http import Http404, HttpRequest
from django_htmx.middleware import HtmxDetails

from nivelum.crews.models import Person


class Request(HttpRequest):
    """What the middleware has made of a request: nobody comes to a view who is not signed in, but where that is not
    asked for."""

    user: Person
    htmx: HtmxDetails


def posted_number(request: HttpRequest, name: str) -> int:
    """The number of a row that a form names. Raises `Http404` for what is none."""
    asked = request.POST.get(name, "")
    if not (asked.isascii() and asked.isdigit() and len(asked) < 18):
        raise Http404
    return int(asked)
