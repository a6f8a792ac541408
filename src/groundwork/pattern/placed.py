"""Where units lie: near corners by the numbers of cells, and what lengths have in common."""

import math

import numpy as np

from groundwork.surfaces import Floats

Sides = tuple[float, float]
Bounds = tuple[float, float, float, float]


def within(x: Floats, y: Floats, sides: Sides, bounds: Bounds) -> Floats:
    """Those of the near corners, of any shape, whose unit meets `bounds`: (n, 2)."""
    x0, y0, x1, y1 = bounds
    near = (x < x1) & (x > x0 - sides[0]) & (y < y1) & (y > y0 - sides[1])
    kept = np.flatnonzero(near)
    return np.column_stack([x.take(kept), y.take(kept)])


def common_step(steps: tuple[float, ...]) -> float:
    """The largest length, metres, of which all are whole multiples to a tenth of a millimetre."""
    found = 0.0
    for each in steps:
        rest = abs(each)
        while rest > 1e-4:
            found, rest = rest, math.fmod(found, rest)
            rest = 0.0 if found - rest < 1e-4 else rest
    return found
