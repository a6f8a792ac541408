"""Sums of edges: the width that closes, units on a curve, bed and haunch, mixes, spikes and pickets."""

import math
from dataclasses import dataclass

LEAST_PIECE = 1 / 3
"""No closer is shorter than this share of a unit (common practice, no published source)."""


@dataclass(frozen=True)
class WidthFilled:
    """How a width is filled: `units` across with `joint` between them and at both edges, None where none in its range
    closes it; `strip` is what is left behind as many whole units as fit at the usual joint, metres."""

    units: int
    joint: float | None
    strip: float


def closing(width: float, unit: float, joint: float, least: float, most: float) -> WidthFilled:
    """D = n u + (n + 1) j with j in its range (geometry); of several the one nearest to the usual joint."""
    whole = max(int((width + 1e-9) // (unit + joint)), 0)
    found = []
    for number in range(max(whole - 2, 1), whole + 3):
        opened = (width - number * unit) / (number + 1)
        if least - 1e-9 <= opened <= most + 1e-9:
            found.append((abs(opened - joint), number, opened))
    strip = width - whole * (unit + joint)
    if not found:
        return WidthFilled(whole, None, strip)
    _off, number, opened = min(found)
    return WidthFilled(number, opened, strip)


def closes_at(width: float, unit: float, joint: float) -> float:
    """By how much an edge moves for whole units at the usual joint, metres, outwards positive."""
    number = max(round((width - joint) / (unit + joint)), 1)
    return number * unit + (number + 1) * joint - width


@dataclass(frozen=True)
class OnCurve:
    """Straight units set as chords on a curve: each `turns`, radians, its joint `opens` outside and its middle
    `leaves` the curve, metres."""

    turns: float
    opens: float
    leaves: float


def on_curve(length: float, width: float, radius: float) -> OnCurve | None:
    """Units of a length and width on an inner radius; None for one too tight for any (geometry)."""
    if length >= 2 * radius:
        return None
    turns = 2 * math.asin(length / (2 * radius))
    return OnCurve(turns, width * turns, length**2 / (8 * radius))


STRAIGHT_UNITS = 12.0
"""At this radius and under, units of a curve's own or short ones (UK works practice, quoted from memory)."""


def least_radius(length: float, width: float, least: float, most: float) -> float:
    """The tightest curve that a course of units follows with joints from `least` inside to `most` outside, metres:
    W (L + j1) / (j2 − j1) (geometry)."""
    return width * (length + least) / (most - least)


BED_DEPTH, IN_FRONT = 0.100, 0.050
"""A kerb's bed, and how far it passes the unit in front, metres (common practice, no published source)."""
HAUNCH = {True: 0.150, False: 0.100}
"""How wide the haunch behind is, under vehicles and on foot, metres (common practice, no published source)."""


def bed_and_haunch(width: float, height: float, *, vehicles: bool, under_bedding: float = math.inf) -> float:
    """Concrete of a bedded edge, m³ a metre: the haunch to half the unit's height, or under the bedding where that is
    lower."""
    haunch = HAUNCH[vehicles]
    return (IN_FRONT + width + haunch) * BED_DEPTH + haunch * min(height / 2, under_bedding)


SPIKES_APART, PICKETS_APART = 0.300, 1.0
"""Plain steel spikes, and pickets of forms, at most so far apart, metres (common practice)."""


def spikes(length: float, *, vehicles: bool, holes_apart: float = 0.150) -> int:
    """How many spikes hold a run of edging: one at each end, between them as far apart as may be, or in every hole
    under vehicles; none for no run."""
    if length <= 0:
        return 0
    return math.ceil(length / (holes_apart if vehicles else SPIKES_APART) - 1e-9) + 1


def pickets(length: float, board: float) -> int:
    """How many pickets hold forms: at most a metre apart, and at both sides of each joint between boards."""
    if length <= 0:
        return 0
    boards = max(1, math.ceil(length / board - 1e-9))
    each = [min(board, length - n * board) for n in range(boards)]
    return sum(math.ceil(long / PICKETS_APART - 1e-9) + 1 for long in each)
