"""The outline of the paved area, as people give it: corners by coordinates, or sides with the angles between them."""

import math
import re
from collections.abc import Callable, Sequence

import shapely

from groundwork.measures import MeasureError, Said, Unit, parse_length
from groundwork.surfaces import Point

SMALLEST, LARGEST = 0.5, 100_000.0
MOST_CORNERS = 500
LONGEST_PLACE, LONGEST_LINE, LONGEST_PLACES = 80, 120, 2000
"""Characters of a place, of a line with a corner or a side, of places apart by semicolons."""
FARTHEST = 1e7
SAME_CORNER = 2e-5
CLOSURE = 0.020
"""Sides and angles that miss their beginning by no more than this are closed by spreading it (common practice)."""


class OutlineError(Said):
    """An outline that cannot be paved; the message says where and what would be right."""


def checked(points: Sequence[Point]) -> tuple[Point, ...]:
    """The outline with repeated corners left out, counter-clockwise. Raises `OutlineError` for what is no plain
    shape between 0.5 and 100 000 m²."""
    if any(not math.isfinite(x) or abs(x) > FARTHEST for point in points for x in point):
        raise OutlineError(
            "a corner lies further out than {most}, or has no finite place", distances={"most": FARTHEST}
        )
    ring: list[Point] = []
    for point in points:
        if not ring or math.dist(point, ring[-1]) > SAME_CORNER:
            ring.append((round(float(point[0]), 6) + 0.0, round(float(point[1]), 6) + 0.0))
    if len(ring) > 1 and math.dist(ring[0], ring[-1]) <= SAME_CORNER:
        ring.pop()
    if len(ring) < 3:
        raise OutlineError("an area has at least three corners that lie apart")
    if len(ring) > MOST_CORNERS:
        raise OutlineError("more than {most} corners: {number}", most=MOST_CORNERS, number=len(ring))
    polygon = shapely.Polygon(ring)
    if not polygon.is_valid:
        raise OutlineError("the outline crosses or touches itself: {where}", where=at_fault(polygon))
    if not SMALLEST <= polygon.area <= LARGEST:
        raise OutlineError(
            "{area} is no paved area: between {least} and {most}",
            areas={"area": polygon.area, "least": SMALLEST, "most": LARGEST},
        )
    return tuple(ring if polygon.exterior.is_ccw else [ring[0], *ring[:0:-1]])


def at_fault(polygon: shapely.Polygon) -> str:
    """Where a polygon crosses or touches itself, or why it is none."""
    reason = shapely.is_valid_reason(polygon)
    found = re.search(r"\[(\S+) (\S+)\]", reason)
    return f"at {float(found[1]):.3f}, {float(found[2]):.3f}" if found else reason


def corners_as_typed(points: Sequence[Point]) -> tuple[Point, ...]:
    """The corners as they are: for an area that is more than its corners."""
    return tuple((float(x), float(y)) for x, y in points)


def from_coordinates(
    text: str, unit: Unit, make: Callable[[Sequence[Point]], tuple[Point, ...]] = checked
) -> tuple[Point, ...]:
    """Corners typed one a line, east then north, apart by comma, semicolon or space. Raises `OutlineError` with
    the line that is wrong."""
    points = []
    for number, line in _lines(text):
        east, north = _pair(line, number, "east and north, like “12.6 6.4”")
        points.append((_length(east, unit, number), _length(north, unit, number)))
    return make(points)


def from_sides(
    text: str, unit: Unit, make: Callable[[Sequence[Point]], tuple[Point, ...]] = checked
) -> tuple[Point, ...]:
    """Sides typed one a line, each with the angle inside at its end in degrees (90 where it is left out), going
    round counter-clockwise from 0, 0 to the east.

    The last side may be left out: it then closes the area. Given whole, a misclosure of at most 20 mm is
    spread over the corners. Raises `OutlineError`.
    """
    sides, angles = [], []
    for number, line in _lines(text):
        parts = values_in(line)
        if len(parts) not in (1, 2):
            raise OutlineError(
                "line {number}: “{text}” is not a side and an angle, like “12.6 90”", number=number, text=line[:24]
            )
        side = _length(parts[0], unit, number)
        if side <= 0:
            raise OutlineError("line {number}: a side is longer than 0", number=number)
        angle = 90.0
        if len(parts) == 2:
            typed = parts[1].rstrip("°")
            if not re.fullmatch(r"\d{1,3}([.,]\d+)?", typed):
                raise OutlineError(
                    "line {number}: “{text}” is no angle in degrees", number=number, text=parts[1][:12]
                )
            angle = float(typed.replace(",", "."))
        if not 1 <= angle <= 359:
            raise OutlineError("line {number}: the angle inside lies between 1 and 359 degrees", number=number)
        sides.append(side)
        angles.append(angle)
    if len(sides) < 2:
        raise OutlineError("an area has at least three sides; the last may be left out")
    places, bearing = [(0.0, 0.0)], 0.0
    for side, angle in zip(sides, angles, strict=True):
        east, north = places[-1]
        places.append((east + side * math.cos(math.radians(bearing)), north + side * math.sin(math.radians(bearing))))
        bearing += 180 - angle
    miss = math.dist(places[0], places[-1])
    corners = len(sides) if miss < 0.3 * min(sides) and len(sides) > 2 else 0
    if not corners:
        return make(places)
    if miss > CLOSURE:
        raise OutlineError(
            "the sides miss their beginning by {miss}: at most {spread} can be spread. "
            "Check a side or an angle, or leave out the last side",
            lengths={"miss": miss, "spread": CLOSURE},
        )
    away = places[-1]
    return make([(x - away[0] * n / corners, y - away[1] * n / corners) for n, (x, y) in enumerate(places[:-1])])


