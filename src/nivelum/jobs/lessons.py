"""What a crew's jobs have taught it: kept by somebody, offered to the next job, never taken by itself."""

from collections.abc import Iterable

from django.db import transaction

from groundwork.kinds import Entry
from groundwork.labour import Stamp, hours_seen, pace, stage_of
from groundwork.stages import Lesson, LessonKind, combined, lessons
from nivelum.crews.models import Person
from nivelum.jobs.models import Job, Taught
from nivelum.jobs.services import Snapshot

LEAST = 1.0
"""Person-hours a record has to show of a stage where nobody wrote any down: typed in one go it says little."""


@transaction.atomic
def keep_lessons(job: Job, found: Iterable[Lesson], person: Person) -> None:
    """Keeps what a job taught for the crew's next jobs, in the place of what was kept of it before."""
    Taught.objects.filter(job=job).delete()
    Taught.objects.bulk_create(
        Taught(job=job, kind=str(each.kind), material=each.material, value=each.value, spread=each.spread,
               number=each.number, kept_by=person.name)
        for each in found
    )  # fmt: skip


def kept_lessons(job: Job) -> list[Taught]:
    """What was kept of a job; one query."""
    return list(Taught.objects.filter(job=job).order_by("kind", "material"))


def learnt(job: Job, kind: LessonKind, material: str = "") -> Lesson | None:
    """What the crew's other jobs taught of a kind, taken together: from job to job; `number` of jobs, or of values
    where it was one job. None where nothing was kept. One query."""
    rows = Taught.objects.filter(job__crew=job.crew_id, kind=str(kind), material=material).exclude(job=job)
    return combined(Lesson(kind, material, row.value, row.spread, row.number) for row in rows)


def hours_so_far(shot: Snapshot) -> dict[str, float]:
    """Person-hours by stage: as they were written down, else from the first entry of a day to the last; told once for
    a record as it stands."""
    known: tuple[str, dict[str, float]] | None = shot.parts.get("hours so far")
    if known and known[0] == shot.head:
        return known[1]
    found = hours_seen(_stamps(shot)) | shot.assessment.labour.worked
    shot.parts["hours so far"] = shot.head, found
    return found


def _stamps(shot: Snapshot) -> list[Stamp]:
    """When each entry that stands was made, and at which stage; those of the step before are not told again."""
    there, zone = shot.assessment, shot.job.crew.zone
    how = "early-edges" in there.stages.steps, str(zone)
    before, told = shot.parts.get("stamps", (None, {}))
    told = told if before == how else {}
    now: dict[str, tuple[Entry, Stamp | None]] = {}
    for key, made in shot.made.items():
        entry = there.logbook.entries.get(key)
        if entry is None:
            continue
        known = told.get(key)
        if known is None or known[0] is not entry:
            stage = stage_of(entry, early=how[0])
            known = entry, Stamp(stage, made.at.astimezone(zone), made.by_name) if stage else None
        now[key] = known
    shot.parts["stamps"] = how, now
    return [stamp for _entry, stamp in now.values() if stamp]


def lessons_of(shot: Snapshot) -> tuple[Lesson, ...]:
    """What a job teaches: what was measured, and the hours of each signed stage over those the table has for it."""
    there = shot.assessment
    table: dict[str, float] = {}
    for task in there.labour.tasks({}):
        table[task.stage] = table.get(task.stage, 0.0) + task.hours
    worked = hours_so_far(shot)
    took = tuple(
        Lesson(LessonKind.HOURS, stage, worked[stage] / hours, 0.0, 1)
        for stage, hours in table.items()
        if worked.get(stage, 0.0) >= (LEAST if stage not in there.labour.worked else 0.01)
        and stage in there.stages.steps
        and there.stages.of(stage).gate.is_signed
    )
    return (*lessons(there.works, there.laying, there.seating, there.jointing), *took)


def paces_of(job: Job) -> dict[str, float]:
    """How the crew's other jobs went against the table, stage by stage; one query."""
    found: dict[str, list[float]] = {}
    rows = Taught.objects.filter(job__crew=job.crew_id, kind=str(LessonKind.HOURS)).exclude(job=job)
    for stage, value in rows.values_list("material", "value"):
        found.setdefault(stage, []).append(value)
    return {stage: pace(jobs) for stage, jobs in found.items()}
