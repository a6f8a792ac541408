"""Times the planning of falls between thirty heights on six facets against one bare linear programme of that size."""

import math
import statistics
import time
from typing import Any

import numpy as np
from django.core.management.base import BaseCommand
from scipy.optimize import linprog

from groundwork.brief import FixedHeight, HeightKind
from groundwork.falls import FallRange, plan_falls
from groundwork.plan import to_gully

HEIGHTS, ROUNDS = 30, 5


class Command(BaseCommand):
    help = __doc__
    requires_system_checks: list[str] = []

    def handle(self, *arguments: Any, **options: Any) -> None:
        for name, noise in (("feasible", 0.0), ("slightly off", 0.004), ("far off", 0.02)):
            bare, whole = _medians(noise)
            self.stdout.write(
                f"falls, {HEIGHTS} heights on 6 facets, {name}: {whole * 1000:.0f} ms, {whole / bare:.0f} x one bare "
                f"programme's {bare * 1000:.1f} ms (to hold: 200 x)"
            )


def _medians(noise: float) -> tuple[float, float]:
    """One bare programme, and the whole answer, in seconds; done in turn."""
    ring = [(10 * math.cos(a), 10 * math.sin(a)) for a in np.arange(6) * math.pi / 3]
    pieces, rng = to_gully(ring, (0.0, 0.0)), np.random.default_rng(0)
    heights = []
    for n in range(HEIGHTS):
        angle, radius = rng.uniform(0, 2 * math.pi), rng.uniform(0, 8)
        middle = (angle // (math.pi / 3) + 0.5) * math.pi / 3
        level = 10 + radius * math.cos(angle - middle) / 50 + rng.normal(0, noise)
        at = radius * math.cos(angle), radius * math.sin(angle)
        heights.append(FixedHeight(HeightKind.BOUNDARY, f"h{n}", at, level, 0.002, 0.002))
    rows = rng.normal(size=(180, 18))
    limits = np.abs(rng.normal(size=180))
    times: list[list[float]] = []
    for _round in range(ROUNDS):
        marks = [time.perf_counter()]
        linprog(rng.normal(size=18), rows, limits, bounds=(-1, 1), method="highs-ds")
        marks.append(time.perf_counter())
        plan_falls(pieces, heights, FallRange())
        marks.append(time.perf_counter())
        times.append(np.diff(marks).tolist())
    bare, whole = (statistics.median(column) for column in zip(*times, strict=True))
    return bare, whole
