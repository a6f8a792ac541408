"""The base as layers, from the finished surface down to the formation.

Excavation depth below finished level = paver + compacted bedding + base + sub-base (+ bound base).
Bedding loses what the pavers settle by when they are seated (common practice, no published source).
"""

from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property


class Role(StrEnum):
    """What a layer does, in the order layers lie, top first."""

    PAVING = "paving"
    BEDDING = "bedding"
    BOUND_BASE = "bound base"
    BASE = "base"
    SUB_BASE = "sub-base"


class SurfaceKey(StrEnum):
    """The surfaces that are levelled, top first."""

    FINISHED = "finished"
    SCREED = "screed"
    BEDDING = "bedding"
    BOUND_BASE = "bound base"
    BASE = "base"
    SUB_BASE = "sub-base"
    FORMATION = "formation"


@dataclass(frozen=True)
class Tolerance:
    """How far a level may lie above (`high`) and below (`low`) its design, both positive metres."""

    high: float
    low: float

    def __post_init__(self) -> None:
        if self.high <= 0 or self.low <= 0:
            raise ValueError("a tolerance needs room on both sides: more than 0 above and below")


FORMATION_TOLERANCE = Tolerance(high=0.020, low=0.030)
"""UK highway works specification, formation; quoted from memory."""


@dataclass(frozen=True)
class Layer:
    """One layer; `thickness` is compacted, for bedding as screeded."""

    role: Role
    material: str
    thickness: float


@dataclass(frozen=True)
class Surface:
    """The top of a layer, or the formation, `depth` below the finished surface."""

    key: SurfaceKey
    depth: float


@dataclass(frozen=True)
class BaseSpecification:
    """Layers top first; `settlement` is how high above finished level pavers are laid before seating.

    Raises `ValueError` where the layers cannot be built as given.
    """

    school: str
    layers: tuple[Layer, ...]
    settlement: float = 0.0
    formation_tolerance: Tolerance = field(default=FORMATION_TOLERANCE)

    def __post_init__(self) -> None:
        order = list(Role)
        places = [order.index(layer.role) for layer in self.layers]
        if not self.layers or self.layers[0].role is not Role.PAVING:
            raise ValueError("the first layer must be the paving")
        if places != sorted(places) or any(
            self.roles.count(role) > 1 for role in (Role.PAVING, Role.BEDDING, Role.BOUND_BASE)
        ):
            raise ValueError("layers lie in the order paving, bedding, bound base, base, sub-base")
        for layer in self.layers:
            if not 0 < layer.thickness <= 2:
                raise ValueError(f"{layer.role} of {layer.thickness * 1000:.0f} mm: between 1 and 2000 mm")
        bedding = next((layer.thickness for layer in self.layers if layer.role is Role.BEDDING), 0.0)
        if self.settlement < 0 or (self.settlement and self.settlement >= bedding):
            raise ValueError("pavers cannot settle by as much as the bedding is thick")

    @property
    def roles(self) -> list[Role]:
        return [layer.role for layer in self.layers]

    def compacted(self, layer: Layer) -> float:
        """The layer's thickness in the finished pavement."""
        return layer.thickness - self.settlement if layer.role is Role.BEDDING else layer.thickness

    @cached_property
    def excavation_depth(self) -> float:
        """From the finished surface down to the formation."""
        return sum(self.compacted(layer) for layer in self.layers)

    @cached_property
    def surfaces(self) -> tuple[Surface, ...]:
        """Every surface that is levelled, top first; the base's own is the top of its uppermost layer."""
        found: list[Surface] = []
        depth = 0.0
        for layer in self.layers:
            key = SurfaceKey.FINISHED if layer.role is Role.PAVING else SurfaceKey(layer.role.value)
            if key is SurfaceKey.BEDDING and self.settlement:
                found.append(Surface(SurfaceKey.SCREED, depth - self.settlement))
            if key not in {surface.key for surface in found}:
                found.append(Surface(key, depth))
            depth += self.compacted(layer)
        return (*found, Surface(SurfaceKey.FORMATION, depth))

    def depth_of(self, key: SurfaceKey) -> float:
        """Depth of a surface below finished level. Raises `KeyError` where this base has no such surface."""
        return {surface.key: surface.depth for surface in self.surfaces}[key]
