"""What all tests share: no deadlines on a busy machine, fast password hashes, a made-up crew and its job."""

import copy
import html
import os
import re
import time
import uuid
from collections.abc import Iterator
from dataclasses import dataclass, field

import pytest
from django.conf import settings
from django.core.handlers.base import BaseHandler
from django.test import Client
from hypothesis import HealthCheck
from hypothesis import settings as hypothesis_settings

from groundwork.files import loads
from groundwork.measures import Unit

# Examples that failed once stand beside their tests; CI draws the same ones every time.
_patient = {"deadline": None, "suppress_health_check": [HealthCheck.too_slow], "database": None}
hypothesis_settings.register_profile("here", max_examples=60, **_patient)
hypothesis_settings.register_profile("ci", max_examples=60, derandomize=True, **_patient)
hypothesis_settings.register_profile("few", max_examples=12, derandomize=True, **_patient)
hypothesis_settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE") or ("ci" if os.environ.get("CI") else "here"))

# A pad of 6 by 4 m in one plane: small enough to shoot whole in a test. Instrument height is 11.500 throughout.
PAD = """{
 "format": "nivelum-job/1", "name": "Test pad", "units": "mm",
 "area": {"outline_m": [[0, 0], [6, 0], [6, 4], [0, 4]]}, "station_spacing_m": 2,
 "features": [{"kind": "building", "name": "hut", "points_m": [[0, 4.1], [6, 4.1], [6, 5.5], [0, 5.5]]}],
 "marks": [{"name": "sill", "at_m": [0, 4.1], "level_m": 10.2}, {"name": "bolt", "at_m": [6, -1], "level_m": 10.0}],
 "facets": [{"name": "all", "outline_m": [[0, 0], [6, 0], [6, 4], [0, 4]], "at_m": [0, 4], "level_m": 10.0,
             "bearing_deg": 180, "fall_1_in": 50}],
 "brief": {"traffic": "drive", "soil": "gravel", "dust_control": "water"},
 "specification": {"school": "dense", "pavers_laid_high_mm": 5, "layers": [
   {"role": "paving", "material": "concrete-block", "thickness_mm": 80},
   {"role": "bedding", "material": "concrete-sand", "thickness_mm": 30},
   {"role": "base", "material": "dense-graded", "thickness_mm": 150}]}
}"""
DRAINED_PAD = PAD.replace(
    '"features": [', '"features": [{"kind": "free edge", "name": "", "points_m": [[0, 0], [6, 0]]}, '
)
"""The pad with its low edge free: water leaves there."""
PASSWORD = "limestone"


def pytest_collection_modifyitems(items) -> None:
    """The core's tests come last: they are many and short, so that no worker is left alone at the end."""
    for item in items:
        if "groundwork" not in item.path.parts:
            item.add_marker(pytest.mark.web)
    items.sort(key=lambda item: "groundwork" in item.path.parts)


def pytest_configure() -> None:
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
    BaseHandler.load_middleware = _load_middleware_once


_load_middleware = BaseHandler.load_middleware
_loaded: dict[type, tuple[object, dict]] = {}


def _load_middleware_once(handler: BaseHandler, is_async: bool = False) -> None:
    """Every test client makes the middleware anew, which looks at every static file: as long as the settings are the
    same, what the first has made serves the others of its kind."""
    known_for, made = _loaded.get(type(handler), (None, {}))
    if is_async or known_for is not settings._wrapped:
        _load_middleware(handler, is_async)
        made = {name: value for name, value in vars(handler).items() if name.endswith("_middleware")}
        made |= {"_middleware_chain": handler._middleware_chain}
        if not is_async:
            _loaded[type(handler)] = settings._wrapped, made
    vars(handler).update(made)


