"""Times pages against a bare view that makes one query, turn by turn in this process, through all middleware; fails
where one takes more than it may. What comes first after an entry is timed after an entry, made by somebody else."""

import gzip
import json
import statistics
import time
import uuid
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import partial
from itertools import count, cycle, islice
from typing import Any
from urllib.parse import urlencode

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction
from django.http import HttpResponse
from django.test import Client, override_settings
from django.urls import include, path

from groundwork import entries
from groundwork import job as core
from groundwork.assess import assess
from groundwork.base import BaseSpecification, Layer, Role
from groundwork.bedwork import RailShot, RailsPlanned
from groundwork.edgework import EdgeKind, EdgePlanned, EdgeShot
from groundwork.kinds import Entry
from groundwork.layerwork import Direction, MachineBrought, Passed
from groundwork.laywork import CourseTaped, LayoutChosen, RowsLaid
from groundwork.measures import Measured, Unit, parse_layer, parse_length, parse_rod, parse_signed, parse_tape
from groundwork.plan import Feature
from groundwork.surfaces import Facet, Point
from groundwork.tools import Machine, MachineKind
from nivelum.bases.forms import SpecificationForm
from nivelum.crews.models import Crew, Membership, Person
from nivelum.crews.requests import Request
from nivelum.exchange.services import import_job
from nivelum.jobs.models import Job
from nivelum.jobs.services import Author, append_value, snapshot

ROUNDS, WARM = 25, 3
READINGS, MANY = 2_000, 20_000
PASSES, JOBS = 120, 1_000
LAYERS = (
    Layer(Role.PAVING, "concrete-block", 0.08),
    Layer(Role.BEDDING, "concrete-sand", 0.03),
    Layer(Role.BASE, "dense-graded", 0.15),
)
OUTLINE = ((0.0, 0.0), (30.0, 0.0), (30.0, 26.0), (0.0, 26.0))
COURT = ((0.0, 0.0), (18.0, 0.0), (18.0, 7.0), (12.0, 7.0), (12.0, 13.0), (0.0, 13.0))


def bare(request: Request) -> HttpResponse:
    """A view for someone signed in that makes one query of its own."""
    return HttpResponse(str(Job.objects.filter(crew__memberships__person=request.user).count()))


urlpatterns = [path("bare/", bare), path("", include(settings.ROOT_URLCONF))]


@dataclass(frozen=True)
class Row:
    """What is timed, how many times the bare view's it may take, and what is done before each time."""

    name: str
    most: float
    ask: Callable[[], Any]
    before: Callable[[], None] | None = None


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("only", nargs="*", help="rows whose names begin so; all where none is named")

    def handle(self, *arguments: Any, only: Iterable[str], **options: Any) -> None:
        wanted = tuple(only)
        with override_settings(ROOT_URLCONF=__name__):
            rows = [row for row in _rows() if not wanted or row.name.startswith(wanted)]
            missed = [said for said in map(self._told, rows) if said]
        if missed:
            raise CommandError(f"{len(missed)} take longer than they may: {', '.join(missed)}")

    def _told(self, row: Row) -> str:
        plain, took = _medians(row)
        times = took / plain
        said = f"{took * 1000:.2f} ms, {times:.1f} x the bare view's {plain * 1000:.2f} ms (to hold: {row.most:g} x)"
        self.stdout.write(f"{row.name}: {said}{'' if times <= row.most else '  MISSED'}")
        return "" if times <= row.most else row.name


def _medians(row: Row) -> tuple[float, float]:
    """The median time of the bare view and of what is timed, in seconds; done in turn, so that what slows the machine
    slows both."""
    client = client_of(Person.objects.get(name="Bench"))
    asks: tuple[Callable[[], Any], ...] = (partial(client.get, "/bare/"), row.ask)
    times: tuple[list[float], list[float]] = ([], [])
    for turn in range(ROUNDS):
        if row.before:
            row.before()
        for ask, taken in zip(asks, times, strict=True):
            begun = time.perf_counter()
            response = ask()
            taken.append(time.perf_counter() - begun)
            if response.status_code not in (200, 302):
                raise CommandError(f"{row.name} was answered {response.status_code} in turn {turn}")
    plain, took = (statistics.median(taken[WARM:]) for taken in times)
    return plain, took


def client_of(person: Person) -> Client:
    client = Client(headers={"Accept-Encoding": "gzip"})
    client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
    return client


