"""Times the search for the best layout, and one layout, against bare shapely intersections of the same units."""

import math
import time
from typing import Any

import numpy as np
import shapely
from django.core.management.base import BaseCommand

from groundwork.layouts import searched
from groundwork.pattern import Border, Paving, PavingDesign, PavingUnit, pattern

UNIT = PavingUnit(0.2, 0.1, 0.002)
TRIALS = 392
"""14 × 14 starts, two ways round."""
SEARCH, AGAIN = 0.1, 3.0
"""To hold: a trial of a start, and a layout with its pieces named, over a bare intersection of all its units."""


class Command(BaseCommand):
    help = __doc__
    requires_system_checks: list[str] = []

    def handle(self, *arguments: Any, **options: Any) -> None:
        missed = [self._timed(scale) for scale in (1.0, math.sqrt(10))]
        if any(missed):
            raise SystemExit(1)

    def _timed(self, scale: float) -> bool:
        """An L-shaped court with a cover in it, 200 m² or ten times that; whether it takes too long."""
        corners = np.array([(0, 0), (18, 0), (18, 7), (12, 7), (12, 13), (0, 13)]) * scale
        cover = shapely.Point(4, 5).buffer(0.4, quad_segs=6)
        court = shapely.Polygon(corners, [cover.exterior])
        design = PavingDesign(pattern("herringbone"), UNIT, Border(), (0.0, 0.0), 0.0)
        marks = [time.perf_counter()]
        paving = Paving(court, design)
        len(paving.pieces)
        marks.append(time.perf_counter())
        boxes = np.array([piece.box for piece in paving.pieces.values()], dtype=object)
        marks.append(time.perf_counter())
        shapely.intersection(boxes, court)
        marks.append(time.perf_counter())
        searched(court, design)
        marks.append(time.perf_counter())
        again, _between, bare, search = np.diff(marks)
        self.stdout.write(
            f"layouts, {court.area:.0f} m² of 200 × 100, {len(boxes)} pieces: {TRIALS} starts {search:.1f} s, "
            f"one {search / TRIALS / bare:.3f} x a bare intersection's {bare * 1000:.0f} ms (to hold: {SEARCH} x); "
            f"one laid, pieces named, {again / bare:.1f} x (to hold: {AGAIN} x)"
        )
        return bool(search / TRIALS > SEARCH * bare or again > AGAIN * bare)
