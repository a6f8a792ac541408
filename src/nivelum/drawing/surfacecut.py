"""A cut through surfaces as built, against what they were designed to be."""

from collections.abc import Callable
from functools import lru_cache

import numpy as np
from django.utils.safestring import SafeString
from django.utils.translation import get_language
from django.utils.translation import gettext as _

from groundwork.base import Tolerance
from groundwork.built import AsBuilt
from groundwork.measures import Unit, format_distance, format_level
from groundwork.surfaces import Point
from nivelum.drawing.pen import Element, add, finished, path, sheet

WIDTH, HEIGHT = 620.0, 250.0
LEFT, RIGHT, TOP, BOTTOM = 92.0, 14.0, 24.0, 30.0
TIMES = (1, 2, 5, 10, 20, 50, 100, 200)
Run = list[tuple[float, float]]
At = Callable[[tuple[float, float]], tuple[float, float]]


Shown = tuple[tuple[str, AsBuilt, Tolerance], ...]
"""Surfaces by the names they are shown under, each with what it may miss by."""


def surface_cut(shown: Shown, start: Point, end: Point, unit: Unit) -> SafeString | str:
    """The surfaces along a line from A to B, each as built and as designed, the first with its limits. Heights are
    drawn larger than lengths, and it says how much. Nothing where the line misses them."""
    return _surface_cut(shown, start, end, unit, get_language())


@lru_cache(maxsize=64)
def _surface_cut(shown: Shown, start: Point, end: Point, unit: Unit, language: str | None) -> SafeString | str:
    length = float(np.hypot(end[0] - start[0], end[1] - start[1]))
    cuts = [
        (name, b.mesh.profile(b.levels, start, end), b.mesh.profile(b.design, start, end), limit)
        for name, b, limit in shown
    ]
    levels = [level for _name, built, design, _limit in cuts for run in (*built, *design) for _d, level in run]
    if not levels or length == 0:
        return ""
    highest, lowest = max(levels) + shown[0][2].high, min(levels) - shown[0][2].low
    along = (WIDTH - LEFT - RIGHT) / length
    room = HEIGHT - TOP - BOTTOM
    times = max((t for t in TIMES if t == 1 or t * along * (highest - lowest) <= room), default=1)
    up = along * times
    height = TOP + (highest - lowest) * up + BOTTOM

    def at(place: tuple[float, float]) -> tuple[float, float]:
        return LEFT + place[0] * along, TOP + (highest - place[1]) * up

    root = sheet(WIDTH, height, _("Cut from A to B"), "cut-drawing surface-cut")
    for number, (name, built, design, limit) in enumerate(cuts):
        if number == 0:
            for run in design:
                over = [at((d, level + limit.high)) for d, level in run]
                under = [at((d, level - limit.low)) for d, level in reversed(run)]
                add(root, "path", class_="limits", d=path([*over, *under], closed=True))
        for run in design:
            add(root, "path", class_="designed", d=path([at(p) for p in run]))
        for run in built:
            add(root, "path", class_="as-built" if number == 0 else "as-built lower", d=path([at(p) for p in run]))
        _named(root, name, built, at, unit)
    for name, x in (("A", LEFT + 8), ("B", WIDTH - RIGHT - 8)):
        add(root, "text", name, x=x, y=height - 8, class_="end")
    said = _("{length} from A to B; heights × {times}").format(length=format_distance(length, unit), times=times)
    add(root, "text", said, x=LEFT + 30, y=height - 10, class_="what")
    return finished(root)


def _named(root: Element, name: str, runs: list[Run], at: At, unit: Unit) -> None:
    """The surface's name and its level at both ends."""
    if not runs:
        return
    first, last = runs[0][0], runs[-1][-1]
    x, y = at(first)
    add(root, "text", format_level(first[1], unit), x=x - 8, y=y + 5, text_anchor="end", class_="figure")
    x, y = at(last)
    room = x < WIDTH * 0.6
    add(
        root,
        "text",
        f"{name} {format_level(last[1], unit)}",
        x=x + 8 if room else x - 4,
        y=y + 6 if room else y - 7,
        text_anchor="start" if room else "end",
    )
