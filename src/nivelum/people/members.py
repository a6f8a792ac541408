"""The verbs of people: join a crew, change a role, end a membership, leave, lose a PIN, be forgotten."""

import uuid

from allauth.mfa.models import Authenticator
from allauth.usersessions.models import UserSession
from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.db import transaction
from django.db.models import ProtectedError
from django.utils import timezone
from django.utils.translation import gettext as _

from nivelum.crews.log import noted
from nivelum.crews.models import Crew, CrewRole, Deed, Membership, Person, PinTry
from nivelum.live.leaving import asked_anew
from nivelum.people.links import NotDone, used
from nivelum.people.models import Handed


@transaction.atomic
def found_crew(name: str, lead: Person, **options: str) -> Crew:
    """A new crew with its lead; `options` are its rod, its region and its time zone."""
    crew = Crew.objects.create(name=name, **options)
    Membership.objects.create(crew=crew, person=lead, role=CrewRole.LEAD)
    noted(crew, lead, Deed.FOUNDED, detail=name)
    return crew


@transaction.atomic
def join(link: Handed, person: Person) -> Membership:
    """Makes a person one of the crew that a link opens. Raises `NotDone`."""
    if Membership.objects.filter(crew=link.crew, person=person).exists():
        raise NotDone(_("You are of this crew already."))
    used(link)
    member = Membership.objects.create(crew=link.crew, person=person, role=link.role)
    noted(link.crew, person, Deed.JOINED, person.name, str(member.get_role_display()))
    return member


@transaction.atomic
def new_password(link: Handed, password: str) -> Person:
    """Sets the password of the person a link is for, and signs them out wherever they are. Raises `NotDone`."""
    used(link)
    person = link.person
    assert person is not None  # noqa: S101 (a link without a person opens another page)
    person.set_password(password)
    person.save(update_fields=["password"])
    sign_out(person)
    noted(link.crew, person, Deed.PASSWORD, person.name)
    return person


@transaction.atomic
def change_role(member: Membership, role: CrewRole, by: Person) -> None:
    """Raises `NotDone` for the last lead."""
    member = _locked(member)
    if member.role == role:
        return
    _not_the_last_lead(member)
    before, member.role = member.get_role_display(), role
    member.save(update_fields=["role"])
    detail = _("{before}, now {after}").format(before=before, after=role.label)
    noted(member.crew, by, Deed.ROLE, member.person.name, detail)


@transaction.atomic
def end(member: Membership, by: Person) -> None:
    """Ends a membership, one's own or another's, from this moment on: pages, streams and links. What they recorded
    stays under their name. Raises `NotDone` for the last lead."""
    member = _locked(member)
    _not_the_last_lead(member)
    noted(member.crew, by, Deed.LEFT if by == member.person else Deed.ENDED, member.person.name)
    member.delete()


@transaction.atomic
def take_pin(member: Membership, by: Person) -> None:
    """Takes a PIN away: its owner sets another."""
    member.person.pin = ""
    member.person.save(update_fields=["pin"])
    PinTry.objects.filter(person=member.person).delete()
    noted(member.crew, by, Deed.PIN_RESET, member.person.name)


@transaction.atomic
def erase(person: Person) -> None:
    """Deletes an account. Where something stands in a record under that name, the name stays and nothing else. Raises
    `NotDone` where a crew would be left without a lead."""
    for member in person.memberships.select_related("crew", "person").order_by("crew"):
        held = _locked(member)
        if held.crew.memberships.count() > 1 or held.crew.jobs.exists():
            _not_the_last_lead(held)
        noted(held.crew, None, Deed.ERASED, person.name)
        held.delete()
    sign_out(person)
    Authenticator.objects.filter(user=person).delete()
    for kept in (AccessAttempt, AccessFailureLog, AccessLog):
        kept.objects.filter(username__iexact=person.username).delete()
    PinTry.objects.filter(person=person).delete()
    Handed.objects.filter(person=person).delete()
    try:
        with transaction.atomic():
            person.delete()
    except ProtectedError:
        person.username, person.email, person.pin, person.language = f"gone-{uuid.uuid4().hex}", "", "", ""
        person.is_active, person.last_login, person.date_joined, person.hints = False, None, timezone.now(), []
        person.set_unusable_password()
        person.save()


def sign_out(person: Person, *, but: str | None = None) -> None:
    """Ends every session of a person, all but the one with the key `but`."""
    for session in UserSession.objects.filter(user=person).exclude(session_key=but or ""):
        session.end()
    asked_anew(person)


def _locked(member: Membership) -> Membership:
    """A membership as it is now; others who change people of the crew wait. Raises `NotDone` where it has ended."""
    Crew.objects.select_for_update().get(id=member.crew_id)
    still = Membership.objects.select_related("crew", "person").filter(id=member.id).first()
    if still is None:
        raise NotDone(_("That has changed since you opened this page. Look again."))
    return still


def _not_the_last_lead(member: Membership) -> None:
    leads = Membership.objects.filter(crew=member.crew, role=CrewRole.LEAD)
    if member.role == CrewRole.LEAD and leads.count() == 1:
        raise NotDone(_("A crew needs a lead: make somebody else one first."))
