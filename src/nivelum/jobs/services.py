"""The verbs of a job's record: append to it, read it as one value."""

import gc
import json
from collections import OrderedDict
from dataclasses import dataclass, field, replace
from datetime import UTC, date, datetime, timedelta
from decimal import Decimal
from threading import Lock
from typing import Any
from uuid import UUID, uuid4
from weakref import WeakValueDictionary
from zoneinfo import ZoneInfo

from django.db import connection, transaction
from django.db.models import Q
from django.utils import timezone

from groundwork import job as core
from groundwork.assess import Assessment, advance, assess
from groundwork.kinds import STORED
from groundwork.kinds import Entry as Value
from groundwork.measures import Unit, first_that_cannot_stand
from groundwork.record import FIRST, entry_hash
from nivelum.crews.models import Crew, Person
from nivelum.jobs.models import Entry, Job

CHANNEL = "nivelum_entries"
EARLIEST = datetime.min.replace(tzinfo=UTC)


class IdentifierUsed(Exception):
    """The identifier sent is already that of another entry."""


@dataclass(frozen=True)
class Author:
    """Who makes an entry, and when by their device's own clock if it said."""

    person: Person
    device_at: datetime | None = None


@transaction.atomic
def open_job(crew: Crew, site: core.Job, author: Author, entry_id: UUID | None = None) -> Job:
    """A new job of `crew`, its design the first entry of its record, which says whose it is. A handful of queries."""
    job = Job.objects.create(crew=crew, name=site.name)
    append_value(job, core.Design(str(entry_id or uuid4()), site, {"crew": crew.name}), author)
    return job


def append_value(job: Job, entry: Value, author: Author) -> Entry:
    """Writes an entry to the job's record under its own identifier, as `append` does."""
    return append(job, entry.KIND, STORED.body(entry), author, UUID(entry.id))


def sent_before(job: Job, kind: str, author: Author, entry_id: UUID, **says: Any) -> Entry | None:
    """The entry that was written when this was sent before; `says` is what of its body has to be the same. Raises
    `IdentifierUsed` where the identifier is that of anything else, of any job. One query."""
    known = Entry.objects.filter(id=entry_id).first()
    if known and (
        (known.job_id, known.kind, known.by_id) != (job.id, kind, author.person.pk)
        or any(known.body.get(key) != value for key, value in says.items())
    ):
        raise IdentifierUsed
    return known


@transaction.atomic
def append(job: Job, kind: str, body: dict[str, Any], author: Author, entry_id: UUID | None = None) -> Entry:
    """Writes one entry at the end of the job's record and tells everyone looking; four queries.

    Writers to one job go one after the other. Sent again with the same identifier, it answers with the entry
    as first written; raises `IdentifierUsed` where that was something else.
    """
    body = as_stored(body)
    if place := first_that_cannot_stand(body):
        raise ValueError(f"a text at {place} cannot be kept")
    lock(job)
    if entry_id and (known := Entry.objects.filter(id=entry_id).first()):
        said = {key: value for key, value in known.body.items() if key != CLOCK_WRONG}
        if (known.job_id, known.kind, known.by_id, said) != (job.id, kind, author.person.id, body):
            raise IdentifierUsed
        return known
    last = Entry.objects.filter(job=job).order_by("-number").values_list("number", "hash", "at").first()
    number, previous, before = last or (0, FIRST, EARLIEST)
    now = max(timezone.now(), before)  # a server's clock may be put back, a record's never
    device_at = author.device_at
    if device_at and not _believed(job, device_at, now):
        body |= {CLOCK_WRONG: device_at.isoformat()}
        device_at = None
    entry = Entry(
        **({"id": entry_id} if entry_id else {}),
        job=job,
        number=number + 1,
        kind=kind,
        by=author.person,
        by_name=author.person.name,
        at=now,
        device_at=device_at,
        body=body,
        previous=previous,
    )
    entry.hash = entry_hash(entry.content())
    entry.save(force_insert=True)
    news = json.dumps({"crew": str(job.crew_id), "job": str(job.id), "number": entry.number})
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_notify(%s, %s)", [CHANNEL, news])
    return entry