def _rows() -> list[Row]:
    """Every row, over a job of 200 stations with as many readings as one has on a day's dig and as the largest has,
    and one of 500 stations."""
    person, usual, grown, large, court = _world()
    client = client_of(person)

    def get(job: Job, room: str, **headers: str) -> Callable[[], Any]:
        return lambda: client.get(f"/jobs/{job.id}/{room}", headers=headers)

    found = [
        Row(name, most, get(usual, room))
        for name, room, most in [
            ("Ground, known", "ground/?station=A1", 5), ("Base", "base/", 4), ("Falls", "base/falls/", 4),
            ("Schools", "base/schools/", 4), ("Sign-offs, known", "sign-offs/", 4),
            ("Water", "water/?surface=formation", 4), ("Lifts", "lifts/?lift=base.1", 4),
            ("Lifts, tests", "lifts/tests/?lift=base.1", 4), ("Surface", "ground/surface/", 4),
            ("Edges", "edges/?side=0", 5), ("Rails", "bed/", 4), ("Bays", "bed/bays/", 4),
            ("Thickness of the bed", "bed/thickness/", 4), ("Layout", "laying/", 5),
            ("Rows by the tape", "laying/courses/", 5), ("Cut list", "laying/cuts/", 5),
            ("Seating", "joints/", 5), ("Units to mend", "joints/units/", 4), ("Filling", "joints/filling/", 4),
            ("Needs", "order/", 4), ("Orders", "order/placed/", 6), ("Hours and kit", "order/work/", 5),
            ("Costs", "order/costs/", 5), ("Today", "days/", 5), ("Programme", "days/programme/", 5),
            ("What sets", "days/setting/", 5), ("Record, its first part", "record/", 20),
        ]
    ]  # fmt: skip
    tried = f"base/?{urlencode(_section(usual))}"
    found.append(Row("Base, a thickness tried", 4, get(usual, tried, **{"HX-Request": "true"})))
    found.append(Row("Layout dragged, 200 m²", 20, _dragged(court, client)))
    for job, readings, after, post, sheet, rest in ((usual, READINGS, 12, 15, 40, 10), (grown, MANY, 15, 20, 80, 20)):
        read = Reader(job, person, client)
        found += [
            Row(f"Ground after an entry, {readings} readings", after, get(job, "ground/?station=A1"), read.somebody),
            Row(f"Sign-offs after an entry, {readings} readings", after, get(job, "sign-offs/"), read.somebody),
            Row(f"POST of a reading, {readings} readings", post, read.post, read.somebody),
            Row(
                f"field sheet after an entry, {readings} readings",
                sheet,
                get(job, "ground/sheet.json"),
                read.somebody,
            ),
            Row(f"the rest of a field sheet, {readings} readings", rest, _Device(job, client).fetch, read.somebody),
        ]
    many = client_of(_yard_of(JOBS))
    found.append(Row(f"Yard of {JOBS} jobs", 8, lambda: many.get("/")))
    found += [
        Row(f"{name}, 500 stations", most, get(large, room))
        for name, room, most in [
            ("Ground, known", "ground/?station=A1", 6), ("Water", "water/?surface=formation", 4),
            ("Surface", "ground/surface/", 4),
        ]
    ]  # fmt: skip
    return found


def _dragged(job: Job, client: Client) -> Callable[[], Any]:
    """One step of a drag after the other, each 3 mm on."""
    steps = count(1)

    def step() -> Any:
        design = {
            "pattern": "herringbone", "length": "200", "width": "100", "joint": "2", "side": "0", "turned": "0",
            "border": "across", "corner": "turned", "seed": "1",
        }  # fmt: skip
        over = {"over": f"{next(steps) * 0.003:.3f}", "ahead": "0.206"}
        return client.get(f"/jobs/{job.id}/laying/now/", design | over, headers={"HX-Request": "true"})

    return step


class _Device:
    """Fetches the field sheet of a job again and again, as a device does that keeps what it was sent."""

    def __init__(self, job: Job, client: Client) -> None:
        self._at, self._client = f"/jobs/{job.id}/ground/sheet.json", client
        self._has = ""

    def fetch(self) -> Any:
        answer = self._client.get(self._at, {"has": self._has})
        if not self._has:
            self._has = ",".join(json.loads(gzip.decompress(answer.content))["pieces"])
        return answer


class Reader:
    """Reads stations of a job one after the other, each time as the ground then is."""

    def __init__(self, job: Job, person: Person, client: Client) -> None:
        self.job, self.person, self.client = job, person, client
        self._stations = cycle(station.name for station in snapshot(job).assessment.job.stations)

    def _next(self) -> tuple[str, str, int]:
        """A station, the set-up it is read from, and what it should read, mm."""
        assessment, station = snapshot(self.job).assessment, next(self._stations)
        target = assessment.targets.at(station) or 0.0
        return station, next(reversed(assessment.levels.references)), round(target * 1000)

    def somebody(self) -> None:
        """Somebody else's process writes a reading: what it comes to is not known in this one."""
        station, set_up, target = self._next()
        reading = entries.Reading(str(uuid.uuid4()), station, set_up, parse_rod(str(target), Unit.MILLIMETRES))
        append_value(self.job, reading, Author(self.person))

    def post(self) -> Any:
        station, set_up, target = self._next()
        typed = {"entry_id": str(uuid.uuid4()), "station": station, "surface": "formation", "set_up": set_up}
        return self.client.post(
            f"/jobs/{self.job.id}/ground/readings/", typed | {"reading": str(target), "sure": str(target)}
        )


