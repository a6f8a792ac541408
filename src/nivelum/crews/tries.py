"""Signing in: where somebody tries from, and how long a name rests after wrong tries from wherever they came.

An address that tried six times rests a quarter of an hour with that name (django-axes). Besides, a name that is tried
from many addresses is answered ever more slowly: at most a minute apart, and not at all on a device its owner has
signed in on before, so that nobody can keep the owner out by guessing."""

from datetime import datetime, timedelta

from axes.models import AccessAttempt
from django.conf import settings
from django.core import signing
from django.db.models import Max, Sum
from django.http import HttpRequest, HttpResponse
from django.utils import timezone

KNOWN, SALT = "nivelum_known", "a device somebody has signed in on"
KNOWN_SECONDS = 60 * 60 * 24 * 400
FREE = 12
"""Wrong tries of a name in an hour, from anywhere, before it is answered more slowly."""
HOUR = timedelta(hours=1)
LONGEST_WAIT = 60
LONGEST_NAME, LONGEST_PASSWORD = 150, 256


def address(request: HttpRequest) -> str:
    """The address a request comes from, as far as it can be believed: the last that the proxies of ours have seen."""
    seen = [part.strip() for part in request.headers.get("X-Forwarded-For", "").split(",") if part.strip()]
    proxies = settings.PROXIES
    return seen[-proxies][:45] if proxies and len(seen) >= proxies else str(request.META.get("REMOTE_ADDR", ""))


def seconds_to_wait(request: HttpRequest, name: str) -> int:
    """How long the name still rests here; 0 where it may be tried. One query."""
    if _knows(request, name):
        return 0
    now = timezone.now()
    found = AccessAttempt.objects.filter(username__iexact=name, attempt_time__gt=now - HOUR).aggregate(
        wrong=Sum("failures_since_start"), last=Max("attempt_time")
    )
    over = (found["wrong"] or 0) - FREE
    if over < 0:
        return 0
    rests = min(2**over, LONGEST_WAIT) if over < 10 else LONGEST_WAIT
    last: datetime = found["last"]
    return max(0, round((last + timedelta(seconds=rests) - now).total_seconds()))


def _knows(request: HttpRequest, name: str) -> bool:
    try:
        known = signing.loads(request.COOKIES.get(KNOWN, ""), salt=SALT, max_age=KNOWN_SECONDS)
    except signing.BadSignature:
        return False
    return isinstance(known, list) and name.casefold() in known


def remember(request: HttpRequest, response: HttpResponse, name: str) -> None:
    """Makes the device one its owner has signed in on; a tablet of the crew knows its last few."""
    try:
        known = signing.loads(request.COOKIES.get(KNOWN, ""), salt=SALT, max_age=KNOWN_SECONDS)
    except signing.BadSignature:
        known = []
    names = [name.casefold(), *(each for each in known if each != name.casefold())][:8]
    response.set_cookie(
        KNOWN, signing.dumps(names, salt=SALT), max_age=KNOWN_SECONDS, httponly=True, samesite="Lax",
        secure=not settings.SERVED_IN_THE_CLEAR,
    )  # fmt: skip
