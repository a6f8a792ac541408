"""What a base takes: stone, concrete and what has to be dug out and carted away."""

from dataclasses import dataclass

import shapely

from groundwork.base.materials import POURED, STONE
from groundwork.base.specification import BaseSpecification, Layer, Role

SWELL = 1.25
"""Spoil takes up a quarter more on the lorry than in the ground (common practice)."""


@dataclass(frozen=True)
class LayerQuantity:
    """A layer over its `area`, m²; `volume` compacted and `loose`, m³; `mass` in kg."""

    layer: Layer
    area: float
    volume: float
    loose: float
    mass: float


@dataclass(frozen=True)
class Quantities:
    """Volumes in m³, masses in kg, without waste."""

    layers: tuple[LayerQuantity, ...]
    excavation: float
    spoil: float

    @property
    def stone(self) -> float:
        return sum(q.mass for q in self.layers if q.layer.family in STONE)

    @property
    def concrete(self) -> float:
        return sum(q.volume for q in self.layers if q.layer.family in POURED)


def quantities(
    area: shapely.Polygon, specification: BaseSpecification, footprint: shapely.Polygon | None = None
) -> Quantities:
    """What the layers take and what is dug for them, straight down from finished level. The dig and the layers under
    the bedding cover the `footprint`; where none is given, the area with its margin all round, square at corners."""
    wide = (footprint or area.buffer(specification.details.margin, join_style="mitre")).area
    found = []
    for layer in specification.layers:
        if layer.made_of.is_there:
            continue
        over = area.area if layer.role in (Role.PAVING, Role.BEDDING) else wide
        made_of = layer.made_of
        volume = over * (specification.compacted(layer) + made_of.overfill)
        found.append(LayerQuantity(layer, over, volume, volume * made_of.bulking, volume * made_of.density))
    excavation = wide * specification.dig
    return Quantities(tuple(found), excavation, excavation * SWELL)
