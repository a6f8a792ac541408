"""The outline's curves, set out from the pegs at their ends: by offsets from the chord, or from their centre."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

from groundwork.setout.pegs import chord_offsets
from groundwork.shape import Ring
from groundwork.surfaces import Point

MOST_OFFSETS = 40


@dataclass(frozen=True)
class CurvedSide:
    """A side that is an arc, between the pegs `start` and `end`: its `chord`, how far it stands `rise` out of it, in
    where negative, its `radius` and its own `length`, metres. `offsets` are square from the chord, by how far along;
    none where the arc is more than half a circle, which is swung from its `centre` by the radius."""

    start: str
    end: str
    chord: float
    rise: float
    radius: float
    length: float
    centre: Point
    offsets: tuple[tuple[float, float], ...]


def curved_sides(ring: Ring, step: float) -> Iterator[CurvedSide]:
    """Every curved side of an outline, with an offset every `step` of its chord, or less often on a long one."""
    count = len(ring.corners)
    for side in range(count):
        if not (arc := ring.arc(side)):
            continue
        chord = math.dist(*ring.ends(side))
        every = step * math.ceil(chord / step / MOST_OFFSETS)
        is_minor = abs(arc.turn) <= math.pi + 1e-9
        yield CurvedSide(
            f"P{side + 1}",
            f"P{(side + 1) % count + 1}",
            chord,
            math.copysign(arc.rise, arc.turn),
            arc.radius,
            arc.length,
            arc.centre,
            tuple(chord_offsets(arc.radius, min(chord, 2 * arc.radius), every)) if is_minor else (),
        )
