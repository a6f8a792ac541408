"""The plan: outline, what stands around it, falls, marks, the instrument, and every station with its mark."""

import math
from collections.abc import Callable
from copy import deepcopy
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from django.utils.safestring import SafeString
from django.utils.translation import get_language
from django.utils.translation import gettext as _

from groundwork.assess import Assessment
from groundwork.dig import StationAnswer
from groundwork.measure import Unit, format_amount, format_fall, format_level
from groundwork.surface import Facet, Point
from groundwork.verdict import Standing
from nivelum.drawing.glyphs import CSS, glyph
from nivelum.drawing.pen import Element, add, finished, path, sheet, textures

WIDTH, HEIGHT, MARGIN = 760.0, 600.0, 34.0
SIGHT = "M-25 0H-17M17 0H25M0 -25V-17M0 17V25M-17 0A17 17 0 1 1 17 0A17 17 0 1 1 -17 0"
WITH_AMOUNT = (Standing.DIG, Standing.OVER_DUG)
CLOSE_TOGETHER = 40.0
"""Stations nearer than this on the sheet show their names only where something is wrong."""


@dataclass(frozen=True)
class Scale:
    """Metres on the ground to units on the sheet; `west` and `north` are the sheet's corner."""

    west: float
    north: float
    per_metre: float

    def to_sheet(self, point: Point) -> tuple[float, float]:
        return (
            MARGIN + (point[0] - self.west) * self.per_metre,
            MARGIN + (self.north - point[1]) * self.per_metre,
        )


def plan(
    assessment: Assessment, unit: Unit, selected: str | None, word: Callable[[StationAnswer], str]
) -> SafeString:
    """The plan with `selected` ringed; each station links to `?station=` and is named with its `word`."""
    root = deepcopy(_unselected(assessment, unit, word, get_language()))
    for link in root.iterfind(f".//a[@href='?station={selected}']"):
        link.set("class", link.get("class") + " chosen")
        link.insert(1, add(link, "path", class_="sight", d=SIGHT))
    return finished(root)


@lru_cache(maxsize=64)
def _unselected(
    assessment: Assessment, unit: Unit, word: Callable[[StationAnswer], str], language: str | None
) -> Element:
    """The plan with no station chosen: the same for everyone until something is recorded."""
    job = assessment.job
    places = [*job.outline, *(p for f in job.features for p in f.points), *(m.at for m in job.marks)]
    if assessment.set_up and assessment.set_up.at:
        places.append(assessment.set_up.at)
    west, south = np.min(places, axis=0)
    east, north = np.max(places, axis=0)
    per_metre = min((WIDTH - 2 * MARGIN) / (east - west), (HEIGHT - 2 * MARGIN) / (north - south))
    scale = Scale(west, north, per_metre)
    width, height = (east - west) * per_metre + 2 * MARGIN, (north - south) * per_metre + 2 * MARGIN + 24
    root = sheet(width, height, _("Plan of {job}").format(job=job.name), "plan")
    root.set("data-west", f"{west - MARGIN / per_metre:.4f}")
    root.set("data-north", f"{north + MARGIN / per_metre:.4f}")
    root.set("data-per-metre", f"{per_metre:.4f}")
    textures(root)
    _surroundings(root, assessment, scale)
    for facet in job.facets:
        _fall(root, facet, assessment, scale)
    _instrument_and_marks(root, assessment, scale, unit)
    _symbols(root, assessment)
    _stations(root, assessment, scale, unit, word)
    _scale_bar(root, scale, height, unit)
    return root


def thumbnail(assessment: Assessment) -> SafeString:
    """The job at a glance: its outline, what stands beside it, a dot where something is wrong."""
    job = assessment.job
    places = [*job.outline, *(p for f in job.features for p in f.points)]
    (west, south), (east, north) = np.min(places, axis=0), np.max(places, axis=0)
    per_metre = min(130 / (east - west), 78 / (north - south))
    scale = Scale(west + MARGIN / per_metre, north - MARGIN / per_metre, per_metre)
    root = sheet((east - west) * per_metre, (north - south) * per_metre, job.name, "thumbnail")
    root.set("aria-hidden", "true")
    for feature in job.features:
        if feature.kind in ("building", "water"):
            points = [scale.to_sheet(p) for p in feature.points]
            add(root, "path", class_=feature.kind, d=path(points, closed=True))
    add(root, "path", class_="area", d=path([scale.to_sheet(p) for p in job.outline], closed=True))
    for answer in assessment.ground.values():
        standing = answer.judgement.standing
        if standing is not Standing.UNSHOT:
            x, y = scale.to_sheet(answer.station.at)
            css = "dot" if standing.is_sound else f"dot bad v-{CSS[standing]}"
            add(root, "circle", class_=css, cx=x, cy=y, r=1.6 if standing.is_sound else 3.6)
    return finished(root)


