"""What a device is told when something gives way under it: whether to try again."""

import errno
import sys

from botocore.exceptions import BotoCoreError, ClientError
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from psycopg_pool import PoolTimeout

from nivelum.workshop.bench import Busy, TooMuch


def _full(error: BaseException | None) -> bool:
    return isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT)


PASSING = (OperationalError, InterfaceError, PoolTimeout, Busy, TooMuch, BotoCoreError, ClientError)
"""What is over in a moment: no connection to the database or to where photos are kept, no room in the workshop."""


def server_error(request: HttpRequest) -> HttpResponse:
    """Our own mistake, or no room for a moment in the database, the workshop or on the disk: then sending the same
    again is right, and harmless."""
    error = sys.exc_info()[1]
    if isinstance(error, PASSING) or _full(error):
        response = render(request, "503.html", status=503)
        response["Retry-After"] = "2"
        return response
    return render(request, "500.html", status=500)
