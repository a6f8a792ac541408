"""What a crew's jobs have taught it: kept by somebody, offered to the next job, never taken by itself."""

from collections.abc import Iterable

from django.db import transaction

from groundwork.stages import Lesson, LessonKind, combined
from nivelum.crews.models import Person
from nivelum.jobs.models import Job, Taught


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
