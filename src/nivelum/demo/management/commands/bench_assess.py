"""Times the assessing of a job file whose three surfaces are shot all over against the triangulations of these alone,
turn by turn, with 500 and with 5 000 stations; fails where it takes longer than it may."""

import math
import random
import statistics
import time
from dataclasses import replace
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from groundwork import entries
from groundwork import job as core
from groundwork.assess import assess
from groundwork.base import BaseSpecification
from groundwork.cli import assessment_data
from groundwork.files import dumps, loads
from groundwork.kinds import Entry
from groundwork.measures import Unit, parse_rod
from groundwork.plan import Feature
from groundwork.surfaces import Facet, lay_mesh
from nivelum.demo.management.commands.bench_pages import LAYERS

SURFACES = ("formation", "base.1", "base")
TIMES, BESIDES = 2.0, 1.0
"""The triangulations' own time may be taken so often, and so many seconds besides, with 500 stations."""
GROWS = 16.0
"""With ten times the stations it may take so many times as long: ten, and the time the least work is sought for."""


class Command(BaseCommand):
    help = __doc__
    requires_system_checks: list[str] = []

    def handle(self, *arguments: Any, **options: Any) -> None:
        took = {}
        for count, rounds in ((500, 5), (5_000, 3)):
            bare, took[count] = (
                statistics.median(times) for times in zip(*map(_timed, [count] * rounds, range(rounds)), strict=True)
            )
            self.stdout.write(
                f"{count} stations on three surfaces: {took[count]:.2f} s, their triangulations {bare:.2f} s"
            )
            if count == 500:
                most = TIMES * bare + BESIDES
        grown = took[5_000] / took[500]
        self.stdout.write(
            f"to hold: {most:.2f} s with 500; ten times as many take {grown:.1f} times as long (to hold: {GROWS:g})"
        )
        if took[500] > most or grown > GROWS:
            raise CommandError("assessing takes longer than it may")


def _timed(count: int, turn: int) -> tuple[float, float]:
    """The bare triangulations and the whole, seconds; each turn has an area of its own, of which nothing is known."""
    text = _job_file(count, turn)
    job = loads(text)
    places = [station.at for station in job.stations]
    begun = time.perf_counter()
    for _surface in SURFACES:
        lay_mesh(places, job.area, (), job.station_spacing)
    between = time.perf_counter()
    assessment_data(assess(loads(text)))
    return between - begun, time.perf_counter() - between


def _job_file(count: int, turn: int) -> str:
    """A job whose surfaces were all shot, most of it within the limits."""
    wide, deep = 60.0 + turn / 100, 52.0
    outline = ((0.0, 0.0), (wide, 0.0), (wide, deep), (0.0, deep))
    job = core.Job(
        "Bench", Unit.MILLIMETRES, outline, (Facet("all", outline, (0.0, 0.0), 10.0, 180.0, 1 / 60),),
        BaseSpecification("dense", LAYERS), math.sqrt(wide * deep / count), (core.Mark("sill", (0.0, 0.0), 10.2),),
        (Feature("free edge", "", outline[:2]),),
    )  # fmt: skip
    chance = random.Random(turn)  # noqa: S311 (how the ground lies)
    surveys = assess(job).surveys
    recorded: list[Entry] = [entries.SetUp("s", "sill", parse_rod("1300", Unit.MILLIMETRES), at=(10.0, -3.0))]
    for surface in SURFACES:
        for answer in surveys.of(surface).answers.values():
            reading = parse_rod(f"{(11.5 - answer.design) * 1000 + chance.gauss(0, 6):.0f}", Unit.MILLIMETRES)
            recorded.append(entries.Reading(f"r{len(recorded)}", answer.station.name, "s", reading, surface=surface))
    return dumps(replace(job, entries=tuple(recorded)))
