"""Movement joints in rigid work: how far apart, and how wide."""

import math
from typing import NamedTuple

LONGEST_BAY = 3.7
"""Metres between movement joints outside (tile guidance, quoted from memory: 2.4 to 3.7 m)."""
EXPANDS, WARMS = 11e-6, 50.0
"""Per kelvin, of stone and porcelain on mortar, and by how many kelvin paving outside warms and cools (common
practice)."""
SEALANT = 0.25
"""What a sealant follows, a share of its width (common practice)."""
NARROWEST = 0.010
"""No movement joint is narrower, metres (common practice)."""


class MovementJoints(NamedTuple):
    """Bays along and across with their length, metres; by how much one moves, and how wide a joint is, metres."""

    along: tuple[int, float]
    across: tuple[int, float]
    moves: float
    width: float


def moves(length: float, kelvin: float = WARMS) -> float:
    """By how much so much paving grows and shrinks, metres."""
    return EXPANDS * length * kelvin


def movement_joints(along: float, across: float) -> MovementJoints:
    """Where joints go in a field so long and broad, metres."""
    numbers = [max(1, math.ceil(side / LONGEST_BAY - 1e-9)) for side in (along, across)]
    bays = (numbers[0], along / numbers[0]), (numbers[1], across / numbers[1])
    most = moves(max(long for _number, long in bays))
    return MovementJoints(*bays, most, max(NARROWEST, math.ceil(most / SEALANT * 1000 - 1e-9) / 1000))