CLOCK_WRONG = "device_clock_wrong"
"""In a body: what the device's clock said, where that cannot be."""
DAY = timedelta(days=1)


def _believed(job: Job, device_at: datetime, now: datetime) -> bool:
    """Whether a device's clock can be right: not before the job began, less a day, nor more than a day ahead."""
    first = Entry.objects.filter(job=job, number=1).values_list("at", flat=True).first() or now
    return first - DAY <= device_at <= now + DAY


def as_stored(body: dict[str, Any]) -> dict[str, Any]:
    """`body` as the database will give it back, so that its hash holds: it knows no negative zero, and writes
    numbers from 1e16 up as whole ones. Raises `ValueError` for what JSON cannot say."""
    return dict(json.loads(json.dumps(body, allow_nan=False), parse_float=_number_as_stored))


def _number_as_stored(written: str) -> float | int:
    number = float(written) + 0.0
    return int(Decimal(written)) if abs(number) >= 1e16 else number


def lock(job: Job) -> None:
    """Makes other writers to this job wait for the end of the transaction."""
    Job.objects.select_for_update().only("id").get(id=job.id)


@dataclass(frozen=True)
class Made:
    """Who made an entry, under which name, and when by the server's clock."""

    by_id: int
    by_name: str
    at: datetime
    number: int = 0


@dataclass(frozen=True)
class Snapshot:
    """A job's record read as one value, and the assessment it comes to."""

    job: Job
    assessment: Assessment
    number: int
    head: str
    made: dict[str, Made]
    """Who made each entry and when, by entry id."""
    parts: dict[Any, Any] = field(default_factory=dict, compare=False)
    """Parts of pages that show it, kept from step to step as long as what they show is the same."""

    def is_of(self, job: Job, today: date) -> bool:
        """Whether it is of a job under its name, in its crew's unit and by its clock, on that day."""
        site, zone = self.assessment.job, self.job.crew.time_zone
        return (site.name, site.unit, site.today, zone) == (job.name, job.crew.unit, today, job.crew.time_zone)


def snapshot(job: Job) -> Snapshot:
    """The job as the core sees it, in one query or two; `job.crew` must be loaded.

    The head's hash stands for the whole record, so as long as the head and the day are the same, so is the answer: it
    is kept in this process. Once something is recorded, here or by another process, only that is read, and the
    assessment is taken a step on.
    """
    today, newest = timezone.localdate(timezone=job.crew.zone), head(job)
    if (known := _kept(job)) and known.is_of(job, today) and known.head == newest:
        return known
    with _kept_lock:
        reads = _reads.setdefault(job.id, Lock())
    with reads:  # what several ask for at once is read once
        known = _kept(job)
        if known and known.is_of(job, today):
            if known.head == newest:
                return known
            if stepped := _stepped(known, job):
                return _keep(stepped)
        return _keep(_read(job, today))


def head(job: Job) -> str | None:
    """The hash of the newest entry, which stands for the whole record. One query."""
    return Entry.objects.filter(job=job).order_by("-number").values_list("hash", flat=True).first()


def _kept(job: Job) -> Snapshot | None:
    with _kept_lock:
        if known := _newest.get(job.id):
            _newest.move_to_end(job.id)
        return known


def _keep(read: Snapshot) -> Snapshot:
    """Keeps it, and lets the jobs go that were asked for longest ago. It may be the earlier one, where what came
    after was taken back with its transaction or by a backup."""
    with _kept_lock:
        _newest[read.job.id] = read
        _newest.move_to_end(read.job.id)
        _let_go(_newest)
    return read


def _let_go(kept: OrderedDict[Any, Snapshot]) -> None:
    weight = sum(map(_weight, kept.values()))
    while weight > MOST_KEPT and len(kept) > 1:
        weight -= _weight(kept.popitem(last=False)[1])


def _weight(of: Snapshot) -> int:
    """In entries: a job with its drawn pages weighs 1.7 MB before its first, by `bin/bench memory`."""
    return len(of.made) + 400


