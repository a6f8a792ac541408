"""The cut list: what to set the saw or splitter to for every piece, in walking order."""

import math
from dataclasses import dataclass

import numpy as np
import shapely

from groundwork.layouts import CUTS_AN_HOUR
from groundwork.pattern import Paving, PavingPiece

SQUARE = 5e-4
"""Metres: what differs by less is cut square."""
VIBRATION = 6.0
"""m/s² of a cut-off saw, where nobody knows better (common practice, no published source)."""


@dataclass(frozen=True)
class PieceToCut:
    """A piece to cut: its number in walking order; how it is cut and to what, metres: `square` to one length, `slant`
    to its length along either side, `rip` to one breadth, `taper` to its breadth at either end, a `corner` off so far
    along and across, or by a `template` within what it reaches along and across."""

    number: int
    piece: PavingPiece
    how: str
    sizes: tuple[float, ...]


def cut_list(paving: Paving) -> tuple[PieceToCut, ...]:
    """Every cut piece in walking order: row by row, one there and the next back, the border last."""
    found = []
    for number, piece in enumerate(sorted(paving.cut, key=_walked), 1):
        how, sizes = cut_to(piece)
        found.append(PieceToCut(number, piece, how, sizes))
    return tuple(found)


def _walked(piece: PavingPiece) -> tuple[int, float, str]:
    if not piece.row:
        return 1_000_000, float(piece.name[1:]), piece.name
    x = piece.shape.centroid.x
    return piece.row, x if piece.row % 2 else -x, piece.name


def cut_to(piece: PavingPiece) -> tuple[str, tuple[float, ...]]:
    """How a piece comes out of its unit: what is told is measured along the unit's long side."""
    shape, (along, across) = piece.laid.shape, piece.laid.sides
    if not piece.row:
        shape = _flat(piece)
        along, across = max(along, across), min(along, across)
    x0, y0, x1, y1 = shape.bounds
    if across > along:  # seen along its long side
        shape = shapely.transform(shape, lambda at: at[:, ::-1])
        x0, y0, x1, y1, along, across = y0, x0, y1, x1, across, along
    long, wide = x1 - x0, y1 - y0
    if shape.area > long * wide - SQUARE * max(long, wide):
        if wide > across - SQUARE:
            return "square", (long,)
        return ("rip", (wide,)) if long > along - SQUARE else ("template", (long, wide))
    return _by_one_line(shape, along, across) or ("template", (long, wide))


def _by_one_line(
    shape: shapely.geometry.base.BaseGeometry, along: float, across: float
) -> tuple[str, tuple[float, ...]] | None:  # fmt: skip
    """How one straight cut made a piece: from long side to long side, from end to end, or a corner off; None
    where it was another."""
    at = shapely.get_coordinates(shape)
    x0, y0, x1, y1 = shape.bounds
    low, high = _span(at, y0), _span(at, y1)
    left, right = _span(at[:, ::-1], x0), _span(at[:, ::-1], x1)
    if y1 - y0 > across - SQUARE and _is_trapezium(low, high, y1 - y0, shape.area):
        return "slant", (low[1] - low[0], high[1] - high[0])
    if x1 - x0 > along - SQUARE and _is_trapezium(left, right, x1 - x0, shape.area):
        return "taper", (left[1] - left[0], right[1] - right[0])
    if x1 - x0 > along - SQUARE and y1 - y0 > across - SQUARE:
        off = along - min(low[1] - low[0], high[1] - high[0]), across - min(left[1] - left[0], right[1] - right[0])
        if abs(along * across - shape.area - off[0] * off[1] / 2) < SQUARE * across:
            return "corner", off
    return None


def _span(at: np.ndarray, y: float) -> tuple[float, float]:
    """From where to where a piece lies along one of its sides."""
    near = at[np.abs(at[:, 1] - y) < SQUARE][:, 0]
    return (float(near.min()), float(near.max())) if len(near) else (0.0, 0.0)


def _is_trapezium(one: tuple[float, float], other: tuple[float, float], apart: float, area: float) -> bool:
    """Whether two sides so far apart, with one end square between them, hold all of a piece."""
    keeps_an_end = abs(one[0] - other[0]) < SQUARE or abs(one[1] - other[1]) < SQUARE
    return keeps_an_end and abs((one[1] - one[0] + other[1] - other[0]) / 2 * apart - area) < SQUARE * apart


def _flat(piece: PavingPiece) -> shapely.geometry.base.BaseGeometry:
    """A piece of a border with its longest side along the first axis."""
    ring = shapely.get_coordinates(piece.shape)
    steps = np.diff(ring, axis=0)
    way = steps[int(np.hypot(*steps.T).argmax())]
    cos, sin = way / math.hypot(*way)
    turned = shapely.transform(piece.shape, lambda at: at @ np.array([[cos, -sin], [sin, cos]]))
    x0, y0, x1, y1 = turned.bounds
    long, short = max(piece.laid.sides), min(piece.laid.sides)
    # The longest side of what is left may be a short side of the unit, or its cut.
    if x1 - x0 <= short + SQUARE and y1 - y0 > short + SQUARE and y1 - y0 <= long + SQUARE:
        turned = shapely.transform(turned, lambda at: at[:, ::-1])
    return turned


def at_the_saw(number: int) -> float:
    """Person-hours that so many pieces take."""
    return number / CUTS_AN_HOUR


def until_action(vibration: float) -> float:
    """Hours at a saw of so many m/s² until the daily exposure action value of 2.5 m/s² over 8 h is reached (Directive
    2002/44/EC, article 3, with A(8) = a √(T/8))."""
    return 8 * (2.5 / vibration) ** 2
