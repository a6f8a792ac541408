"""One-time links: made, handed on, opened once, taken back."""

from datetime import timedelta

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext as _

from nivelum.crews.log import noted
from nivelum.crews.models import Crew, CrewRole, Deed, Membership, Person
from nivelum.crews.tokens import new_token, token_hash
from nivelum.people.models import Handed

INVITED_FOR, PASSWORD_FOR = timedelta(days=7), timedelta(hours=24)
MOST_OPEN = 50
"""Invitations a crew may have open."""


class NotDone(Exception):
    """Nothing was changed; the message says why and what to do."""


@transaction.atomic
def invite(crew: Crew, by: Person | None, role: CrewRole, label: str) -> tuple[Handed, str]:
    """A link into a crew and what it opens with, which is kept nowhere. Raises `NotDone`."""
    if sum(each.is_open for each in crew.handed.filter(person=None)) >= MOST_OPEN:
        raise NotDone(_("Too many invitations are open: take some back first."))
    made = _made(crew, by, INVITED_FOR, label=label, role=role)
    noted(crew, by, Deed.INVITED, label, str(role.label))
    return made


@transaction.atomic
def link_for_password(crew: Crew, by: Person | None, person: Person) -> tuple[Handed, str]:
    """A link with which a person of a crew sets a new password. Raises `NotDone` where they are of a crew besides
    that the maker does not lead: who holds the link is that person everywhere."""
    elsewhere = Membership.objects.filter(person=person).exclude(crew=crew)
    led = Membership.objects.filter(person=by, role=CrewRole.LEAD).values("crew")
    if by is not None and elsewhere.exclude(crew__in=led).exists():
        raise NotDone(
            _("{name} is of another crew besides: whoever runs this server makes that link.").format(name=person.name)
        )
    Handed.objects.filter(person=person, used_at=None, withdrawn_at=None).update(withdrawn_at=timezone.now())
    made = _made(crew, by, PASSWORD_FOR, label=person.name, person=person)
    noted(crew, by, Deed.LINK, person.name)
    return made


def _made(
    crew: Crew, by: Person | None, lasts: timedelta, *, label: str, role: str = "", person: Person | None = None
) -> tuple[Handed, str]:
    token = new_token()
    return Handed.objects.create(
        crew=crew, role=role, person=person, label=label, token_hash=token_hash(token), made_by=by,
        expires_at=timezone.now() + lasts,
    ), token  # fmt: skip


def handed(token: str) -> Handed | None:
    """The link that opens with `token`, whether it is still open or not."""
    return Handed.objects.select_related("crew", "person", "made_by").filter(token_hash=token_hash(token)).first()


def used(link: Handed) -> None:
    """Closes a link for whoever comes first; in a transaction. Raises `NotDone` for whoever comes later."""
    still = Handed.objects.select_for_update().get(id=link.id)
    if not still.is_open:
        raise NotDone(_("This link has been used or has ended. Ask for another."))
    still.used_at = timezone.now()
    still.save(update_fields=["used_at"])


@transaction.atomic
def take_back(link: Handed, by: Person) -> None:
    """Closes a link that nobody has used."""
    if link.is_open:
        Handed.objects.filter(id=link.id, used_at=None).update(withdrawn_at=timezone.now())
        noted(link.crew, by, Deed.TAKEN_BACK, link.label)
