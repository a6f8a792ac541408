"""What every plan shows: the area, what stands along it, the falls, and a bar for the scale."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from django.utils.translation import gettext_lazy

from groundwork.job import Job
from groundwork.measures import Unit, format_fall
from groundwork.plan import Feature
from groundwork.shape import Island
from groundwork.surfaces import Facet, Point
from nivelum.drawing.pen import Element, add, path

WIDTH, HEIGHT, MARGIN = 760.0, 600.0, 34.0
GULLY = 6.0
"""Half of what a gully is drawn wide."""
Taken = tuple[Point, ...]
"""Places on the sheet where something stands already."""


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


def fitted(places: Iterable[Point]) -> tuple[Scale, float, float]:
    """The scale that fits `places` on a sheet, and the sheet's width and height."""
    (west, south), (east, north) = np.min(list(places), axis=0), np.max(list(places), axis=0)
    per_metre = min((WIDTH - 2 * MARGIN) / (east - west), (HEIGHT - 2 * MARGIN) / (north - south))
    width, height = (east - west) * per_metre + 2 * MARGIN, (north - south) * per_metre + 2 * MARGIN + 24
    return Scale(float(west), float(north), float(per_metre)), float(width), float(height)


def places_of(job: Job) -> list[Point]:
    """Everything of a job that has a place on its plan."""
    return [*job.edge, *(p for f in job.features for p in f.points), *(m.at for m in job.marks)]


def area_path(job: Job, scale: Scale) -> str:
    """The paved area with what in it is not paved."""
    rings = [job.edge, *([(x, y) for x, y in ring.coords[:-1]] for ring in job.area.interiors)]
    return "".join(path([scale.to_sheet(p) for p in ring], closed=True) for ring in rings)


def placed_on_the_ground(root: Element, scale: Scale) -> None:
    """Tells the page's script where on the ground a place on the sheet is."""
    root.set("data-west", f"{scale.west - MARGIN / scale.per_metre:.4f}")
    root.set("data-north", f"{scale.north + MARGIN / scale.per_metre:.4f}")
    root.set("data-per-metre", f"{scale.per_metre:.4f}")


def surroundings(root: Element, job: Job, scale: Scale, taken: Taken) -> None:
    """The area and what stands along it, with its names where `taken` places leave room."""
    for feature in job.features:
        points = [scale.to_sheet(p) for p in feature.points]
        if feature.kind == "building":
            add(root, "path", class_="building", d=path(points, closed=True))
        elif feature.kind == "water":
            _water(root, points)
    add(root, "path", class_="area", d=area_path(job, scale), fill_rule="evenodd")
    for facet in job.facets if len(job.facets) > 1 else ():
        edge = shapely.intersection(facet.polygon.exterior, job.area.buffer(-0.05))
        for line in shapely.get_parts(edge):
            add(root, "path", class_="ridge", d=path([scale.to_sheet(p) for p in line.coords]))
    for feature in job.features:
        points = _drawn(feature, scale)
        if feature.kind == "kerb":
            add(root, "path", class_="kerb", d=path(points))
        elif feature.kind == "drain":
            add(root, "path", class_="drain-bed", d=path(points))
            add(root, "path", class_="drain", d=path(points))
        elif feature.kind == "free edge":
            add(root, "path", class_="free-edge", d=path(points))
    _names(root, job, scale, taken)
    island_names(root, job.islands, scale)


def _drawn(feature: Feature, scale: Scale) -> list[tuple[float, float]]:
    """A feature's places on the sheet; one place alone, a gully, as a short stroke."""
    points = [scale.to_sheet(p) for p in feature.points]
    (x, y), *others = points
    return points if others else [(x - GULLY, y), (x + GULLY, y)]


