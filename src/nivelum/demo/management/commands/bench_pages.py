"""Times pages against a bare view that makes one query, turn by turn in this process, through all middleware."""

import statistics
import time
import uuid
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from itertools import cycle, islice
from typing import Any
from urllib.parse import urlencode

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import transaction
from django.http import HttpResponse
from django.test import Client, override_settings
from django.urls import include, path

from groundwork import entries
from groundwork import job as core
from groundwork.assess import assess
from groundwork.base import BaseSpecification, Layer, Role
from groundwork.kinds import Entry
from groundwork.layerwork import Direction, MachineBrought, Passed
from groundwork.measures import Unit, parse_rod
from groundwork.plan import Feature
from groundwork.surfaces import Facet
from groundwork.tools import Machine, MachineKind
from nivelum.bases.forms import SpecificationForm
from nivelum.crews.models import Crew, Membership, Person
from nivelum.crews.requests import Request
from nivelum.exchange.services import import_job
from nivelum.jobs import services
from nivelum.jobs.models import Job

ROUNDS = 40
READINGS = 2000
PASSES = 120
OUTLINE = ((0.0, 0.0), (30.0, 0.0), (30.0, 26.0), (0.0, 26.0))


def bare(request: Request) -> HttpResponse:
    """A view for someone signed in that makes one query of its own."""
    return HttpResponse(str(Job.objects.filter(crew__memberships__person=request.user).count()))


urlpatterns = [path("bare/", bare), path("", include(settings.ROOT_URLCONF))]


class Command(BaseCommand):
    help = __doc__

    def handle(self, *arguments: Any, **options: Any) -> None:
        person, usual, large = _world()
        client = Client(headers={"Accept-Encoding": "gzip"})
        client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
        with override_settings(ROOT_URLCONF=__name__):
            plain = partial(client.get, "/bare/")
            tried = urlencode(_section(usual))
            for name, room, most in [
                ("Ground", "ground/?station=A1", 6),
                ("Base", "base/", 4),
                ("Base, a thickness tried", f"base/?{tried}", 4),
                ("Falls", "base/falls/", 4),
                ("Schools", "base/schools/", 4),
                ("Sign-offs", "sign-offs/", 4),
                ("Water", "water/?surface=formation", 4),
                ("Lifts", "lifts/?lift=base.1", 4),
                ("Lifts, tests", "lifts/tests/?lift=base.1", 4),
                ("Surface", "ground/surface/", 4),
                ("Ground, 500 stations", "ground/?station=A1", 6),
                ("Water, 500 stations", "water/?surface=formation", 4),
                ("Surface, 500 stations", "ground/surface/", 4),
            ]:
                job = large if "500" in name else usual
                part = {"HX-Request": "true"} if "tried" in name else {}
                view = partial(client.get, f"/jobs/{job.id}/{room}", headers=part)
                bare_took, took, first = _medians(plain, view, partial(_afresh, view))
                self.stdout.write(
                    f"{name}, {READINGS} readings: {took * 1000:.2f} ms, {took / bare_took:.1f} x the bare view's "
                    f"{bare_took * 1000:.2f} ms (to hold: {most} x); first after something was recorded "
                    f"{first * 1000:.2f} ms, {first / bare_took:.1f} x"
                )


def _section(job: Job) -> dict[str, str]:
    """The section's form as the page sends it, one layer thicker."""
    form = SpecificationForm(job=services.snapshot(job).assessment.job)
    shown = {name: form.get_initial_for_field(field, name) for name, field in form.fields.items()}
    return {name: str(value) for name, value in shown.items() if value} | {"base-0-thickness": "180"}


def _afresh(view: Callable[[], Any]) -> Any:
    """The page as after an entry: nothing of the record is known in this process."""
    services._newest.clear()
    return view()


def _medians(*works: Callable[[], Any]) -> list[float]:
    """The median time of each, in seconds; done in turn, so that what slows the machine slows them all."""
    times: list[list[float]] = [[] for _work in works]
    for _round in range(ROUNDS):
        for work, taken in zip(works, times, strict=True):
            begun = time.perf_counter()
            response = work()
            taken.append(time.perf_counter() - begun)
            if response.status_code != 200:
                raise RuntimeError(f"answered {response.status_code}")
    return [statistics.median(taken[3:]) for taken in times]


@transaction.atomic
def _world() -> tuple[Person, Job, Job]:
    """A job with about 200 stations, another with about 500, each with 2000 readings on them."""
    layers = (
        Layer(Role.PAVING, "concrete-block", 0.08),
        Layer(Role.BEDDING, "concrete-sand", 0.03),
        Layer(Role.BASE, "dense-graded", 0.15),
    )
    usual, large = (_job(layers, spacing) for spacing in (2.0, 1.27))
    person = Person.objects.create_user(f"bench-{uuid.uuid4().hex[:8]}", name="Bench")
    crew = Crew.objects.create(name="Bench")
    Membership.objects.create(crew=crew, person=person, role="lead")
    return person, import_job(crew, usual, [person]), import_job(crew, large, [person])


def _job(layers: tuple[Layer, ...], spacing: float) -> core.Job:
    facet = Facet("all", OUTLINE, (0.0, 0.0), 10.0, 180.0, 1 / 60)
    free = Feature("free edge", "", OUTLINE[:2])
    job = core.Job(
        "Bench", Unit.MILLIMETRES, OUTLINE, (facet,), BaseSpecification("dense", layers), spacing,
        (core.Mark("sill", (0.0, 0.0), 10.2),), (free,),
    )  # fmt: skip
    set_up = entries.SetUp("s", "sill", parse_rod("1300", Unit.MILLIMETRES), at=(10.0, -3.0))
    ground = assess(job).surveys.ground
    recorded: list[Entry] = [set_up]
    for n, answer in enumerate(islice(cycle(ground.values()), READINGS)):
        reading = parse_rod(f"{(11.5 - answer.design) * 1000 + n * 7 % 23:.0f}", Unit.MILLIMETRES)
        recorded.append(entries.Reading(f"r{n}", answer.station.name, "s", reading))
    recorded.append(MachineBrought("m", Machine("plate", MachineKind.PLATE, 500, 0.5, 0.5)))
    recorded += [Passed(f"p{n}", "base.1", "m", list(Direction)[n % 2], str(n % 12 + 1)) for n in range(PASSES)]
    return replace(job, entries=tuple(recorded))
