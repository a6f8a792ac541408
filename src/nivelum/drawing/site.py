"""The plan of a job as it is designed: corners and sides by name, fixed heights, facets with their levels."""

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import shapely
from django.utils.safestring import SafeString
from django.utils.translation import get_language
from django.utils.translation import gettext as _
from shapely.geometry.base import BaseGeometry

from groundwork.base import BaseSpecification, Layer, Role
from groundwork.brief import FixedHeight, HeightKind
from groundwork.job import Job
from groundwork.measures import Unit, format_level
from groundwork.plan import Feature
from groundwork.shape import SAGITTA, Island, Ring, corners_text
from groundwork.soundness import MOST_STANDING, Case, designed_standing
from groundwork.surfaces import Point
from nivelum.drawing.pen import Element, add, finished, path, sheet
from nivelum.drawing.surroundings import (
    MARGIN,
    Scale,
    Taken,
    fall,
    fitted,
    island_names,
    placed_on_the_ground,
    places_of,
    scale_bar,
    surroundings,
)
from nivelum.drawing.water import number_of, outline_of

HEIGHT_MARKS = {
    HeightKind.THRESHOLD: "M-11 5H11M-11 5V-5H2",
    HeightKind.DAMP_PROOF_COURSE: "M-12 0H12M-12 -5H-4M4 -5H12M-4 5H4",
    HeightKind.DRAIN: "M-9 -7H9L5 7H-5ZM-3 -7V7M3 -7V7",
    HeightKind.BOUNDARY: "M0 -10V10M-7 10H7M-7 -4L0 -10L7 -4",
}


ANY_BASE = BaseSpecification("dense", (Layer(Role.PAVING, "concrete-block", 0.08),))
"""What lies under it does not show on a plan."""


@dataclass(frozen=True)
class SiteLayers:
    """What a site plan shows beside the area: levels at facet corners, names of corners and sides, a cut, a point,
    and the water that would stand on it."""

    levels: bool = False
    names: bool = False
    cut: tuple[Point, Point] | None = None
    point: Point | None = None
    pools: bool = False


def site_plan(job: Job, unit: Unit, shown: SiteLayers) -> SafeString:
    """The plan of what is designed, to scale; drawn once as long as nothing on it changes."""
    site = replace(job, specification=ANY_BASE, entries=(), sign_offs=(), acceptances=(), version=0)
    return _site_plan(site, unit, replace(shown, pools=not Case(job).soaks), get_language())


@lru_cache(maxsize=64)
def _site_plan(job: Job, unit: Unit, shown: SiteLayers, language: str | None) -> SafeString:
    places = [*places_of(job), *(h.at for h in job.heights), *(shown.cut or ())]
    scale, width, height = fitted(places)
    root = sheet(width, height, _("Plan of {job}").format(job=job.name), "plan site")
    placed_on_the_ground(root, scale)
    corners = [scale.to_sheet(p) for p in job.outline]
    drains = [scale.to_sheet(p) for f in job.ways_out if f.kind == "drain" for p in {f.points[0], f.points[-1]}]
    snaps = [(f"X{n}", *at) for n, at in enumerate(corners, start=1)] + [("", *at) for at in drains]
    root.set("data-snaps", json.dumps([(name, round(x, 1), round(y, 1)) for name, x, y in snaps]))
    labels = _labels(job, scale, width)
    middles = ((x + side * (15 + length / 2), y + down) for _height, (x, y), length, side, down in labels)
    taken: Taken = (*corners, *middles, *(scale.to_sheet(m.at) for m in job.marks))
    surroundings(root, job, scale, taken)
    if shown.pools:
        _pools(root, job, scale, unit)
    for facet in job.facets:
        fall(root, facet, job, scale, taken)
    if shown.levels:
        _levels(root, job, scale, unit)
    if shown.names:
        _names(root, job.outline, scale, sides=False)
    _heights(root, labels, unit)
    if shown.cut:
        _cut(root, shown.cut, scale)
    if shown.point:
        x, y = scale.to_sheet(shown.point)
        add(root, "path", class_="point", d="M0 -9V9M-9 0H9", transform=f"translate({x:.1f} {y:.1f})")
    scale_bar(root, scale, height, unit)
    return finished(root)


