"""What a device is told when something gives way under it: whether to try again."""

import sys

from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from psycopg_pool import PoolTimeout


def server_error(request: HttpRequest) -> HttpResponse:
    """Our own mistake, or the database away for a moment: then sending the same again is right, and harmless."""
    if isinstance(sys.exc_info()[1], OperationalError | InterfaceError | PoolTimeout):
        response = render(request, "503.html", status=503)
        response["Retry-After"] = "2"
        return response
    return render(request, "500.html", status=500)