@dataclass
class World:
    """A crew of its own for one test, with a person in each role and a job. Crews do not see each other, so
    tests that share a database do not either."""

    crew: object
    people: dict = field(default_factory=dict)
    job: object = None

    def client(self, role: str) -> Client:
        client = Client()
        client.force_login(self.people[role], backend="django.contrib.auth.backends.ModelBackend")
        return client

    def visit(self, role: str):
        from nivelum.jobs.access import Visit

        return Visit(self.job, self.people[role], role)

    def set_up(self, backsight: str = "1300"):
        """The level set up on the sill, its height of instrument 11.500."""
        from groundwork.entries import SetUp
        from groundwork.measures import parse_rod

        typed = parse_rod(backsight, Unit.MILLIMETRES)
        return self.record(SetUp(str(uuid.uuid4()), "sill", typed, at=(3.0, -3.0)))

    def record(self, entry, role: str = "crew"):
        from nivelum.jobs.services import Author
        from nivelum.recording.services import record

        return record(self.visit(role), entry, Author(self.people[role]))

    def write(self, entries, role: str = "crew") -> None:
        """Entries that are right for sure, written without being asked whether they are: many at once, quickly."""
        from nivelum.jobs.services import Author, append_value

        author = Author(self.people[role])
        for entry in entries:
            append_value(self.job, entry, author)

    def assessment(self):
        from nivelum.jobs.services import snapshot

        return snapshot(self.job).assessment

    def shoot(self, station: str, high_mm: float = 0.0, role: str = "crew", surface: str = "formation"):
        """Reads a station of a surface `high_mm` above its design."""
        from groundwork.entries import Reading
        from groundwork.measures import parse_rod

        assessment = self.assessment()
        typed = f"{assessment.targets.at(station, surface) - high_mm / 1000:.4f}"
        reading = parse_rod(typed, Unit.METRES)
        entry = Reading(str(uuid.uuid4()), station, assessment.levels.set_up.id, reading, surface=surface)
        return self.record(entry, role)

    def square(self) -> None:
        """Services located today, and every length the pegs want taped as the plan has it."""
        from django.utils import timezone

        from groundwork.entries import PegDistance, ServicesLocated
        from groundwork.measures import Measured, as_typed

        pegs = self.assessment().setting_out.pegs
        lengths = ((start, end, pegs.planned(start, end)) for start, end in pegs.still_to_tape)
        self.write(
            [
                ServicesLocated(str(uuid.uuid4()), "T-1", timezone.localdate(), 14, "the locators"),
                *(
                    PegDistance(str(uuid.uuid4()), a, b, Measured(as_typed(m, self.crew.unit), m))
                    for a, b, m in lengths
                ),
            ]
        )

    def look(self, stage: str, role: str = "crew") -> None:
        """Everything a stage asks looked at, and right."""
        from tests.walking import looked

        self.write(looked(self.assessment(), stage), role)

    def make(self, stage: str, role: str = "crew") -> None:
        """What a stage wants made and measured."""
        from tests.walking import Crew

        walker = Crew(self.assessment().job)
        machines = self.assessment().works.machines
        if machines:
            walker.machine = next(iter(machines))
            walker.job = self.assessment().job
        done = len(self.assessment().job.entries)
        walker.make(stage)
        self.write(walker.job.entries[done:], role)

    def sign(self, stage: str, role: str = "lead", slot: str = "lead"):
        from groundwork.schools import Slot
        from nivelum.jobs.services import Author
        from nivelum.signoffs.services import sign_stage

        self.look(stage)
        seen = self.assessment().stages.evidence_hash(stage)
        return sign_stage(self.visit(role), stage, seen, uuid.uuid4(), Author(self.people[role]), Slot(slot))

    def shoot_all(self) -> None:
        """The dig shot at every station, and looked at."""
        from groundwork.entries import Reading
        from groundwork.measures import Unit, parse_rod

        self.set_up()
        assessment = self.assessment()
        typed = {
            s.name: parse_rod(f"{assessment.targets.at(s.name):.4f}", Unit.METRES) for s in assessment.job.stations
        }
        self.write(
            Reading(str(uuid.uuid4()), name, assessment.levels.set_up.id, read) for name, read in typed.items()
        )
        self.look("excavation")