def _surroundings(root: Element, assessment: Assessment, scale: Scale) -> None:
    job = assessment.job
    for feature in job.features:
        points = [scale.to_sheet(p) for p in feature.points]
        if feature.kind == "building":
            add(root, "path", class_="building", d=path(points, closed=True))
        elif feature.kind == "water":
            _water(root, points)
    add(root, "path", class_="area", d=path([scale.to_sheet(p) for p in job.outline], closed=True))
    for facet in job.facets if len(job.facets) > 1 else ():
        edge = shapely.intersection(facet.polygon.exterior, job.area.buffer(-0.05))
        for line in shapely.get_parts(edge):
            add(root, "path", class_="ridge", d=path([scale.to_sheet(p) for p in line.coords]))
    for feature in job.features:
        points = [scale.to_sheet(p) for p in feature.points]
        if feature.kind == "kerb":
            add(root, "path", class_="kerb", d=path(points))
        elif feature.kind == "drain":
            add(root, "path", class_="drain-bed", d=path(points))
            add(root, "path", class_="drain", d=path(points))
        elif feature.kind == "free edge":
            add(root, "path", class_="free-edge", d=path(points))
    _names(root, assessment, scale)


def _names(root: Element, assessment: Assessment, scale: Scale) -> None:
    """What each feature is called: in the middle of a shape, beside a line where stations leave most room."""
    taken = np.array(_taken(assessment, scale))
    for feature in assessment.job.features:
        points = [scale.to_sheet(p) for p in feature.points]
        if not feature.name:
            continue
        if feature.kind in ("building", "water"):
            shape = shapely.Polygon(points)
            middle = np.array([shape.centroid.x, shape.centroid.y])
            spots = middle + np.array([(0, 0), (0, 26), (0, -26), (0, 52), (0, -52)])
            spots = spots[shapely.contains_xy(shape.buffer(-8), spots)] if shape.area > 4000 else spots[:1]
            spots = spots + (0, 5) if len(spots) else middle[None, :]
        else:
            along = shapely.LineString(points).interpolate(np.linspace(0.08, 0.92, 22), normalized=True)
            spots = np.concatenate([shapely.get_coordinates(along) + (0, side) for side in (24.0, -12.0)])
        room = np.minimum(np.hypot(*(spots[:, None] - (0, 5) - taken).T).min(axis=0), 60)
        x, y = spots[int(room.argmax())]
        add(
            root,
            "text",
            feature.name,
            x=float(x),
            y=float(y),
            class_=f"place at-{feature.kind.replace(' ', '-')}",
        )


def _taken(assessment: Assessment, scale: Scale) -> list[tuple[float, float]]:
    """Where stations, their names and amounts stand on the sheet, and the marks."""
    stations = [scale.to_sheet(s.at) for s in assessment.stations]
    marks = [scale.to_sheet(m.at) for m in assessment.job.marks]
    names_and_amounts = [(x + right, y + down) for x, y in stations for right, down in ((-22, -20), (32, 12))]
    return [*stations, *names_and_amounts, *marks, *((x + 40, y) for x, y in marks)]


