"""Where to test: places drawn at random within an area, the same again for whoever repeats the draw."""

import hashlib
import math

import numpy as np
import shapely

from groundwork.surfaces import Point

EACH = 50.0
"""One test for so many square metres (common practice, no published source)."""
FEWEST = 2
FROM_THE_EDGE = 0.3
"""No test nearer to the edge than this, metres, where the area has room."""


def how_many(area: float, each: float = EACH) -> int:
    """The number of tests an area asks for."""
    return max(FEWEST, math.ceil(area / each - 1e-9))


def draw(area: shapely.Polygon, seed: str, number: int) -> tuple[Point, ...]:
    """`number` places, evenly likely anywhere in the area, metres to the millimetre. The same seed gives the same
    places: SHA-256 of it starts the generator (PCG64)."""
    inner = area.buffer(-FROM_THE_EDGE)
    room = inner if inner.area > 0.25 * area.area else area
    generator = np.random.Generator(np.random.PCG64(int.from_bytes(hashlib.sha256(seed.encode()).digest())))
    west, south, east, north = room.bounds
    found: list[Point] = []
    while len(found) < number:
        x, y = (float(n) for n in generator.uniform((west, south), (east, north)))
        spot = (round(x, 3), round(y, 3))
        if shapely.intersects_xy(room, *spot):
            found.append(spot)
    return tuple(found)
