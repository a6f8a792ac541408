"""Opens every page of the largest job there is, the first time, again and after somebody else's entry, and counts
what it costs; then visits many jobs many times and weighs the process. Fails where a page takes too long or asks too
much, or where the process goes on growing."""

import gzip
import json
import random
import time
import uuid
from dataclasses import replace
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection, transaction
from django.test.utils import CaptureQueriesContext

from nivelum.crews.models import Crew, Membership, Person
from nivelum.demo.management.commands.bench_pages import LAYERS, Reader, client_of, job_of
from nivelum.exchange.services import import_job
from nivelum.jobs.models import Job

ENTRIES, SPACING = 20_000, 0.625
LONGEST, MOST_QUERIES = 1.0, 25
"""s of the server's time, and queries, a page may take."""
JOBS, EACH, VISITS, EVERY = 500, 40, 10_000, 1_000
GROWS = 0.03
"""By so much of its size the process may be larger after the last half of the visits than after the first."""
OFTEN = ("ground/?station=A1", "ground/sheet.json", "sign-offs/", "base/", "lifts/", "record/")


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("what", choices=("largest", "memory"))

    def handle(self, *_arguments: Any, what: str, **_options: Any) -> None:
        self._largest() if what == "largest" else self._memory()

    def _largest(self) -> None:
        person, [job] = _crew_with(1, SPACING, ENTRIES)
        client, read = client_of(person), Reader(job, person, client_of(person))
        named = json.loads(gzip.decompress(client.get(f"/jobs/{job.id}/rooms.json").content))
        pages = ["/", f"/crews/{job.crew_id}/", f"/jobs/{job.id}/shares/", f"/jobs/{job.id}/ground/sheet.json"]
        pages += [page for page in named["rooms"] + named["all"] if page not in (*pages, "/waiting/")]
        slow = []
        for page in pages:
            took = [_taken(client, page), _taken(client, page)]
            read.somebody()
            took.append(_taken(client, page))
            said = ", ".join(f"{seconds * 1000:.0f} ms {queries} queries" for seconds, queries in took)
            missed = any(seconds > LONGEST or queries > MOST_QUERIES for seconds, queries in took)
            self.stdout.write(f"{page.replace(str(job.id), '…')}: {said}{'  MISSED' if missed else ''}")
            slow += [page] if missed else []
        if slow:
            raise CommandError(f"{len(slow)} of {len(pages)} pages cost more than they may")

    def _memory(self) -> None:
        person, jobs = _crew_with(JOBS, 4.0, EACH)
        client, chance, sizes = client_of(person), random.Random(20), []  # noqa: S311 (which job is visited)
        for visit in range(1, VISITS + 1):
            job = chance.choice(jobs)
            if chance.random() < 0.1:
                Reader(job, person, client).somebody()
            answer = client.get(f"/jobs/{job.id}/{chance.choice(OFTEN)}")
            if answer.status_code != 200:
                raise CommandError(f"{answer.status_code} at visit {visit}")
            if visit % EVERY == 0:
                sizes.append(_size())
                self.stdout.write(f"after {visit} visits: {sizes[-1]:.0f} MB")
        grown = sizes[-1] / sizes[len(sizes) // 2 - 1] - 1
        self.stdout.write(f"grown by {grown:.1%} over the last half (to hold: {GROWS:.0%})")
        if grown > GROWS:
            raise CommandError("the process goes on growing")


@transaction.atomic
def _crew_with(count: int, spacing: float, entries: int) -> tuple[Person, list[Job]]:
    """Someone with so many jobs of so many entries, all of them readings but the first."""
    person = Person.objects.create_user(f"bench-{uuid.uuid4().hex[:8]}", name="Large")
    crew = Crew.objects.create(name="Large")
    Membership.objects.create(crew=crew, person=person, role="lead")
    job = job_of(LAYERS, spacing, entries)
    job = replace(job, entries=job.entries[:entries])
    return person, [import_job(crew, job, [person]) for _ in range(count)]


def _taken(client: Any, page: str) -> tuple[float, int]:
    """Seconds and queries of a page."""
    with CaptureQueriesContext(connection) as asked:
        begun = time.perf_counter()
        answer = client.get(page)
        seconds = time.perf_counter() - begun
    if answer.status_code != 200:
        raise CommandError(f"{page} was answered {answer.status_code}")
    return seconds, len(asked)


def _size() -> float:
    """MB this process holds."""
    for line in Path("/proc/self/status").read_text(encoding="ascii").splitlines():
        if line.startswith("VmRSS:"):
            return int(line.split()[1]) / 1024
    raise CommandError("this system does not say what a process holds")