def made(client: Client, where: str):
    """What is made meanwhile, once it is."""
    ends = time.monotonic() + 120
    while (answer := client.get(where)).status_code == 202 and time.monotonic() < ends:
        where = html.unescape(re.search(r'href="([^"]+begun=\w+)"', answer.content.decode())[1])
        time.sleep(0.05)
    return answer


def make_world(rod: str = "mm", job_file: str = PAD, name: str = "Flint & Fall", brief_signed: bool = True) -> World:
    from nivelum.crews.models import Crew, CrewRole, Membership, Person
    from nivelum.exchange.services import import_job

    world = World(Crew.objects.create(name=name, rod=rod))
    for role in CrewRole.values:
        name = f"{role}-{uuid.uuid4().hex[:8]}"
        person = Person.objects.create_user(name, password=PASSWORD, name=f"{role.title()} Person")
        Membership.objects.create(crew=world.crew, person=person, role=role)
        world.people[role] = person
    world.job = import_job(world.crew, loads(job_file), [world.people["lead"]])
    if brief_signed:
        world.sign("brief")
        world.square()
        world.sign("set-out")
    return world


@pytest.fixture
def standing_world(django_db_setup, django_db_blocker) -> World:
    """A world that is there before a test begins, made again where a test has emptied the tables. What a test does
    to it is taken back with its transaction."""
    from nivelum.jobs.models import Job

    with django_db_blocker.unblock():
        if not _standing or not Job.objects.filter(id=_standing[-1].job.id).exists():
            _standing.append(make_world())
    return _standing[-1]


_standing: list[World] = []


@pytest.fixture
def world(standing_world: World, db) -> World:
    """The world that is there, as it was."""
    return copy.deepcopy(standing_world)


@pytest.fixture
def flushable(monkeypatch) -> None:
    """For tests with transactions of their own: emptying the tables afterwards passes the record's guard, as only
    their owner can.

    Ask for it before `transactional_db`, so that it is undone after it."""
    from django.db.backends.postgresql.operations import DatabaseOperations

    flush = DatabaseOperations.execute_sql_flush
    guards = (("jobs_entry", "append_only"), ("crews_crewline", "only_grows"))
    off = [f"ALTER TABLE {table} DISABLE TRIGGER {guard}" for table, guard in guards]
    on = [f"ALTER TABLE {table} ENABLE ALWAYS TRIGGER {guard}" for table, guard in guards]
    monkeypatch.setattr(DatabaseOperations, "execute_sql_flush", lambda ops, sql: flush(ops, [*off, *sql, *on]))


@pytest.fixture
def check_role(transactional_db) -> Iterator[str]:
    """The address of a server as a role that may make databases and nothing else."""
    from django.db import connection

    where = connection.settings_dict
    name = f"nivelum_check_{uuid.uuid4().hex[:8]}"
    with connection.cursor() as cursor:
        cursor.execute(f"CREATE ROLE {name} LOGIN CREATEDB PASSWORD 'only-for-tests'")
    yield f"postgresql://{name}:only-for-tests@{where['HOST']}:{where['PORT']}/template1"
    with connection.cursor() as cursor:
        cursor.execute(f"DROP ROLE {name}")


@pytest.fixture(scope="session")
def django_db_setup(django_test_environment, django_db_modify_db_settings, django_db_blocker) -> Iterator[None]:
    """The test database, made whichever tests are chosen: browser tests use it from a server, not by a mark.

    When it is dropped nobody is left in it: threads of tests that have ended may still hold a connection."""
    from django.db import connection
    from django.test.utils import setup_databases, teardown_databases

    with django_db_blocker.unblock():
        made = setup_databases(verbosity=0, interactive=False, aliases={"default"})
    yield
    with django_db_blocker.unblock():
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
                "WHERE datname = current_database() AND pid <> pg_backend_pid()"
            )
        connection.close()
        connection.close_pool()
        teardown_databases(made, verbosity=0)