def place(text: str, outline: Sequence[Point], unit: Unit, middle: Callable[[int], Point] | None = None) -> Point:
    """A place as people say it: `X2` the second corner, `side 3` the middle of the third side, `3.2 10.8` east and
    north. `middle` says where a side's middle is, by its number from 0, where sides may curve. Raises
    `MeasureError`."""
    if len(text) > LONGEST_PLACE:
        raise MeasureError("“{text}…” is too long to be a place: a corner like X2, or east and north", text=text[:24])
    plain = text.strip()
    if corner := re.fullmatch(r"[xX]\s*(\d+)", plain):
        return outline[_counted(corner[1], outline, "corner")]
    if side := re.fullmatch(r"(?i)side\s*(\d+)", plain):
        start = _counted(side[1], outline, "side")
        if middle:
            return middle(start)
        (x1, y1), (x2, y2) = outline[start], outline[(start + 1) % len(outline)]
        return (x1 + x2) / 2, (y1 + y2) / 2
    parts = values_in(plain)
    if len(parts) != 2:
        raise MeasureError(
            "“{text}” is no place: a corner like X2, side 3, or east and north like 3.2 10.8", text=plain[:24]
        )
    east, north = (parse_length(part, unit.for_plans).metres for part in parts)
    return east, north


def line(
    text: str, outline: Sequence[Point], unit: Unit, middle: Callable[[int], Point] | None = None
) -> tuple[Point, ...]:
    """Places apart by semicolons, as a line; `middle` as for a `place`. Raises `MeasureError`."""
    if len(text) > LONGEST_PLACES:
        raise MeasureError("too long: at most {most} characters", most=LONGEST_PLACES)
    parts = [part for part in text.split(";") if part.strip()]
    if not parts:
        raise MeasureError("no place given: corners like X2, side 3, or east and north like 3.2 10.8")
    return tuple(place(part, outline, unit, middle) for part in parts)


def _counted(number: str, outline: Sequence[Point], what: str) -> int:
    if not 1 <= int(number) <= len(outline):
        raise MeasureError(
            "there is no {what} {number}: they are 1 to {last}", what=what, number=number, last=len(outline)
        )
    return int(number) - 1


def _lines(text: str) -> list[tuple[int, str]]:
    if len(text) > 40 * MOST_CORNERS:
        raise OutlineError("too long: at most {most} corners", most=MOST_CORNERS)
    lines = [(n, line.strip()) for n, line in enumerate(text.splitlines(), start=1)]
    found = [(n, line) for n, line in lines if line]
    if not found:
        raise OutlineError("nothing typed: one corner or side a line")
    if len(found) > MOST_CORNERS:
        raise OutlineError("more than {most} corners: {number}", most=MOST_CORNERS, number=len(found))
    if long := next((n for n, line in found if len(line) > LONGEST_LINE), 0):
        raise OutlineError("line {long} is too long for a corner or a side", long=long)
    return found


_VALUE = re.compile(
    r"""[+-]?\d+\s*['′]\s*(?:\d+(?:[\s-]+\d+/\d+)?|\d+/\d+)\s*["″]|[+-]?[\d.,/]+\s*(?:mm\b|cm\b|m\b|['′"″°])?"""
)


def values_in(line: str) -> list[str]:
    """A line's values: apart by semicolon, tab or comma with a space, or else by what ends a number."""
    parts = [part.strip() for part in re.split(r"[;\t]|,\s+", line.strip()) if part.strip()]
    if len(parts) == 1:
        values = [value.strip() for value in _VALUE.findall(line)]
        parts = values if not _VALUE.sub("", line).strip() else line.split()
    if len(parts) == 1 and line.count(",") == 1:
        parts = [part.strip() for part in line.split(",")]
    return parts


def _pair(line: str, number: int, like: str) -> tuple[str, str]:
    parts = values_in(line)
    if len(parts) != 2:
        raise OutlineError("line {number}: “{text}” is not {like}", number=number, text=line[:24], like=like)
    return parts[0], parts[1]


def _length(text: str, unit: Unit, number: int) -> float:
    try:
        return parse_length(text, unit.for_plans).metres
    except MeasureError as error:
        raise OutlineError("line {number}: {error}", number=number, error=error) from error
