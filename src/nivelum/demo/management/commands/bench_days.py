"""Times a programme of 2 000 runs and a week of ten jobs, four people and five machines against what they may
take."""

import random
import statistics
import time
from datetime import datetime
from typing import Any

import numpy as np
from django.core.management.base import BaseCommand, CommandError

from groundwork.outdoors import Outdoors, UsualWeather, limits_of
from groundwork.programme import PlanTask, WorkingTime, WorkTerms, programme
from groundwork.week import Follows, WeekJob, WeekQuestion, WeekTask, solved

ROUNDS = 5
RUNS, PROGRAMME_MOST = 2000, 0.5
"""Seconds that many runs of one job may take."""
WEEK_PATIENCE, WEEK_MOST = 7.0, 10.0
WORKS = (
    Outdoors.DIG,
    Outdoors.FINES,
    Outdoors.FINES,
    Outdoors.CONCRETE,
    Outdoors.BED,
    Outdoors.UNITS,
    Outdoors.BONDED,
)


class Command(BaseCommand):
    help = __doc__
    requires_system_checks: list[str] = []

    def handle(self, *arguments: Any, **options: Any) -> None:
        bare, whole = _programme()
        self.stdout.write(
            f"programme, {RUNS} runs of 14 tasks: {whole:.2f} s, {whole / bare:.1f} x drawing its weather alone "
            f"{bare:.2f} s (to hold: {PROGRAMME_MOST} s)"
        )
        took, gap = _week()
        self.stdout.write(
            f"week, 10 jobs, 4 people, 5 machines: {took:.1f} s, gap {gap:.0%} (to hold: {WEEK_MOST} s)"
        )
        if whole > PROGRAMME_MOST or took > WEEK_MOST:
            raise CommandError("days take longer than they may")


def _programme() -> tuple[float, float]:
    """Drawing as many hours of weather alone, and the whole answer, in seconds; done in turn."""
    tasks = [
        PlanTask(f"t{n}", f"t{n}", 6.0, None, (), WORKS[n % len(WORKS)], 24.0 if n == 13 else 0.0) for n in range(14)
    ]
    terms = WorkTerms(2, WorkingTime(), limits_of({}), UsualWeather())
    times: list[list[float]] = []
    for n in range(ROUNDS):
        marks = [time.perf_counter()]
        np.random.default_rng(n).random((RUNS, 24 * 40), dtype=np.float32).cumsum(axis=1)
        marks.append(time.perf_counter())
        programme(tasks, {}, terms, None, datetime(2026, 3, 2, 7), n, RUNS)
        marks.append(time.perf_counter())
        times.append(np.diff(marks).tolist())
    bare, whole = (statistics.median(column) for column in zip(*times, strict=True))
    return bare, whole


def _week() -> tuple[float, float]:
    chance = random.Random(7)  # noqa: S311 (no secret)
    at = [24.0 * (day + 2 * (day // 5)) + 7 + 4 * half for day in range(15) for half in range(2)]
    machines = ("excavator", "plate", "mixer", "saw", "roller")
    tasks = [
        WeekTask(
            f"{job}.{n}", str(job), chance.choice([2.0, 4.0, 6.0, 8.0]), 2,
            (machines[(job + n) % 5],) if n % 2 == 0 else (),
            (Follows(f"{job}.{n - 1}", 48.0 if n == 2 else 0.0),) if n else (),
            frozenset(chance.sample(range(30), 3)),
        )
        for job in range(10)
        for n in range(5)
    ]  # fmt: skip
    jobs = tuple(WeekJob(str(job), chance.choice([None, 16, 24, 30])) for job in range(10))
    question = WeekQuestion(
        at, 4.0, ("ann", "bo", "cy", "di"), dict.fromkeys(machines, 1), jobs, tuple(tasks)
    )  # fmt: skip
    solved(question, 0.5)  # the solver's library is loaded
    began = time.perf_counter()
    plan = solved(question, WEEK_PATIENCE)
    if plan is None:
        raise CommandError("no week was found")
    return time.perf_counter() - began, plan.gap
