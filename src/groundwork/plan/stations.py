"""Where to shoot: a grid over the area and its corners, with names to call out and an order to walk."""

import math
from dataclasses import dataclass
from functools import lru_cache

import shapely
from shapely import affinity

from groundwork.measures import Said
from groundwork.surfaces import Point

ROW_LETTERS = "ABCDEFGHJKLMNPQRSTUVW"
CORNER_LETTER, CURVE_LETTER = "X", "Y"
MOST_STATIONS = 6000


@dataclass(frozen=True)
class Station:
    """A named place to hold the rod. Corners are X1, X2 …, places along curves Y1, Y2 …; the grid's rows are
    lettered, its columns numbered."""

    name: str
    at: Point

    @property
    def is_corner(self) -> bool:
        return self.name.startswith(CORNER_LETTER)


@lru_cache(maxsize=256)
def lay(
    area: shapely.Polygon, spacing: float, turns: tuple[Point, ...] = (), curves: tuple[Point, ...] = ()
) -> tuple[Station, ...]:
    """Stations over `area`, none further than `spacing` from the next, in walking order; its corners are where its
    outline `turns`, where that is given, and further places along its `curves`.

    The grid lies along the longest side; rows are walked to and fro, corners on the way. Letters that sound
    or look like another or like a figure (I, O), X and Y name no row. Raises `ValueError` where the spacing would
    give more than `MOST_STATIONS`.
    """
    ends = list(turns) or [(x, y) for x, y in area.exterior.coords[:-1]]
    turn = _lie_of(ends)
    turned = affinity.rotate(area, -turn, origin=(0, 0))
    left, bottom, right, top = turned.bounds
    columns = max(1, math.ceil((right - left) / spacing - 1e-9))
    rows = max(1, math.ceil((top - bottom) / spacing - 1e-9))
    if columns * rows > MOST_STATIONS:
        raise Said(
            "a spacing of {spacing} gives more than {most} stations",
            distances={"spacing": spacing},
            most=MOST_STATIONS,
        )
    across, up = (right - left) / columns, (top - bottom) / rows
    corners = list(affinity.rotate(shapely.MultiPoint(ends), -turn, origin=(0, 0)).geoms)
    rounds = list(affinity.rotate(shapely.MultiPoint(curves), -turn, origin=(0, 0)).geoms) if curves else []
    walk: list[tuple[int, float, str, shapely.Point]] = []
    for letter, edge in ((CORNER_LETTER, corners), (CURVE_LETTER, rounds)):
        for number, corner in enumerate(edge, start=1):
            row = min(rows - 1, max(0, int((corner.y - bottom) / up)))
            walk.append((row, corner.x, f"{letter}{number}", corner))
    shapely.prepare(turned)
    for row in range(rows):
        for column in range(columns):
            place = shapely.Point(left + (column + 0.5) * across, bottom + (row + 0.5) * up)
            if turned.covers(place) and all(place.distance(c) > 0.2 * spacing for c in (*corners, *rounds)):
                walk.append((row, place.x, f"{_letters(row)}{column + 1}", place))
    walk.sort(key=lambda stop: (stop[0], stop[1] if stop[0] % 2 == 0 else -stop[1]))
    places = affinity.rotate(shapely.MultiPoint([stop[3] for stop in walk]), turn, origin=(0, 0))
    return tuple(
        Station(name, (round(at.x, 4), round(at.y, 4)))
        for (_, _, name, _), at in zip(walk, places.geoms, strict=True)
    )


def neighbour(stations: tuple[Station, ...], name: str, direction: tuple[int, int]) -> str:
    """The nearest station from `name` towards `direction` (east, north), or `name` itself at the edge."""
    here = next(station for station in stations if station.name == name)
    best, best_cost = name, math.inf
    for other in stations:
        east, north = other.at[0] - here.at[0], other.at[1] - here.at[1]
        ahead = east * direction[0] + north * direction[1]
        aside = abs(east * direction[1]) + abs(north * direction[0])
        cost = ahead + 2 * aside
        if ahead > 1e-6 and aside <= ahead * 2 and cost < best_cost:
            best, best_cost = other.name, cost
    return best


def _lie_of(outline: list[Point]) -> float:
    """The longest side's direction, degrees from the plan's east, between −45 and 45."""
    sides = [(b[0] - a[0], b[1] - a[1]) for a, b in zip(outline, [*outline[1:], outline[0]], strict=True)]
    east, north = max(sides, key=lambda side: math.hypot(*side))
    return (math.degrees(math.atan2(north, east)) + 45) % 90 - 45


def _letters(row: int) -> str:
    group, place = divmod(row, len(ROW_LETTERS))
    return (ROW_LETTERS[group - 1] if group else "") + ROW_LETTERS[place]
