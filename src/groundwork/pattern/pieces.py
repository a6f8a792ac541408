"""A piece of an area paved: what it is called, what of its unit it is; two alike in place of a small one."""

import math
from collections.abc import Collection
from typing import NamedTuple

import numpy as np
import shapely
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from groundwork.pattern.layout import LEAST_AREA, LaidPiece, extents
from groundwork.pattern.placed import Sides

CLOSE = 1e-4
"""Metres: what is so near is in line."""


class PavingPiece(NamedTuple):
    """A piece of an area paved: what it is called, its row counted from the edge, 0 for a border; as it lies in the
    string's frame and if whole there, metres."""

    name: str
    row: int
    laid: LaidPiece
    shape: BaseGeometry
    box: BaseGeometry
    is_small: bool

    @property
    def is_whole(self) -> bool:
        return self.laid.is_whole


def two_alike(named: dict[str, PavingPiece], name: str, joint: float) -> tuple[PavingPiece, PavingPiece] | None:
    """The piece of that name and the whole unit in line beside it, cut anew as two alike; None where none is."""
    piece = named[name]
    low = np.array(piece.shape.bounds)
    for other in _beside(named, piece, joint):
        high = np.array(other.shape.bounds)
        both = np.minimum(low, high)[:2], np.maximum(low, high)[2:]
        for axis in (0, 1):
            level = 1 - axis
            if abs(low[level] - high[level]) > CLOSE or abs(low[level + 2] - high[level + 2]) > CLOSE:
                continue
            middle, found = (both[0][axis] + both[1][axis]) / 2, []
            for one, start, end in (
                (piece if low[axis] < high[axis] else other, both[0][axis], middle - joint / 2),
                (other if low[axis] < high[axis] else piece, middle + joint / 2, both[1][axis]),
            ):
                at = [0.0, 0.0, 0.0, 0.0]
                at[axis], at[axis + 2], at[level], at[level + 2] = start, end, both[0][level], both[1][level]
                shape = shapely.box(at[0], at[1], at[2], at[3])
                share = shape.area / (one.laid.sides[0] * one.laid.sides[1])
                laid = one.laid._replace(shape=_laid_flat(one, shape), share=share)
                found.append(one._replace(laid=laid, shape=shape, is_small=share < 1 / 3 - 1e-9))
            return found[0], found[1]
    return None


def _laid_flat(one: PavingPiece, shape: BaseGeometry) -> BaseGeometry:
    """A shape as long along its unit as across, whichever way that lies."""
    x0, y0, x1, y1 = shape.bounds
    bx0, _by0, bx1, _by1 = one.box.bounds
    lies = abs((bx1 - bx0) - one.laid.sides[0]) < CLOSE
    return shape if lies else affinity.rotate(shape, 90, origin=((x0 + x1) / 2, (y0 + y1) / 2))


def _beside(named: dict[str, PavingPiece], piece: PavingPiece, joint: float) -> list[PavingPiece]:
    """Whole units of the same size a joint away from a rectangular piece, nearest first."""
    if piece.shape.area < piece.shape.envelope.area - LEAST_AREA:
        return []
    near = [
        other for other in named.values()
        if other.is_whole and abs(other.row - piece.row) <= 2 and sorted(other.laid.sides) == sorted(piece.laid.sides)
        and other.shape.distance(piece.shape) < joint + CLOSE
        and abs(other.shape.area - other.shape.envelope.area) < LEAST_AREA
    ]  # fmt: skip
    return sorted(near, key=lambda other: (other.shape.distance(piece.shape), other.name))


def by_way(pieces: Collection[PavingPiece]) -> list[tuple[Sides, np.ndarray, np.ndarray]]:
    """Pieces of one size by the way their unit lies, as `units_of` asks for them."""
    ways: dict[Sides, list[PavingPiece]] = {}
    for piece in pieces:
        ways.setdefault(piece.laid.sides, []).append(piece)
    found = []
    for sides, each in ways.items():
        shapes = [piece.laid.shape if piece.row else _straightened(piece) for piece in each]
        found.append((sides, extents(shapes), np.asarray(shapely.area(shapes))))
    return found


def _straightened(piece: PavingPiece) -> BaseGeometry:
    """A piece of a border turned so that its longest side lies along."""
    ring = shapely.get_coordinates(piece.shape)
    steps = np.diff(ring, axis=0)
    way = steps[int(np.hypot(*steps.T).argmax())]
    turned = affinity.rotate(piece.shape, -math.atan2(way[1], way[0]), origin=(0, 0), use_radians=True)
    x0, y0, x1, y1 = turned.bounds
    lies = (x1 - x0 >= y1 - y0) == (piece.laid.sides[0] >= piece.laid.sides[1])
    return turned if lies else affinity.rotate(turned, 90, origin=(0, 0))