def _names(root: Element, job: Job, scale: Scale, taken: Taken) -> None:
    """What each feature is called: in the middle of a shape, beside a line where stations leave most room."""
    places = np.array(taken)
    for feature in job.features:
        points = _drawn(feature, scale)
        if not feature.name:
            continue
        if feature.kind in ("building", "water") and len(points) > 2:
            shape = shapely.Polygon(points)
            middle = np.array([shape.centroid.x, shape.centroid.y])
            spots = middle + np.array([(0, 0), (0, 26), (0, -26), (0, 52), (0, -52)])
            spots = spots[shapely.contains_xy(shape.buffer(-8), spots)] if shape.area > 4000 else spots[:1]
            spots = spots + (0, 5) if len(spots) else middle[None, :]
        else:
            along = shapely.LineString(points).interpolate(np.linspace(0.08, 0.92, 22), normalized=True)
            spots = np.concatenate([shapely.get_coordinates(along) + (0, side) for side in (24.0, -12.0)])
        room = np.minimum(np.hypot(*(spots[:, None] - (0, 5) - places).T).min(axis=0), 60)
        x, y = spots[int(room.argmax())]
        # The next name keeps clear of this one, to either side as well.
        places = np.vstack([places, [(x - 40, y - 5), (x, y - 5), (x + 40, y - 5)]])
        add(
            root,
            "text",
            feature.name,
            x=float(x),
            y=float(y),
            class_=f"place at-{feature.kind.replace(' ', '-')}",
        )


ISLAND_WORDS = {
    "manhole": gettext_lazy("manhole"), "gully": gettext_lazy("gully"), "tree pit": gettext_lazy("tree pit"),
    "column": gettext_lazy("column"), "pond": gettext_lazy("pond"), "step": gettext_lazy("step"),
}  # fmt: skip


def island_names(root: Element, islands: Sequence[Island], scale: Scale) -> None:
    """What each thing in the area is called, in the middle of it."""
    for island in islands:
        middle = island.ring.polygon.representative_point()
        x, y = scale.to_sheet((middle.x, middle.y))
        add(
            root,
            "text",
            island.name or str(ISLAND_WORDS[island.kind]),
            x=x,
            y=y + 5,
            class_="place",
            text_anchor="middle",
        )


def _water(root: Element, points: list[tuple[float, float]]) -> None:
    """Ripples over the water's box."""
    (left, top), (right, bottom) = np.min(points, axis=0), np.max(points, axis=0)
    waves = ""
    y = top + 6
    while y < bottom:
        waves += f"M{left:.0f} {y:.0f}" + "q8 -5 16 0t16 0" * max(1, int((right - left) // 32))
        y += 11
    add(root, "path", class_="water", d=waves)


def fall(root: Element, facet: Facet, job: Job, scale: Scale, taken: Taken) -> None:
    """An arrow down the facet's fall."""
    place = _roomiest(facet, job.outline, taken, scale)
    if place is None:
        return
    steepest, bearing = facet.steepest
    arrow = add(root, "g", class_="fall", transform=f"translate({place[0]:.1f} {place[1]:.1f})")
    add(arrow, "path", d="M0 14V-14M-5 -7L0 -15L5 -7", transform=f"rotate({bearing:.1f})")
    sideways = abs(math.sin(math.radians(bearing))) >= 0.7
    add(arrow, "text", format_fall(steepest), x=20 if sideways else 11, y=5)


@lru_cache(maxsize=512)
def _roomiest(facet: Facet, outline: tuple[Point, ...], taken: Taken, scale: Scale) -> Point | None:
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


def scale_bar(root: Element, scale: Scale, height: float, unit: Unit) -> None:
    length, label = (5.0, "5 m") if unit.is_metric else (6.096, "20′")
    if length * scale.per_metre > 300:
        length, label = (2.0, "2 m") if unit.is_metric else (3.048, "10′")
    right = MARGIN + length * scale.per_metre
    bar = add(root, "g", class_="scale-bar", transform=f"translate(0 {height - 14:.0f})")
    add(bar, "path", d=f"M{MARGIN:.0f} -5V0H{right:.1f}V-5")
    add(bar, "text", label, x=right + 8, y=1)
