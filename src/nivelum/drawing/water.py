"""Rain on a surface: where it runs, where it stands, and what its animation shows, all as the core has it."""

import json
import math
from functools import lru_cache
from itertools import pairwise
from typing import Any

import numpy as np
import shapely
from django.utils.safestring import SafeString
from django.utils.translation import get_language, ngettext
from django.utils.translation import gettext as _
from shapely.geometry.base import BaseGeometry

from groundwork.built import AsBuilt, Fix
from groundwork.measures import Unit, format_amount, format_water
from groundwork.surfaces import Hollows, Moment, Point, Puddle, flow_lines
from nivelum.drawing.pen import Element, add, finished, path, sheet
from nivelum.drawing.surroundings import Scale, fitted, places_of, scale_bar, surroundings

FRAMES = 60
LEAST_ARROWED = 22.0
MOST_NUMBERED = 40


def shown_puddles(built: AsBuilt) -> tuple[Puddle, ...]:
    """The puddles that are numbered, on the plan and in the list, the deepest first."""
    return built.puddles[:MOST_NUMBERED]


def water_plan(built: AsBuilt, unit: Unit, fix: Fix | None = None) -> SafeString:
    """The plan of a surface in long rain: flow, puddles at their fullest, and the work of `fix` where given."""
    return _water_plan(built, unit, fix, get_language())


@lru_cache(maxsize=64)
def _water_plan(built: AsBuilt, unit: Unit, fix: Fix | None, language: str | None) -> SafeString:
    job = built.job
    scale, width, height = fitted(places_of(job))
    root = sheet(width, height, f"{_('Where the rain runs and stands')}. {_told(built, unit)}", "plan wet")
    puddles = shown_puddles(built)
    pools = [built.water.pool(n) for n in range(len(puddles))]
    taken = tuple(scale.to_sheet((p.x, p.y)) for pool in pools for p in [pool.representative_point()])
    surroundings(root, job, scale, taken or ((0.0, 0.0),))
    not_known(root, built, scale)
    flow = add(root, "g", class_="flow")
    for way in _ways(built):
        line = [scale.to_sheet(p) for p in way]
        add(flow, "path", d=path(line) + _head(line))
    for pool in pools:
        add(root, "path", class_="pool", d=outline_of(pool, scale))
    for number, (puddle, pool) in enumerate(zip(puddles, pools, strict=True), start=1):
        number_of(root, number, puddle, pool, scale, unit)
    for change in fix.changes if fix else ():
        x, y = scale.to_sheet(change.station.at)
        group = add(root, "g", class_="work", transform=f"translate({x:.1f} {y:.1f})")
        shape = "M-9 9H9L0 -4Z" if change.by > 0 else "M-9 -9H9L0 4Z"
        add(group, "path", d=shape, class_="fill" if change.by > 0 else "trim")
        add(group, "text", change.station.name, x=-12, y=-8, text_anchor="end")
        sign = "+" if change.by > 0 else "−"
        add(group, "text", f"{sign}{format_amount(change.by, unit)}", x=12, y=14, class_="amount")
    scale_bar(root, scale, height, unit)
    return finished(root)


def _told(built: AsBuilt, unit: Unit) -> str:
    """What it shows, for those who do not see it."""
    if not built.puddles:
        return _("Nothing stands.")
    deepest = max(built.puddles, key=lambda puddle: puddle.depth)
    depth = format_amount(deepest.depth, unit)
    said = ngettext("{n} puddle, {depth} deep.", "{n} puddles, the deepest {depth}.", len(built.puddles))
    return said.format(n=len(built.puddles), depth=depth)


def not_known(root: Element, built: AsBuilt, scale: Scale) -> None:
    """Dots the part of the area that no station encloses."""
    unknown = built.job.area.difference(built.mesh.region)
    if unknown.area > 0.01:
        dots = add(add(root, "defs"), "pattern", id="unknown", width=12, height=12, patternUnits="userSpaceOnUse")
        add(dots, "circle", cx=3, cy=3, r=1.3)
        add(root, "path", class_="not-known", d=outline_of(unknown, scale))


def _head(line: list[tuple[float, float]]) -> str:
    """An arrow's head in the middle of a way that is long enough to carry one."""
    steps = list(pairwise(line))
    half = sum(math.dist(*step) for step in steps) / 2
    if half < LEAST_ARROWED:
        return ""
    for (x1, y1), (x2, y2) in steps:
        length = math.dist((x1, y1), (x2, y2))
        if half <= length and length > 0:
            dx, dy = (x2 - x1) / length, (y2 - y1) / length
            x, y = x1 + dx * half, y1 + dy * half
            return path(
                [(x - 6 * dx - 4 * dy, y - 6 * dy + 4 * dx), (x, y), (x - 6 * dx + 4 * dy, y - 6 * dy - 4 * dx)]
            )
        half -= length
    return ""


