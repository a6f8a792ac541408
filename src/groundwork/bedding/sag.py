"""How far a rail sags between its packings: a simple beam of steel tube under its own weight and the screed's."""

import math

STEEL = 210e9
"""Young's modulus of steel, Pa (any table of materials)."""
STEEL_DENSITY = 7850.0
GRAVITY = 9.81
WALL = 0.002
"""A rail's wall, metres, where nobody says (common practice)."""
SCREED_LOAD = 10 * GRAVITY
"""What a board and the hands on it press on a rail, newtons (common practice, no published source)."""
PACKED_EVERY = 0.75
"""Rails are packed at least so often, metres (common practice, no published source)."""


def tube(high: float, wall: float = WALL) -> tuple[float, float]:
    """Second moment of area, m⁴, and weight, N/m, of a round steel tube `high` across."""
    inside = max(high - 2 * wall, 0.0)
    area = math.pi / 4 * (high**2 - inside**2)
    return math.pi / 64 * (high**4 - inside**4), area * STEEL_DENSITY * GRAVITY


def sag_by_itself(high: float, span: float, wall: float = WALL) -> float:
    """In the middle of a span, metres: 5 w L⁴ / 384 E I (any text on beams)."""
    moment, weight = tube(high, wall)
    return 5 * weight * span**4 / (384 * STEEL * moment)


def sag_by_load(high: float, span: float, load: float, wall: float = WALL) -> float:
    """What a load in newtons on the middle of a span adds, metres: P L³ / 48 E I (any text on beams)."""
    moment, _weight = tube(high, wall)
    return load * span**3 / (48 * STEEL * moment)
