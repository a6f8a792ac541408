"""A request as views get it: of somebody signed in, with what htmx says of it."""

from django.http import HttpRequest
from django_htmx.middleware import HtmxDetails

from nivelum.crews.models import Person


class Request(HttpRequest):
    """What the middleware has made of a request: nobody comes to a view who is not signed in, but where that is not
    asked for."""

    user: Person
    htmx: HtmxDetails
