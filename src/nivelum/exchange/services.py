"""Jobs in from the open job file, records out."""

import uuid
from collections.abc import Sequence
from typing import Any

from django.db import transaction

from groundwork import job as core
from groundwork.files import FORMAT
from groundwork.kinds import renamed
from nivelum.crews.models import Crew, Person
from nivelum.jobs.models import Entry, Job
from nivelum.jobs.services import Author, append_value, open_job


@transaction.atomic
def import_job(crew: Crew, job: core.Job, people: Sequence[Person]) -> Job:
    """A job file's job as a new job of `crew`, its entries made by `people` in turn, under new identifiers."""
    opened = open_job(crew, job, Author(people[0]))
    names: dict[str, str] = {}
    for turn, entry in enumerate(job.entries):
        names[entry.id] = str(uuid.uuid4())
        append_value(opened, renamed(entry, names), Author(people[turn // 6 % len(people)]))
    return opened


def record_data(job: Job) -> dict[str, Any]:
    """The whole record of a job as JSON values, in a form anyone can verify, under the names its chain gives it; two
    queries."""
    entries = [entry.content() | {"hash": entry.hash} for entry in Entry.objects.filter(job=job)]
    designs = [entry["body"] for entry in entries if entry["kind"] == core.Design.KIND]
    crew = designs[0].get("founded", {}).get("crew", job.crew.name)
    return {
        "format": FORMAT,
        "job": {"id": str(job.id), "name": designs[-1].get("name", job.name), "crew": crew},
        "head": entries[-1]["hash"],
        "entries": entries,
    }