def _pools(root: Element, job: Job, scale: Scale, unit: Unit) -> None:
    """Water that would stand on the surface as it is designed."""
    standing = designed_standing(job)
    deep = [p for p in standing.puddles if p.depth > MOST_STANDING] if standing and not standing.trapped else []
    if standing is None or not deep:
        return
    for number, puddle in enumerate(deep):
        pool = standing.pool(number)
        add(root, "path", class_="pool", d=outline_of(pool, scale))
        number_of(root, number + 1, puddle, pool, scale, unit)


def outline_plan(ring: Ring, islands: Sequence[Island], features: Sequence[Feature], unit: Unit) -> SafeString:
    """An area before it is a job: its corners can be dragged, its sides are numbered."""
    places = [*ring.flat, *(p for f in features for p in f.points)]
    scale, width, height = fitted(places)
    root = sheet(width, height, _("Plan of the area"), "plan site")
    placed_on_the_ground(root, scale)
    for feature in features:
        points = [scale.to_sheet(p) for p in feature.points]
        css = {"free edge": "free-edge"}.get(feature.kind, feature.kind)
        if len(points) > 1:
            add(root, "path", class_=css, d=path(points, closed=feature.kind == "building"))
        else:
            add(root, "circle", class_=css, cx=points[0][0], cy=points[0][1], r=5)
    rings = [ring.flat, *(island.ring.flat for island in islands)]
    d = "".join(path([scale.to_sheet(p) for p in each], closed=True) for each in rings)
    add(root, "path", class_="area", d=d, fill_rule="evenodd")
    _names(root, ring.corners, scale)
    island_names(root, islands, scale)
    _corners(root, ring, scale, unit)
    scale_bar(root, scale, height, unit)
    return finished(root)


def _names(root: Element, outline: Sequence[Point], scale: Scale, sides: bool = True) -> None:
    """Corners X1, X2 … outside the area, sides numbered inside it."""
    ring = shapely.Polygon(outline) if len(outline) > 2 else shapely.LineString(outline).buffer(0.01)
    count = len(outline)
    for n, corner in enumerate(outline):
        before, after = outline[n - 1], outline[(n + 1) % count]
        middle = ((before[0] + after[0]) / 2, (before[1] + after[1]) / 2)
        x, y = scale.to_sheet(corner)
        mx, my = scale.to_sheet(middle)
        inside = ring.contains(shapely.Point((corner[0] * 9 + middle[0]) / 10, (corner[1] * 9 + middle[1]) / 10))
        away = -1 if inside else 1
        length = max(1.0, ((mx - x) ** 2 + (my - y) ** 2) ** 0.5)
        clear = 30 if sides else 20  # of the handle a corner is dragged by
        at = x + away * (mx - x) / length * clear, y + away * (my - y) / length * clear + 5
        add(root, "text", f"X{n + 1}", x=at[0], y=at[1], class_="corner")
        sx, sy = scale.to_sheet((0.63 * corner[0] + 0.37 * after[0], 0.63 * corner[1] + 0.37 * after[1]))
        ax, ay = scale.to_sheet(after)
        side = max(1.0, ((ax - x) ** 2 + (ay - y) ** 2) ** 0.5)
        if sides and side > 36:
            add(root, "text", str(n + 1), x=sx + (ay - y) / side * 15, y=sy - (ax - x) / side * 15 + 5, class_="side")


def _corners(root: Element, ring: Ring, scale: Scale, unit: Unit) -> None:
    group = add(root, "g", class_="corners")
    for n, (corner, typed) in enumerate(zip(ring.corners, corners_text(ring, unit).splitlines(), strict=True)):
        x, y = scale.to_sheet(corner)
        circle = add(group, "circle", class_="drag", cx=x, cy=y, r=13, data_corner=n)
        if ring.arc(n):
            circle.set("data-curve", typed[typed.index("rise") :])


