"""Times the full answer on a surface against scipy's bare Delaunay of the same points, turn by turn."""

import statistics
import time
from typing import Any

import numpy as np
import shapely
from django.core.management.base import BaseCommand
from scipy.spatial import Delaunay

from groundwork.surfaces import Floats, lay_mesh, standing_water, straightedge

SPACING = 2.0
LIMIT = 0.010


class Command(BaseCommand):
    help = __doc__
    requires_system_checks: list[str] = []

    def handle(self, *arguments: Any, **options: Any) -> None:
        took = {}
        for count, rounds in ((10_000, 7), (100_000, 3)):
            bare, whole, parts = _medians(count, rounds)
            took[count] = whole
            self.stdout.write(
                f"{count} points: triangulation, falls, ponding and straightedge {whole * 1000:.0f} ms "
                f"({', '.join(f'{name} {part * 1000:.0f}' for name, part in parts.items())}), {whole / bare:.1f} x "
                f"bare Delaunay's {bare * 1000:.0f} ms (to hold: 4 x)"
            )
        self.stdout.write(f"ten times the points take {took[100_000] / took[10_000]:.1f} times as long")


def _medians(count: int, rounds: int) -> tuple[float, float, dict[str, float]]:
    """Bare Delaunay, the whole answer and its parts, in seconds; done in turn."""
    side = round(count**0.5)
    across = SPACING * (side - 1)
    times: list[list[float]] = []
    for turn in range(rounds):
        rng = np.random.default_rng(turn)
        places = _places(side, rng)
        built = 10 - places[:, 0] / 60 + rng.normal(0, 0.003, len(places))
        marks = [time.perf_counter()]
        Delaunay(places)
        marks.append(time.perf_counter())
        mesh = lay_mesh(places, shapely.box(0, 0, across, across), (), SPACING)
        levels = mesh.at_vertices(built)
        mesh.gradient(levels)
        marks.append(time.perf_counter())
        standing_water(mesh, levels, mesh.rim & (mesh.points[:, 0] > across - 0.01))
        marks.append(time.perf_counter())
        straightedge(mesh, levels, mesh.vertex_of, limit=LIMIT)
        marks.append(time.perf_counter())
        times.append(np.diff(marks).tolist())
    bare, laid, ponded, barred = (statistics.median(column) for column in zip(*times, strict=True))
    parts = {"triangulation and falls": laid, "ponding": ponded, "straightedge": barred}
    return bare, sum(parts.values()), parts


def _places(side: int, rng: np.random.Generator) -> Floats:
    """A rough grid of stations and the corners."""
    axis = np.arange(side) * SPACING
    grid = np.stack(np.meshgrid(axis, axis), axis=-1).reshape(-1, 2) + rng.uniform(-0.5, 0.5, (side * side, 2))
    across = axis[-1]
    corners = [(0, 0), (across, 0), (across, across), (0, across)]
    return np.vstack([np.clip(grid, 0.1, across - 0.1), corners])