def outline_of(shape: BaseGeometry, scale: Scale) -> str:
    """A shape's rings as a path; fill it by turns, so that holes stay open."""
    found = ""
    for part in shapely.get_parts(shape):
        if part.geom_type == "Polygon":
            for ring in (part.exterior, *part.interiors):
                found += path([scale.to_sheet((x, y)) for x, y in ring.coords[:-1]], closed=True)
    return found


def number_of(root: Element, number: int, puddle: Puddle, pool: BaseGeometry, scale: Scale, unit: Unit) -> None:
    """A puddle's number with how deep it is, in its middle."""
    middle = pool.representative_point()
    x, y = scale.to_sheet((middle.x, middle.y))
    group = add(root, "g", class_="pool-number", transform=f"translate({x:.1f} {y:.1f})")
    add(group, "circle", r=13)
    add(group, "text", str(number), y=6, text_anchor="middle")
    add(group, "text", format_amount(puddle.depth, unit), x=17, y=6, class_="pool-depth")


@lru_cache(maxsize=64)
def _ways(built: AsBuilt) -> list[list[Point]]:
    spacing = max(0.5 * built.job.station_spacing, (built.job.area.area / 160) ** 0.5)
    return [way for way in flow_lines(built.mesh, built.levels, built.outlets, spacing) if len(way) > 1]


@lru_cache(maxsize=64)
def _hollows(built: AsBuilt) -> Hollows:
    return Hollows(built.mesh, built.levels, built.outlets)


def scene(built: AsBuilt, unit: Unit, intensity: float, duration: float) -> str:
    """What the animation of rain on a surface draws, as JSON, in the sheet's units: triangles under water, each
    hollow's level at every frame, ways down, and what is said of each frame. Between frames it draws straight on."""
    return _scene(built, unit, intensity, duration, get_language())


@lru_cache(maxsize=64)
def _scene(built: AsBuilt, unit: Unit, intensity: float, duration: float, language: str | None) -> str:
    hollows = _hollows(built)
    moments = hollows.rain(intensity, duration, list(np.linspace(0, duration, FRAMES + 1)))
    scale, width, height = fitted(places_of(built.job))
    lowest = float(built.levels.min())
    wet = sorted({n for moment in moments for n in moment.standing if moment.standing[n] > 1e-7})
    under: dict[int, list[int]] = {}
    used: set[int] = set()
    for number in wet:
        vertices = np.zeros(len(built.levels), dtype=bool)
        vertices[hollows.under(number)] = True
        under[number] = np.flatnonzero(vertices[built.mesh.triangles].any(axis=1)).tolist()
        used.update(under[number])
    order = {triangle: place for place, triangle in enumerate(sorted(used))}
    corners = built.mesh.triangles[sorted(used)].reshape(-1, 3)
    shown = {
        "width": round(width, 1),
        "height": round(height, 1),
        "duration": duration,
        "triangles": [
            [round(value, 2) for v in three
             for value in (*scale.to_sheet(tuple(built.mesh.points[v])), (built.levels[v] - lowest) * 1000)]
            for three in corners.tolist()
        ],
        "hollows": {str(n): [order[t] for t in under[n]] for n in wet},
        "frames": [_frame(built, hollows, moment, lowest, unit) for moment in moments],
        "ways": [[round(v, 1) for p in way for v in scale.to_sheet(p)] for way in _ways(built)],
    }  # fmt: skip
    return json.dumps(shown, separators=(",", ":")).replace("<", "\\u003c")


def _frame(built: AsBuilt, hollows: Hollows, moment: Moment, lowest: float, unit: Unit) -> dict[str, Any]:
    standing = sum(moment.standing.values())
    minutes = moment.time / 60
    return {
        "levels": {
            str(n): round((hollows.hollows[n].level(volume) - lowest) * 1000, 3)
            for n, volume in moment.standing.items()
            if volume > 1e-7
        },
        "clock": _("{minutes} min").format(minutes=f"{minutes:.0f}" if minutes >= 10 else f"{minutes:.1f}"),
        "fallen": format_water(moment.rain, unit),
        "standing": format_water(standing, unit),
        "run_off": format_water(moment.run_off, unit),
    }


@lru_cache(maxsize=128)
def full_times(built: AsBuilt, intensity: float) -> tuple[float | None, ...]:
    """How long it rains until each numbered puddle is as deep as it gets, s; None where it takes days."""
    hollows = _hollows(built)
    times = hollows.full_after(intensity)
    return tuple(times.get(hollows.of(puddle)) for puddle in shown_puddles(built))