def _levels(root: Element, job: Job, scale: Scale, unit: Unit) -> None:
    """The finished level at the corners of facets, once where they agree, and along curves where one shoots."""
    curves, rounds = _on_curves(job), job.ring.along_arcs(job.station_spacing)
    seen: set[tuple[int, int]] = set()
    for facet in job.facets:
        shape = facet.polygon.intersection(job.area)
        there = [at for at in (*rounds, *job.outline) if shape.dwithin(shapely.Point(at), 2 * SAGITTA)]
        for east, north in (*shapely.get_coordinates(shape.boundary).tolist(), *there):
            if (east, north) not in there and curves.dwithin(shapely.Point(east, north), 2 * SAGITTA):
                continue
            x, y = scale.to_sheet((east, north))
            if (round(x / 12), round(y / 12)) in seen:
                continue
            seen.add((round(x / 12), round(y / 12)))
            level = float(facet.level_at(east, north))
            inward = shape.representative_point()
            ix, iy = scale.to_sheet((inward.x, inward.y))
            left = ix > x
            add(root, "text", format_level(level, unit), x=x + (8 if left else -8), y=y + (16 if iy > y else -7),
                text_anchor="start" if left else "end", class_="level corner-level")  # fmt: skip


def _on_curves(job: Job) -> BaseGeometry:
    """The area's curves: of the places that only follow them no level is said."""
    arcs = [side for n, side in enumerate(job.sides) if job.ring.arc(n)]
    holes = zip(job.islands, job.area.interiors, strict=False)
    return shapely.union_all([*arcs, *(hole for island, hole in holes if not island.ring.is_straight)])


Label = tuple[FixedHeight, tuple[float, float], float, int, int]
"""A fixed height, its place on the sheet, its name's length, which side the name stands on, and how far down."""


def _labels(job: Job, scale: Scale, width: float) -> list[Label]:
    """Where the names of fixed heights stand: where no other does already, if there is such a place."""
    labels: list[Label] = []
    boxes: list[tuple[float, float, float, float]] = []
    for height in job.heights:
        x, y = scale.to_sheet(height.at)
        length = 7.4 * len(height.name)
        ways = [(side, down) for down in (0, 34, -34, 68) for side in (1, -1)]
        fits = [way for way in ways if 0 < x + way[0] * (15 + length) < width] or ways[:1]
        side, down = next((way for way in fits if not _meets(_box(x, y, length, *way), boxes)), fits[0])
        boxes.append(_box(x, y, length, side, down))
        labels.append((height, (x, y), length, side, down))
    return labels


def _heights(root: Element, labels: Sequence[Label], unit: Unit) -> None:
    for height, (x, y), _length, side, down in labels:
        group = add(root, "g", class_="height", transform=f"translate({x:.1f} {y:.1f})")
        add(group, "path", d=HEIGHT_MARKS[height.kind])
        anchor = "start" if side > 0 else "end"
        add(group, "text", height.name, x=side * 15, y=down - 4, text_anchor=anchor)
        level = format_level(height.level, unit)
        add(group, "text", level, x=side * 15, y=down + 12, text_anchor=anchor, class_="level")


def _box(x: float, y: float, length: float, side: int, down: int) -> tuple[float, float, float, float]:
    near, far = x + side * 12, x + side * (15 + length)
    return min(near, far), y + down - 18, max(near, far), y + down + 16


def _meets(box: tuple[float, float, float, float], boxes: Sequence[tuple[float, float, float, float]]) -> bool:
    return any(box[0] < o[2] and o[0] < box[2] and box[1] < o[3] and o[1] < box[3] for o in boxes)


def _cut(root: Element, line: tuple[Point, Point], scale: Scale) -> None:
    start, end = map(scale.to_sheet, line)
    group = add(root, "g", class_="cut")
    add(group, "path", d=path([start, end]))
    for name, (x, y) in (("A", start), ("B", end)):
        add(group, "circle", cx=max(MARGIN / 3, x), cy=y, r=10)
        add(group, "text", name, x=max(MARGIN / 3, x), y=y + 5)
