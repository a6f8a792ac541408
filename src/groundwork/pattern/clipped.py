"""Rectangles cut by one straight edge, many at once: what stays of each, its area and how far it reaches."""

from typing import NamedTuple

import numpy as np

from groundwork.surfaces import Floats


class Clipped(NamedTuple):
    """What stays of n rectangles: `areas` (n,), m², and `reach` (n, 2) along and across, metres; 0 where nothing."""

    areas: Floats
    reach: Floats


def clipped(near: Floats, sides: tuple[float, float], starts: Floats, ways: Floats) -> Clipped:
    """Rectangles (n, 2) by their near corners, all of the same `sides`, metres, each cut by a line of its own through
    `starts` (n, 2) along the unit vectors `ways` (n, 2): what stays lies to its left."""
    corners = near[:, None, :] + np.array([(0, 0), (sides[0], 0), sides, (0, sides[1])])
    off = corners - starts[:, None, :]
    left = ways[:, None, 0] * off[:, :, 1] - ways[:, None, 1] * off[:, :, 0]
    after, beyond = np.roll(corners, -1, axis=1), np.roll(left, -1, axis=1)
    inside = np.asarray(left > 0)
    crosses = inside != np.asarray(beyond > 0)
    share = left / np.where(crosses, left - beyond, 1.0)
    crossing = corners + share[:, :, None] * (after - corners)
    # Corner, crossing, corner, crossing …: what is not there stands where the last before it that is.
    ring = np.stack([corners, crossing], axis=2).reshape(len(near), 8, 2)
    there = np.stack([inside, crosses], axis=2).reshape(len(near), 8)
    if not there.all():
        last = np.where(there, np.arange(8), -1)
        last = np.maximum.accumulate(np.concatenate([last, np.where(there, np.arange(8, 16), -1)], axis=1), axis=1)
        ring = np.take_along_axis(ring, (last[:, 8:].clip(0) % 8)[:, :, None], axis=1)
    x, y = ring[:, :, 0], ring[:, :, 1]
    areas = 0.5 * np.abs((x * np.roll(y, -1, axis=1) - np.roll(x, -1, axis=1) * y).sum(axis=1))
    reach = ring.max(axis=1) - ring.min(axis=1)
    some = np.asarray(there.any(axis=1))
    return Clipped(np.where(some, areas, 0.0), np.where(some[:, None], reach, 0.0))
