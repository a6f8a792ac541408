"""Loads the made-up demo world, once."""

import json
import uuid
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand
from django.db import transaction

from groundwork import entries
from groundwork.jobfile import loads
from groundwork.measure import Measured
from groundwork.stages import BRIEF, EXCAVATION
from nivelum.crews.models import Crew, Membership, Person
from nivelum.exchange.services import import_job
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Job
from nivelum.jobs.services import Author, append_value, snapshot
from nivelum.signoffs.services import accept_finding, sign_stage

DEMO = Path(__file__).resolve().parents[2]


class Command(BaseCommand):
    help = __doc__

    @transaction.atomic
    def handle(self, *arguments: Any, **options: Any) -> None:
        world = json.loads((DEMO / "world.json").read_text(encoding="utf-8"))
        if not Person.objects.exists():
            for crew in world["crews"]:
                _load_crew(crew, world["password"])
        self.stdout.write(f"Demo sign-ins, all with the password {world['password']!r}:")
        for crew in world["crews"]:
            for person in crew["people"]:
                self.stdout.write(f"  {person['username']:8} {person['name']}, {person['role']} of {crew['name']}")


def _load_crew(data: dict[str, Any], password: str) -> None:
    crew = Crew.objects.create(name=data["name"], rod=data["rod"], region=data.get("region", "en-gb"))
    people = {}
    for row in data["people"]:
        person = Person.objects.create_user(row["username"], password=password, name=row["name"])
        Membership.objects.create(crew=crew, person=person, role=row["role"])
        people[row["username"]] = person
    for row in data["jobs"]:
        text = (DEMO / "jobs" / f"{row['file']}.json").read_text(encoding="utf-8")
        job = import_job(crew, loads(text), [people[name] for name in row["by"]])
        for accepted in row.get("accepted", []):
            _accept(job, people[accepted["by"]], accepted["rule"], accepted["reason"])
        if signer := row.get("brief_signed_by"):
            _sign(job, people[signer], BRIEF.key)
        if signer := row.get("signed_by"):
            _sign(job, people[signer], EXCAVATION.key)
        for later in row.get("then", []):
            _shoot(job, people[later["by"]], later["station"], later["above_design_mm"] / 1000)


def _accept(job: Job, person: Person, rule: str, reason: str) -> None:
    stops = snapshot(job).assessment.stage(BRIEF.key).stops
    for found in [f for f in stops if f.rule == rule]:
        visit = Visit(job, person, "lead")
        accept_finding(visit, BRIEF.key, found.identity, reason, uuid.uuid4(), Author(person))


def _sign(job: Job, person: Person, stage: str) -> None:
    seen = snapshot(job).assessment.evidence_hash(stage)
    sign_stage(Visit(job, person, "lead"), stage, seen, uuid.uuid4(), Author(person))


def _shoot(job: Job, person: Person, station: str, above_design: float) -> None:
    assessment = snapshot(job).assessment
    set_up, target = assessment.set_up, assessment.target(station)
    if set_up is None or target is None:
        raise ValueError(f"{job} has no set-up to shoot {station} from")
    metres = round(target - above_design, 3)
    reading = Measured(f"{metres * 1000:.0f}", metres)
    append_value(job, entries.Reading(str(uuid.uuid4()), station, set_up.id, reading), Author(person))
