"""A job of the demo that was built over weeks: its entries stage by stage, each at its hour, signed as it went."""

import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import datetime, time, timedelta
from itertools import islice
from pathlib import Path
from typing import Any
from unittest import mock

from django.utils import timezone

from groundwork.entries import ServicesLocated
from groundwork.files import loads
from groundwork.kinds import Entry, renamed
from groundwork.observations import Pictured
from nivelum.crews.models import Crew, Person
from nivelum.demo.pictures import picture
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Job
from nivelum.jobs.photos import Photo, keep
from nivelum.jobs.services import Author, append_value, open_job, snapshot
from nivelum.signoffs.services import accept_finding, sign_stage
from nivelum.workshop.pictures import made_small


@contextmanager
def _at(moment: datetime) -> Iterator[None]:
    """The server's clock at a made-up moment."""
    with mock.patch.object(timezone, "now", lambda: moment):
        yield


def walk(crew: Crew, file: Path, people: dict[str, Person], by: list[str], walked: dict[str, Any]) -> Job:
    """Opens the job of a file and walks it, `walked` days before today."""
    site = loads(file.read_text(encoding="utf-8"))
    first = timezone.localdate() - timedelta(days=walked["began_days_ago"])
    clock = _Clock(first)
    with _at(clock.now):
        job = open_job(crew, replace(site, entries=()), Author(people[walked["opened_by"]]))
    names: dict[str, str] = {}
    rest = iter(site.entries)
    for number, row in enumerate(walked["stages"]):
        clock.to(row["day"])
        hand = people[by[number % len(by)]]
        for entry in islice(rest, row["entries"]):
            names[entry.id] = str(uuid.uuid4())
            with _at(clock.tick()):
                made = _with_its_photo(job, renamed(entry, names), number)
                made = _on_the_day(made)
                append_value(job, made, Author(hand))
        with _at(clock.tick(20)):
            for accepted in row.get("accepted", []):
                _accept(job, people[accepted["by"]], row["stage"], accepted)
            for name in row.get("signed_by", []):
                _sign(job, people[name], row["stage"])
    return job


def _on_the_day(entry: Entry) -> Entry:
    """What says itself when it was done, done on the day it is told."""
    if isinstance(entry, ServicesLocated):
        return replace(entry, located_on=timezone.localdate())
    if isinstance(at := getattr(entry, "at", None), datetime):
        changed: Any = {"at": datetime.combine(timezone.localdate(), at.time())}
        return replace(entry, **changed)
    return entry


class _Clock:
    """A working day: from eight on, a couple of minutes an entry."""

    def __init__(self, first: Any) -> None:
        self.first = first
        self.to(0)

    def to(self, day: int) -> None:
        morning = datetime.combine(self.first + timedelta(days=day), time(8, 4))
        self.now = timezone.make_aware(morning)

    def tick(self, minutes: int = 2) -> datetime:
        self.now += timedelta(minutes=minutes)
        return self.now


def _with_its_photo(job: Job, entry: Entry, seed: int) -> Entry:
    if not isinstance(entry, Pictured):
        return entry
    sent = picture(entry.stage, seed)
    photo = Photo(*made_small(sent))
    keep(job, photo)
    return replace(entry, photo=photo.hash)


def _role(job: Job, person: Person) -> str:
    return str(job.crew.memberships.get(person=person).role)


def _accept(job: Job, person: Person, stage: str, row: dict[str, str]) -> None:
    visit = Visit(job, person, _role(job, person))
    for stop in snapshot(job).assessment.stages.of(stage).stops:
        if stop.rule == row["rule"]:
            accept_finding(visit, stage, stop.identity, row["reason"], uuid.uuid4(), Author(person))


def _sign(job: Job, person: Person, stage: str) -> None:
    assessment = snapshot(job).assessment
    slot = assessment.stages.of(stage).awaits[0]
    visit = Visit(job, person, _role(job, person))
    sign_stage(visit, stage, assessment.stages.evidence_hash(stage), uuid.uuid4(), Author(person), slot)