@transaction.atomic
def _yard_of(jobs: int) -> Person:
    """Someone whose crew has so many small jobs."""
    person = Person.objects.create_user(f"bench-{uuid.uuid4().hex[:8]}", name="Many")
    crew = Crew.objects.create(name="Many")
    Membership.objects.create(crew=crew, person=person, role="lead")
    small = job_of(LAYERS, 6.0, 12)
    for number in range(jobs):
        import_job(crew, replace(small, name=f"Job {number}", entries=small.entries[:14]), [person])
    return person


def _section(job: Job) -> dict[str, str]:
    """The section's form as the page sends it, one layer thicker."""
    form = SpecificationForm(job=snapshot(job).assessment.job)
    shown = {name: form.get_initial_for_field(field, name) for name, field in form.fields.items()}
    return {name: str(value) for name, value in shown.items() if value} | {"base-0-thickness": "180"}


@transaction.atomic
def _world() -> tuple[Person, Job, Job, Job, Job]:
    """Someone, and jobs with about 200 stations and 2 000 readings, as many stations and 20 000, 500 and 2 000; and
    a court of 200 m²."""
    person = Person.objects.create_user(f"bench-{uuid.uuid4().hex[:8]}", name="Bench")
    crew = Crew.objects.create(name="Bench")
    Membership.objects.create(crew=crew, person=person, role="lead")
    usual, grown, large, court = (
        import_job(crew, job_of(LAYERS, spacing, readings, outline), [person])
        for spacing, readings, outline in (
            (2.0, READINGS, OUTLINE), (2.0, MANY, OUTLINE), (1.27, READINGS, OUTLINE), (2.0, 100, COURT)
        )
    )  # fmt: skip
    return person, usual, grown, large, court


def job_of(
    layers: tuple[Layer, ...], spacing: float, readings: int, outline: tuple[Point, ...] = OUTLINE
) -> core.Job:  # fmt: skip
    facet = Facet("all", outline, (0.0, 0.0), 10.0, 180.0, 1 / 60)
    free = Feature("free edge", "", outline[:2])
    job = core.Job(
        "Bench", Unit.MILLIMETRES, outline, (facet,), BaseSpecification("dense", layers), spacing,
        (core.Mark("sill", (0.0, 0.0), 10.2),), (free,),
    )  # fmt: skip
    set_up = entries.SetUp("s", "sill", parse_rod("1300", Unit.MILLIMETRES), at=(10.0, -3.0))
    ground = assess(job).surveys.ground
    recorded: list[Entry] = [set_up]
    for n, answer in enumerate(islice(cycle(ground.values()), readings)):
        reading = parse_rod(f"{(11.5 - answer.design) * 1000 + n * 7 % 23:.0f}", Unit.MILLIMETRES)
        recorded.append(entries.Reading(f"r{n}", answer.station.name, "s", reading))
    recorded.append(MachineBrought("m", Machine("plate", MachineKind.PLATE, 500, 0.5, 0.5)))
    recorded += [Passed(f"p{n}", "base.1", "m", list(Direction)[n % 2], str(n % 12 + 1)) for n in range(PASSES)]
    recorded += _edge_and_rails(replace(job, entries=(set_up,)))
    recorded += _layout(job.unit)
    return replace(job, entries=tuple(recorded))


def _edge_and_rails(job: core.Job) -> list[Entry]:
    """A kerb along the first side, its joints set, and rails, their ends set."""
    unit = job.unit
    upstand, length = parse_signed("25", unit), parse_length("0.915", Unit.METRES)
    sizes = (parse_layer(typed, unit) for typed in ("3", "125", "150"))
    kerb = EdgePlanned("kerb", 0, EdgeKind.KERB, upstand, length, *sizes)
    rails = RailsPlanned("rails", parse_length("2", Unit.METRES), "along", parse_layer("25", unit),
                         parse_length("3", Unit.METRES))  # fmt: skip
    planned = assess(replace(job, entries=(*job.entries, kerb, rails)))
    against = planned.levels.present

    def read(target: float | None) -> Measured:
        return parse_signed(f"{(target or 0.0) * 1000:.0f}", unit)

    joints, ends = planned.edges.joints(0), planned.bedding.ends
    tops = [EdgeShot(f"e{n}", "kerb", n, "s", read(planned.edges.target(0, n, against))) for n in joints]
    shots = [
        RailShot(f"{rail}{end}", "rails", rail, "start" if end == "start" else "end", "s",
                 read(planned.bedding.target(rail, end, against)))
        for rail, end in ends
    ]  # fmt: skip
    return [kerb, *tops, rails, *shots]


def _layout(unit: Unit) -> list[Entry]:
    """A herringbone with its border, some rows taped and laid."""
    sizes = [parse_layer(typed, unit) for typed in ("200", "100", "3")]
    chosen = LayoutChosen(
        "layout", "herringbone", sizes[0], sizes[1], sizes[2], 0, 0, 0.206, 0.206, "across", "turned"
    )
    rows = [
        CourseTaped(f"row{n}", "layout", n, "left", parse_tape(f"{(n - 2) * 103 - 3}", unit)) for n in (22, 41)
    ]  # fmt: skip
    return [chosen, *rows, RowsLaid("laid", "layout", 41, 12.0)]
