"""Areas and islands as people type them: corners or sides a line, each with the curve of the side that begins there
or that it is: `6 90 rise 0.5`, `12.6 6.4 radius 4`, `0 0 through 3 -1`. A rise or a radius stands out of the area,
and into it with a minus. Sides that are `smooth`, one behind the other, are a line without a kink through their
corners."""

import math
import re
from collections.abc import Sequence

import shapely

from groundwork.measures import FOOT, MeasureError, Unit, parse_length
from groundwork.plan import OutlineError, corners_as_typed, from_coordinates, from_sides, place
from groundwork.shape.ring import FLAT, Ring, bulge_by_radius, bulge_by_rise, bulge_through, circle, smoothed
from groundwork.surfaces import Point

_CURVE = re.compile(r"\b(rise|radius|through|smooth)\b(.*)$", re.IGNORECASE)
_TIMES = re.compile(r"\s*(?:x|×|\bby\b)\s*", re.IGNORECASE)
MOST_TURN = 360
SMOOTH = "smooth"


def typed_area(text: str, unit: Unit, *, sides: bool) -> Ring:
    """The area that sides or corners make, going round to the left. Raises `OutlineError` with the line that is
    wrong."""
    plain, curves = apart(text)
    read = from_sides if sides else from_coordinates
    if not curves:
        return Ring(read(plain, unit))
    corners = read(plain, unit, corners_as_typed)
    out = 1.0 if sides or len(corners) < 3 or shapely.LinearRing(corners).is_ccw else -1.0
    return curved(
        corners, {side: curve for side, curve in curves.items() if side < len(corners)}, unit, out
    ).checked()


Curves = dict[int, tuple[int, str, str]]
"""By side: the number of the line that says so, what the curve is given by, and how much."""


def curved(corners: tuple[Point, ...], curves: Curves, unit: Unit, out: float) -> Ring:
    """Straight sides with their curves. Raises `OutlineError` with the line that is wrong."""
    bulges, is_smooth = [0.0] * len(corners), []
    for side, (number, kind, said) in curves.items():
        try:
            if kind == SMOOTH:
                is_smooth.append(side)
            else:
                bulges[side] = curve_of(kind, said, *Ring(corners).ends(side), unit, out)
        except (MeasureError, OutlineError) as error:
            raise OutlineError("line {number}: {error}", number=number, error=error) from error
    ring = Ring(corners, tuple(bulges) if any(bulges) else ())
    return smoothed(ring, is_smooth) if is_smooth else ring


def apart(text: str) -> tuple[str, Curves]:
    """A text without its curves, and those by the side that begins there or that it is."""
    plain: list[str] = []
    curves: Curves = {}
    for number, line in enumerate(text.splitlines(), start=1):
        if found := _CURVE.search(line):
            curves[sum(bool(each.strip()) for each in plain)] = number, found[1].lower(), found[2].strip()
        plain.append(line[: found.start()].rstrip(" ;,\t") if found else line)
    return "\n".join(plain), curves


def curve_of(kind: str, said: str, start: Point, end: Point, unit: Unit, out: float) -> float:
    chord = math.dist(start, end)
    if kind == "through":
        try:
            return bulge_through(start, place(said, (start, end), unit), end)
        except OutlineError:
            raise
        except MeasureError as error:
            raise OutlineError("through wants a place, like “through 3.2 1.1”") from error
    long_way = kind == "radius" and said.lower().endswith("long")
    amount = said[: -len("long")].strip() if long_way else said
    if not amount:
        raise OutlineError("{kind} wants a length, like “{kind} 0.5”", kind=kind)
    length = parse_length(amount, unit.for_plans).metres
    if kind == "rise":
        return out * bulge_by_rise(chord, length)
    if length == 0:
        raise OutlineError("a radius is more than nothing")
    return out * bulge_by_radius(chord, length, long_way=long_way)


def corners_text(ring: Ring, unit: Unit) -> str:
    """What `typed_area` reads again to a tenth of a millimetre."""
    lines = []
    for side, corner in enumerate(ring.corners):
        line = " ".join(exactly(metres, unit) for metres in corner)
        if abs(bulge := ring.curves[side]) >= FLAT:
            line += f" rise {exactly(bulge * math.dist(*ring.ends(side)) / 2, unit)}"
        lines.append(line)
    return "\n".join(lines)


def exactly(metres: float, unit: Unit) -> str:
    """A length as it would be typed on a plan, to a tenth of a millimetre."""
    if unit.is_metric:
        return f"{metres:.4f}".rstrip("0").rstrip(".") if abs(metres) >= 0.00005 else "0"
    return f"{metres / FOOT + 0.0:.4f}'"


def island_text(ring: Ring, unit: Unit) -> tuple[str, str]:
    """The places and the size that `island_ring` reads again: of a circle its middle and how wide it is, of any other
    its corners."""
    (x0, y0), (x1, y1) = ring.corners[0], ring.corners[1 % len(ring.corners)]
    if len(ring.corners) == 2 and all(abs(bulge - 1) < FLAT for bulge in ring.curves):
        middle = exactly((x0 + x1) / 2, unit), exactly((y0 + y1) / 2, unit)
        return " ".join(middle), exactly(math.dist((x0, y0), (x1, y1)), unit)
    corners = ring.corners if ring.is_straight else ring.flat
    return "; ".join(" ".join(exactly(metres, unit) for metres in corner) for corner in corners), ""


def island_ring(places: Sequence[Point], size: str, turned: str, unit: Unit) -> Ring:
    """The line round an island: round by its middle and how wide it is, square by length and breadth and how far its
    length is turned from the plan's east, degrees to the left; or by its corners. Raises `OutlineError`."""
    if len(places) > 1:
        if len(places) < 3:
            raise OutlineError("by its corners it has at least three corners; or give its middle and how wide it is")
        return Ring(tuple(places)).counter_clockwise
    sizes = [part for part in _TIMES.split(size.strip()) if part]
    if not 1 <= len(sizes) <= 2:
        raise OutlineError("how wide is it? One figure if it is round, like 0.6; two if it is square, like 0.6 x 0.4")
    try:
        wide = [parse_length(part, unit.for_plans).metres for part in sizes]
    except MeasureError as error:
        raise OutlineError("{error}", error=error) from error
    if min(wide) <= 0:
        raise OutlineError("it is more than nothing wide")
    (x, y) = places[0]
    if len(wide) == 1:
        return circle((x, y), wide[0] / 2)
    angle = turned.strip().rstrip("°").replace(",", ".")
    if angle and (not re.fullmatch(r"-?\d{1,3}(\.\d+)?", angle) or abs(float(angle)) > MOST_TURN):
        raise OutlineError("“{text}” is no angle in degrees", text=turned[:12])
    turn = math.radians(float(angle or 0))
    along = wide[0] / 2 * math.cos(turn), wide[0] / 2 * math.sin(turn)
    aside = -wide[1] / 2 * math.sin(turn), wide[1] / 2 * math.cos(turn)
    signs = ((-1, -1), (1, -1), (1, 1), (-1, 1))
    return Ring(tuple((x + a * along[0] + b * aside[0], y + a * along[1] + b * aside[1]) for a, b in signs))