MOST_KEPT = 60_000
"""So many entries are kept in a process in all, of however many jobs: about 4 kB each with what they come to."""
# Whole jobs stay in a process: the collector need not walk them at every turn (a fifth of the largest page).
gc.set_threshold(20_000, 10, 2)
_newest: OrderedDict[UUID, Snapshot] = OrderedDict()
_kept_lock = Lock()
_reads: WeakValueDictionary[UUID, Lock] = WeakValueDictionary()


def snapshot_at(job: Job, number: int) -> Snapshot:
    """The job as it stood once entry `number` was written, on that day. One query; kept in this process under the
    entry's hash, which stands for all before it: what a backup has put in its place is another."""
    written, ended = Entry.objects.filter(job=job, number=number).values_list("at", "hash").get()
    key = (job.id, job.crew.unit, job.crew.time_zone, ended)
    with _kept_lock:
        if known := _then.get(key):
            return known
    read = _read(job, written.astimezone(job.crew.zone).date(), number)
    with _kept_lock:
        _then[job.id, job.crew.unit, job.crew.time_zone, read.head] = read
        _let_go(_then)
    return read


_then: OrderedDict[tuple[UUID, Unit, str, str], Snapshot] = OrderedDict()


def snapshot_of_version(job: Job, version: int) -> Snapshot | None:
    """The job as its design became `version`; None where it never did. Two queries; kept in this process."""
    designs = Entry.objects.filter(job=job, kind=core.Design.KIND).order_by("number").values_list("number", flat=True)
    number = next(iter(designs[version - 1 : version]), None)
    return None if number is None else snapshot_at(job, number)


def snapshot_seen(job: Job, number: int, person: Person) -> Snapshot:
    """The job as someone knows it who saw entry `number` last and has worked on without a signal since: the record
    up to there, and what they recorded themself. One query."""
    return _read(job, timezone.localdate(timezone=job.crew.zone), number, person)


COLUMNS = ("id", "number", "kind", "by_id", "by_name", "at", "body", "hash", "previous")


def _read(job: Job, today: date, until: int | None = None, besides: Person | None = None) -> Snapshot:
    """The job's record from the database, up to entry `until` where one is named and what `besides` has written
    since, assessed."""
    rows = Entry.objects.filter(job=job).order_by("number")
    if until is not None:
        rows = rows.filter(Q(number__lte=until) | Q(by=besides) if besides else Q(number__lte=until))
    written = list(rows.values_list(*COLUMNS))
    values, made = _values(written, job.crew.zone)
    design = next((value for value in values if isinstance(value, core.Design)), None)
    if design is None:
        raise ValueError(f"job {job.id} has no design")
    site = replace(design.site, name=job.name, unit=job.crew.unit, version=0, today=today)
    _id, number, *_rest, ends, _previous = written[-1]
    return Snapshot(job, assess(core.followed_by(site, values)), number, ends, made)


def _stepped(known: Snapshot, job: Job) -> Snapshot | None:
    """What is `known` with what was recorded since; None where that does not follow on it, as after a backup was put
    back. One query."""
    rows = Entry.objects.filter(job=job, number__gt=known.number).order_by("number")
    written = list(rows.values_list(*COLUMNS))
    if not written or written[0][-1] != known.head:
        return None
    values, made = _values(written, job.crew.zone)
    _id, number, *_rest, ends, _previous = written[-1]
    return Snapshot(job, advance(known.assessment, values), number, ends, known.made | made, known.parts)


def _values(rows: list[Any], zone: ZoneInfo) -> tuple[list[Value], dict[str, Made]]:
    """Rows as the core has them, by the clock of a `zone`, and who made each, by its identifier."""
    values, made = list[Value](), dict[str, Made]()
    for entry_id, number, kind, by_id, by_name, at, body, _hash, _previous in rows:
        identifier = str(entry_id)
        made[identifier] = Made(by_id, by_name, at, number)
        known = {core.BY: by_name, core.PERSON: str(by_id), core.ON: at.astimezone(zone).date()}
        values.append(STORED.value(kind, identifier, body, known))
    return values, made