def _water(root: Element, points: list[tuple[float, float]]) -> None:
    """Ripples over the water's box."""
    (left, top), (right, bottom) = np.min(points, axis=0), np.max(points, axis=0)
    waves = ""
    y = top + 6
    while y < bottom:
        waves += f"M{left:.0f} {y:.0f}" + "q8 -5 16 0t16 0" * max(1, int((right - left) // 32))
        y += 11
    add(root, "path", class_="water", d=waves)


def _fall(root: Element, facet: Facet, assessment: Assessment, scale: Scale) -> None:
    """An arrow down the facet's fall."""
    place = _roomiest(facet, assessment.job.outline, tuple(_taken(assessment, scale)), scale)
    if place is None:
        return
    fall, bearing = facet.steepest
    arrow = add(root, "g", class_="fall", transform=f"translate({place[0]:.1f} {place[1]:.1f})")
    add(arrow, "path", d="M0 14V-14M-5 -7L0 -15L5 -7", transform=f"rotate({bearing:.1f})")
    sideways = abs(math.sin(math.radians(bearing))) >= 0.7
    add(arrow, "text", format_fall(fall), x=20 if sideways else 11, y=5)


@lru_cache(maxsize=512)
def _roomiest(facet: Facet, outline: tuple[Point, ...], taken: tuple[Point, ...], scale: Scale) -> Point | None:
    """The place on the sheet, within the facet, where an arrow and its label are furthest from what is taken and
    from the edge."""
    ground = shapely.transform(
        shapely.intersection(facet.polygon, shapely.Polygon(outline)),
        lambda places: np.array([scale.to_sheet((x, y)) for x, y in places]),
    )
    west, south, east, north = ground.bounds
    grid = np.stack(np.meshgrid(np.linspace(west, east, 25), np.linspace(south, north, 25)), axis=-1).reshape(-1, 2)
    label_end, label_middle = grid + (56, 0), grid + (34, 0)
    fits = shapely.contains_xy(ground, grid) & shapely.contains_xy(ground, label_end)
    if not fits.any():
        return None
    grid, label_end, label_middle = grid[fits], label_end[fits], label_middle[fits]
    others, edge = np.array(taken), ground.boundary
    room = np.minimum.reduce(
        [
            np.hypot(*(grid[:, None] - others).T).min(axis=0),
            np.hypot(*(label_middle[:, None] - others).T).min(axis=0),
            1.6 * shapely.distance(edge, shapely.points(grid)),
            1.6 * shapely.distance(edge, shapely.points(label_end)),
        ]
    )
    x, y = grid[int(room.argmax())]
    return float(x), float(y)


def _instrument_and_marks(root: Element, assessment: Assessment, scale: Scale, unit: Unit) -> None:
    for mark in assessment.job.marks:
        x, y = scale.to_sheet(mark.at)
        group = add(root, "g", class_="mark-point", transform=f"translate({x:.1f} {y:.1f})")
        add(group, "path", d="M0 -9L9 0L0 9L-9 0Z")
        anchor = "end" if x > WIDTH * 0.72 else "start"
        side = -13 if anchor == "end" else 13
        add(group, "text", mark.name, x=side, y=-4, text_anchor=anchor)
        add(group, "text", format_level(mark.level, unit), x=side, y=11, text_anchor=anchor, class_="level")
    set_up = assessment.set_up
    if set_up and set_up.at:
        x, y = scale.to_sheet(set_up.at)
        group = add(root, "g", class_="instrument", transform=f"translate({x:.1f} {y:.1f})")
        add(group, "path", d="M0 -3L-9 14M0 -3L9 14M0 -3V14M-10 -9H10V-3H-10Z")
        height = format_level(assessment.instrument_height(set_up), unit)
        add(group, "text", _("level here"), y=30, text_anchor="middle")
        add(group, "text", _("HI {level}").format(level=height), y=45, text_anchor="middle", class_="level")


def _symbol(standing: Standing) -> str:
    return f"mark-{standing.name.lower().replace('_', '-')}"


def _symbols(root: Element, assessment: Assessment) -> None:
    """The marks this plan uses, each drawn once."""
    defs = add(root, "defs")
    for standing in {answer.judgement.standing for answer in assessment.ground.values()}:
        glyph(defs, standing).set("id", _symbol(standing))


def _stations(
    root: Element,
    assessment: Assessment,
    scale: Scale,
    unit: Unit,
    word: Callable[[StationAnswer], str],
) -> None:
    apart = assessment.job.station_spacing * scale.per_metre
    reach = max(9.0, min(26.0, apart * 0.45))
    group = add(root, "g", class_="stations dense" if apart < CLOSE_TOGETHER else "stations")
    for name, answer in assessment.ground.items():
        x, y = scale.to_sheet(answer.station.at)
        link = add(group, "a", href=f"?station={name}", hx_get=f"?station={name}", tabindex=-1)
        link.set("transform", f"translate({x:.1f} {y:.1f})")
        standing = answer.judgement.standing
        amount = format_amount(answer.judgement.deviation or 0.0, unit) if standing in WITH_AMOUNT else ""
        link.set("aria-label", f"{name} {amount}, {word(answer)}" if amount else f"{name}, {word(answer)}")
        quiet = standing in (Standing.UNSHOT, Standing.GOOD)
        link.set("class", "station" + (" quiet" if quiet else ""))
        add(link, "circle", class_="reach", r=reach)
        add(link, "use", href=f"#{_symbol(standing)}", class_=f"v-{CSS[standing]}")
        add(link, "text", name, x=-9, y=-15, class_="name").tail = " "
        if amount:
            add(link, "text", amount, x=13, y=17, class_=f"amount v-{CSS[standing]}")


def _scale_bar(root: Element, scale: Scale, height: float, unit: Unit) -> None:
    length, label = (5.0, "5 m") if unit.is_metric else (6.096, "20′")
    if length * scale.per_metre > 300:
        length, label = (2.0, "2 m") if unit.is_metric else (3.048, "10′")
    right = MARGIN + length * scale.per_metre
    bar = add(root, "g", class_="scale-bar", transform=f"translate(0 {height - 14:.0f})")
    add(bar, "path", d=f"M{MARGIN:.0f} -5V0H{right:.1f}V-5")
    add(bar, "text", label, x=right + 8, y=1)
