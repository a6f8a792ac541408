"""The verbs of the ground: set up, read, fill, correct, strike out. What each was checked against is still
the record's end when it is written, so that two people at once cannot make nonsense between them; each costs a
handful of queries."""

from collections.abc import Callable
from uuid import UUID

from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.utils.translation import gettext as _

from groundwork import entries
from groundwork.assess import Assessment
from groundwork.base import SurfaceKey
from groundwork.layerwork import Work
from groundwork.measures import Measured
from groundwork.observations import Witness
from groundwork.stages import misnamed
from nivelum.crews.policy import Verb
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Entry, Kind
from nivelum.jobs.services import Author, Conflict, append_value, head, lock, snapshot


class Refused(Exception):
    """The entry cannot stand; `field` is the one to mend and the message says how. `code` tells apart what has come
    between since the entry was made."""

    def __init__(self, field: str, message: str, code: str = "") -> None:
        super().__init__(message)
        self.field = field
        self.message = message
        self.code = code


LOST = "set-up"
"""What an entry was read against does not count any more."""


def record(visit: Visit, entry: entries.Entry, author: Author) -> Entry:
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


def _checked(visit: Visit, entry: entries.Entry) -> str:
    """The head of the record `entry` can follow. Raises as `record` does."""
    shot = snapshot(visit.job)
    if not Entry.objects.filter(id=UUID(entry.id), job=visit.job).exists():
        _check(visit, entry, shot.assessment)
    return shot.head


def _appended(visit: Visit, entry: entries.Entry, author: Author) -> Entry:
    try:
        return append_value(visit.job, entry, author)
    except Conflict as conflict:
        message = _("This was sent before with something else in it. Reload the page and type it again.")
        raise Refused("entry_id", message) from conflict


CORRIGIBLE = (Kind.SET_UP, Kind.FORESIGHT, Kind.METER_BASE, Kind.READING, Kind.FALL, Kind.DISTANCE)
NOT_STRUCK = (Kind.DESIGN, Kind.SIGN_OFF, Kind.ACCEPTANCE, Kind.WITHDRAWAL, Kind.STRIKE)


def _check(visit: Visit, entry: entries.Entry, assessment: Assessment) -> None:  # noqa: PLR0912 (one case a kind)
    match entry:
        case entry if isinstance(entry, Work):
            if found := assessment.works.names.wrong(entry) or assessment.works.names.impossible(entry):
                raise Refused(*found)
        case entry if isinstance(entry, Witness):
            if found := misnamed(entry, assessment.stages.steps):
                raise Refused(*found)
        case entries.SetUp() | entries.MeterBase():
            if assessment.levels.runs.level_of(entry.mark) is None or entry.mark in assessment.logbook.knocked:
                raise Refused("mark", _("The level of that mark is not known."))
        case entries.Foresight():
            _check_anchor(assessment, entry.set_up)
            if entry.point in assessment.logbook.knocked:
                raise Refused("point", _("That point was knocked: choose another."))
        case entries.Reading():
            _check_place(assessment, entry.station, entry.surface)
            _check_anchor(assessment, entry.set_up)
            _check_rod(assessment, entry.set_up, entry.reading)
            reference = assessment.levels.references[entry.set_up]
            if assessment.targets.at(entry.station, entry.surface, reference) is None:
                raise Refused("reading", _("That cannot be read from here: choose another station, or set up anew."))
        case entries.FallCheck():
            _check_place(assessment, entry.start, entry.surface)
            _check_place(assessment, entry.end, entry.surface)
            if entry.start == entry.end:
                raise Refused("end", _("A fall is between two stations."))
        case entries.Fill():
            _check_place(assessment, entry.station)
        case entries.Disturbance():
            levels = assessment.levels
            if entry.point not in levels.marks and entry.point not in levels.runs.turning_points:
                raise Refused("point", _("This job has no such mark."))
        case entries.PegDistance():
            _check_pegs(assessment, entry.start, entry.end)
        case entries.PegMove():
            _check_pegs(assessment, entry.peg)
        case entries.MarginMeasured():
            if not 0 <= entry.side < len(assessment.job.outline):
                raise Refused("side", _("The area has no such side."))
        case entries.Correction():
            _check_own(visit, entry.corrects, assessment, "reading", lambda kind: kind in CORRIGIBLE)
            wrong = assessment.logbook.entries.get(entry.corrects)
            if isinstance(wrong, entries.SetUp | entries.Foresight):
                _check_rod(assessment, wrong.id, entry.reading)
            elif isinstance(wrong, entries.Reading):
                _check_rod(assessment, wrong.set_up, entry.reading)
        case entries.Strike():
            _check_own(visit, entry.strikes, assessment, "strikes", lambda kind: kind not in NOT_STRUCK)


def _check_place(assessment: Assessment, station: str, surface: str = SurfaceKey.FORMATION) -> None:
    if surface not in {known.key for known in assessment.surveys.levelled}:
        raise Refused("station", _("This base has no such surface."))
    if station not in assessment.surveys.of(surface).answers:
        raise Refused("station", _("This job has no station of that name."))


def _check_anchor(assessment: Assessment, anchor: str) -> None:
    if anchor not in assessment.levels.references:
        raise Refused(
            "reading",
            _("That set-up no longer counts. Send it again only if it was read from the present one."),
            LOST,
        )


def _check_rod(assessment: Assessment, anchor: str, reading: Measured) -> None:
    """That a level does not read less than nothing on its rod."""
    other = entries.MeterBase | entries.StringLine | entries.TapeDatum
    if reading.metres < 0 and not isinstance(assessment.logbook.anchors.get(anchor), other):
        raise Refused("reading", _("Less than nothing on a rod: readings start at 0."))


def _check_pegs(assessment: Assessment, *pegs: str) -> None:
    if not set(pegs) <= set(assessment.setting_out.pegs.names) or len(set(pegs)) < len(pegs):
        raise Refused("length", _("Between two different pegs of this area."))


def _check_own(visit: Visit, named: str, assessment: Assessment, field: str, of_kind: Callable[[str], bool]) -> None:
    """That there is such an entry to strike out or correct, it counts, and it is the visitor's to touch."""
    found = Entry.objects.filter(id=UUID(named), job=visit.job).first()
    if found is None or not of_kind(found.kind):
        raise Refused(field, _("There is no such entry to strike out or correct."))
    if named in assessment.logbook.struck:
        raise Refused(field, _("That is struck out already."))
    if not may_strike(visit, found.by_id):
        raise PermissionDenied


def may_strike(visit: Visit, made_by: int) -> bool:
    """Whether the visitor may strike out an entry made by the person `made_by`."""
    return visit.may(Verb.MEASURE) and (made_by == visit.person.pk or visit.may(Verb.STRIKE_ANY))
