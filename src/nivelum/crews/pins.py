"""PINs: how someone proves who they are on a device that somebody else is signed in on.

A device is a signed-in session; making another takes a password. Wrong tries are counted by person and device, by
device, and by person: each ends by itself, and none of them stops anybody else or one's own sign-in with a password.
"""

from datetime import UTC, datetime, timedelta
from functools import cache
from itertools import pairwise

from django.contrib.auth.hashers import check_password, make_password
from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone
from django.utils.translation import gettext as _

from nivelum.crews.models import Crew, Membership, Person, PinTry

SHORTEST, LONGEST = 4, 8
WINDOW = timedelta(minutes=15)
OF_ONE_HERE, ON_A_DEVICE = 5, 10
"""Wrong tries for one person on one device, and for anybody on it, within the window."""
DAY = timedelta(hours=24)
OF_ONE = 20
"""Wrong tries for one person on all devices in a day; then the PIN rests, and the password still opens."""


class NotProven(Exception):
    """Nobody was proven to be there; the message says no more than that."""


def set_pin(person: Person, pin: str) -> None:
    """Gives a person a PIN. Raises `ValidationError` for one that is no PIN or the first one anybody would try."""
    if not (pin.isascii() and pin.isdigit() and SHORTEST <= len(pin) <= LONGEST):
        raise ValidationError(_("Four to eight digits."))
    steps = {int(b) - int(a) for a, b in pairwise(pin)}
    if len(steps) == 1 and steps <= {-1, 0, 1}:
        raise ValidationError(_("That is the first one anybody would try."))
    person.pin = make_password(pin)
    person.save(update_fields=["pin"])
    PinTry.objects.filter(person=person).delete()


def prove(crew: Crew, person_id: int, pin: str, device: str) -> Membership:
    """The membership of the person in `crew` whose PIN this is. Raises `NotProven`, in the same words and after the
    same work whether there is such a person, whether they have a PIN, and whether it was wrong.

    A try is counted before it is looked at, so that many at once are no more than many in a row.
    """
    member = Membership.objects.select_related("person").filter(crew=crew, person=person_id).first()
    person = member.person if member else None
    with transaction.atomic():
        Crew.objects.select_for_update().get(id=crew.id)
        now = timezone.now()
        PinTry.objects.filter(at__lt=now - DAY).delete()
        here = PinTry.objects.filter(device=device, at__gt=now - WINDOW)
        today = PinTry.objects.filter(person=person, at__gt=now - DAY)
        locked = max(
            _ends(here.filter(person=person), OF_ONE_HERE, WINDOW),
            _ends(here, ON_A_DEVICE, WINDOW),
            _ends(today, OF_ONE, DAY) if person else now,
        )
        if locked <= now:
            counted = PinTry.objects.create(crew=crew, person=person, device=device)
    right = check_password(pin[: LONGEST + 1], person.pin if person and person.pin else _nobodys())
    if locked > now:
        minutes = -(-int((locked - now).total_seconds()) // 60) or 1
        wait = _("{n} minutes").format(n=minutes) if minutes < 90 else _("{n} hours").format(n=-(-minutes // 60))
        message = _("Too many wrong tries. Wait {wait}, or sign in on a device of your own.")
        raise NotProven(message.format(wait=wait))
    if member is None or not right or not member.person.pin or not member.person.is_active:
        raise NotProven(_("Name and PIN do not fit."))
    PinTry.objects.filter(person=person, device=device).delete()
    counted.delete()
    return member


def _ends(tries: QuerySet[PinTry], most: int, window: timedelta) -> datetime:
    """When fewer than `most` tries will lie within the window; long ago where they do already."""
    counting = tries.order_by("-at").values_list("at", flat=True)[most - 1 : most]
    return next(iter(counting), EVER) + window


EVER = datetime(2000, 1, 1, tzinfo=UTC)


@cache
def _nobodys() -> str:
    """The hash of a PIN that nobody has: looked at where there is none to look at."""
    return make_password("nobody")
