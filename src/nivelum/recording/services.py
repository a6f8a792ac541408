"""The verbs of the ground: set up, read, fill, correct, strike out. What each was checked against is still
the record's end when it is written, so that two people at once cannot make nonsense between them; each costs a
handful of queries."""

from uuid import UUID

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.utils.translation import gettext as _

from groundwork import entries
from groundwork.assess import Assessment
from groundwork.kinds import Entry as Value
from nivelum.crews.policy import Verb
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Entry
from nivelum.jobs.services import Author, IdentifierUsed, append_value, head, lock, snapshot


class Refused(Exception):
    """The entry cannot stand; `field` is the one to mend and the message says how. `code` tells apart what has come
    between since the entry was made."""

    def __init__(self, field: str, message: str, code: str = "") -> None:
        super().__init__(message)
        self.field = field
        self.message = message
        self.code = code


def record(visit: Visit, entry: Value, author: Author) -> Entry:
    """Writes `entry` to the record of the job. Raises `Refused` where what it names is not there or no longer
    counts, `PermissionDenied` for striking out another's entry without the right to.

    What it stands on is worked out before the job is held, and again only where somebody wrote in between: others
    who write wait for no computing, unless that happens time after time.
    """
    for _turn in range(TURNS):
        seen = _checked(visit, entry)
        with transaction.atomic():
            lock(visit.job)
            if head(visit.job) == seen:
                return _appended(visit, entry, author)
    with transaction.atomic():
        lock(visit.job)
        _checked(visit, entry)
        return _appended(visit, entry, author)


TURNS = 3


def _checked(visit: Visit, entry: Value) -> str:
    """The head of the record `entry` can follow. Raises as `record` does."""
    shot = snapshot(visit.job)
    if not Entry.objects.filter(id=UUID(entry.id), job=visit.job).exists():
        _check(visit, entry, shot.assessment)
    return shot.head


def _appended(visit: Visit, entry: Value, author: Author) -> Entry:
    try:
        return append_value(visit.job, entry, author)
    except IdentifierUsed as conflict:
        message = _("This was sent before with something else in it. Reload the page and type it again.")
        raise Refused("entry_id", message) from conflict


def _check(visit: Visit, entry: Value, assessment: Assessment) -> None:
    """Holds an entry to the rules of its kind, and what it takes back to whose it is."""
    if found := entry.wrong(assessment.standing):
        unit = visit.job.crew.unit
        said = found.words.text(unit, _)
        raise Refused(found.field, f"{said[:1].upper()}{said[1:]}.".replace("?.", "?"), found.code)
    match entry:
        case entries.Strike(strikes=named) | entries.Correction(corrects=named):
            if not may_strike(visit, Entry.objects.values_list("by_id", flat=True).get(id=named, job=visit.job)):
                raise PermissionDenied


def may_strike(visit: Visit, made_by: int) -> bool:
    """Whether the visitor may strike out an entry made by the person `made_by`."""
    return visit.may(Verb.MEASURE) and (made_by == visit.person.pk or visit.may(Verb.STRIKE_ANY))
