"""The verbs of the dig: set up, read, fill, strike out. Each checks what it stands on while it holds the job,
so that two people at once cannot make nonsense between them; each costs a handful of queries."""

from collections.abc import Container
from uuid import UUID

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.utils.translation import gettext as _

from groundwork import job as core
from nivelum.crews.policy import Verb
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Entry, Kind
from nivelum.jobs.services import Author, Conflict, append_value, lock, snapshot


class Refused(Exception):
    """The entry cannot stand; `field` is the one to mend and the message says how."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field
        self.message = message


@transaction.atomic
def record(visit: Visit, entry: core.Entry, author: Author) -> Entry:
    """Writes `entry` to the record of the job. Raises `Refused` where what it names is not there or no longer
    counts, `PermissionDenied` for striking out another's entry without the right to."""
    lock(visit.job)
    if not Entry.objects.filter(id=UUID(entry.id), job=visit.job).exists():
        _check(visit, entry)
    try:
        return append_value(visit.job, entry, author)
    except Conflict as conflict:
        message = _("This was sent before with something else in it. Reload the page and type it again.")
        raise Refused("entry_id", message) from conflict


def _check(visit: Visit, entry: core.Entry) -> None:
    assessment = snapshot(visit.job).assessment
    match entry:
        case core.SetUp():
            if entry.mark not in assessment.marks:
                raise Refused("mark", _("This job has no such mark."))
        case core.Reading():
            _check_station(entry.station, assessment.ground)
            if entry.set_up not in assessment.set_ups:
                raise Refused(
                    "reading",
                    _("That set-up no longer counts. Send it again only if it was read from the present one."),
                )
        case core.Fill():
            _check_station(entry.station, assessment.ground)
        case core.Strike():
            _check_strike(visit, entry, assessment.struck)


def _check_station(name: str, known: Container[str]) -> None:
    if name not in known:
        raise Refused("station", _("This job has no station of that name."))


def _check_strike(visit: Visit, entry: core.Strike, struck: frozenset[str]) -> None:
    named = Entry.objects.filter(id=UUID(entry.strikes), job=visit.job).first()
    if named is None or named.kind not in (Kind.READING, Kind.FILL, Kind.SET_UP):
        raise Refused("strikes", _("There is no such entry to strike out."))
    if entry.strikes in struck:
        raise Refused("strikes", _("That is struck out already."))
    if not may_strike(visit, named.by_id):
        raise PermissionDenied


def may_strike(visit: Visit, made_by: int) -> bool:
    """Whether the visitor may strike out an entry made by the person `made_by`."""
    return visit.may(Verb.MEASURE) and (made_by == visit.person.pk or visit.may(Verb.STRIKE_ANY))
