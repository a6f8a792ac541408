"""Loads the made-up demo world, once."""

import json
import math
import uuid
from datetime import timedelta
from itertools import cycle
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone

from groundwork import entries
from groundwork.files import loads
from groundwork.layerwork import GaugeTest
from groundwork.measures import Measured
from groundwork.observations import Observed, Seen
from groundwork.schools import BRIEF, EXCAVATION, SET_OUT
from nivelum.crews.log import noted
from nivelum.crews.models import Crew, Deed, Membership, Person, Tool, ToolMethod
from nivelum.crews.pins import set_pin
from nivelum.demo.ordered import order_for, price_for
from nivelum.demo.walked import walk
from nivelum.demo.weathered import promise_for, weather_for
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
                pin = f", PIN {person['pin']}" if "pin" in person else ""
                says = f"  {person['username']:8} {person['name']}, {person['role']} of {crew['name']}{pin}"
                self.stdout.write(says)


def _load_crew(data: dict[str, Any], password: str) -> None:
    crew = Crew.objects.create(name=data["name"], rod=data["rod"], region=data.get("region", "en-gb"))
    people = {}
    for row in data["people"]:
        person = Person.objects.create_user(row["username"], password=password, name=row["name"])
        member = Membership.objects.create(crew=crew, person=person, role=row["role"])
        founded = row["role"] == "lead"
        noted(
            crew, person, Deed.FOUNDED if founded else Deed.JOINED, "" if founded else person.name,
            str(member.get_role_display()),
        )  # fmt: skip
        if pin := row.get("pin"):
            set_pin(person, pin)
        people[row["username"]] = person
    for tool in data.get("tools", []):
        made = Tool.usual(crew, ToolMethod(tool["method"]), tool["name"])
        made.reading_u, made.driver = tool["reading_u_mm"], tool["driver"]
        made.save()
    if priced := data.get("money"):
        price_for(crew, people[priced["by"]], priced)
    if weathered := data.get("weather"):
        weather_for(crew, weathered)
    for row in data["jobs"]:
        _load_job(crew, people, row)


def _load_job(crew: Crew, people: dict[str, Person], row: dict[str, Any]) -> None:
    if walked := row.get("walked"):
        walk(crew, DEMO / "jobs" / f"{row['file']}.json", people, row["by"], walked)
        return
    text = (DEMO / "jobs" / f"{row['file']}.json").read_text(encoding="utf-8")
    job = import_job(crew, loads(text), [people[name] for name in row["by"]])
    for accepted in row.get("accepted", []):
        _accept(job, people[accepted["by"]], accepted["rule"], accepted["reason"])
    if signer := row.get("brief_signed_by"):
        _sign(job, people[signer], BRIEF)
    if set_out := row.get("set_out"):
        _set_out(job, people, set_out)
    if looked := row.get("looked"):
        _look(job, people[looked["by"]], looked["stage"])
    if signer := row.get("signed_by"):
        _sign(job, people[signer], EXCAVATION)
    if tested := row.get("densities"):
        _densities(job, people[tested["by"]], tested)
    if ordered := row.get("ordered"):
        order_for(job, people, ordered)
    if promised := row.get("promised"):
        promise_for(job, people, promised)
    for later in row.get("then", []):
        _shoot(job, people[later["by"]], later["station"], later["above_design_mm"] / 1000)


def _accept(job: Job, person: Person, rule: str, reason: str) -> None:
    stops = snapshot(job).assessment.stages.of(BRIEF).stops
    for found in [f for f in stops if f.rule == rule]:
        visit = Visit(job, person, "lead")
        accept_finding(visit, BRIEF, found.identity, reason, uuid.uuid4(), Author(person))


def _sign(job: Job, person: Person, stage: str) -> None:
    _look(job, person, stage)
    seen = snapshot(job).assessment.stages.evidence_hash(stage)
    sign_stage(Visit(job, person, "lead"), stage, seen, uuid.uuid4(), Author(person))


def _look(job: Job, person: Person, stage: str) -> None:
    for asked in snapshot(job).assessment.stages.asked(stage):
        append_value(job, Observed(str(uuid.uuid4()), stage, asked.ask.key, Seen.YES), Author(person))


def _set_out(job: Job, people: dict[str, Person], data: dict[str, Any]) -> None:
    """Services located, and every length the pegs want taped: as planned, a peg that stands out of place apart, each
    as far off as the tape was."""
    author = Author(people[data["by"]])
    located = timezone.localdate() - timedelta(days=data["located_days_ago"])
    append_value(
        job,
        entries.ServicesLocated(
            str(uuid.uuid4()), data["ticket"], located, data["life_days"], data["located_by"], data["scheme"],
            data["found"],
        ),
        author,
    )  # fmt: skip
    pegs = snapshot(job).assessment.setting_out.pegs
    stands = dict(zip(pegs.names, pegs.outline, strict=True))
    for name, (east, north) in data.get("peg_out", {}).items():
        stands[name] = (stands[name][0] + east, stands[name][1] + north)
    for (start, end), off in zip(pegs.still_to_tape, cycle(data["off_mm"]), strict=False):
        metres = round(math.dist(stands[start], stands[end]) + off / 1000, 3)
        length = Measured(f"{metres:.3f} m", metres)
        append_value(job, entries.PegDistance(str(uuid.uuid4()), start, end, length), author)
    if signer := data.get("signed_by"):
        _sign(job, people[signer], SET_OUT)


def _shoot(job: Job, person: Person, station: str, above_design: float) -> None:
    assessment = snapshot(job).assessment
    set_up, target = assessment.levels.set_up, assessment.targets.at(station)
    if set_up is None or target is None:
        raise ValueError(f"{job} has no set-up to shoot {station} from")
    metres = round(target - above_design, 3)
    reading = Measured(f"{metres * 1000:.0f}", metres)
    append_value(job, entries.Reading(str(uuid.uuid4()), station, set_up.id, reading), Author(person))


def _densities(job: Job, person: Person, data: dict[str, Any]) -> None:
    """Density gauge tests at the first places drawn on a lift."""
    places = snapshot(job).assessment.works.lifts[data["lift"]].places
    for (name, at), wet in zip(places, data["wet_kg_m3"], strict=False):
        test = GaugeTest(str(uuid.uuid4()), data["lift"], name, at, wet, data["moisture"])
        append_value(job, test, Author(person))
