"""The base as layers, from the finished surface down to the formation.

Excavation depth below finished level = paver + compacted bedding + base + sub-base (+ bound base).
Bedding loses what the pavers settle by when they are seated (common practice, no published source).
"""

import math
from dataclasses import dataclass, field
from enum import StrEnum
from functools import cached_property
from itertools import groupby

from groundwork.base.materials import DRAINING, Family, Material, material
from groundwork.measures import Said, Unit, in_kind, trade


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

    def in_trade(self, unit: Unit) -> "Tolerance":
        """These limits for a crew: where its trade writes a size that is wider, 1/4″ for 6 mm, that is inside."""
        return Tolerance(max(self.high, trade(self.high, unit)), max(self.low, trade(self.low, unit)))


FORMATION_TOLERANCE = Tolerance(high=0.020, low=0.030)
"""UK highway works specification, formation; quoted from memory."""
TOLERANCES = {
    SurfaceKey.FORMATION: FORMATION_TOLERANCE,
    SurfaceKey.SUB_BASE: Tolerance(high=0.010, low=0.030),
    SurfaceKey.BASE: Tolerance(high=0.010, low=0.010),
    SurfaceKey.BOUND_BASE: Tolerance(high=0.010, low=0.010),
    SurfaceKey.BEDDING: Tolerance(high=0.005, low=0.005),
    SurfaceKey.SCREED: Tolerance(high=0.005, low=0.005),
    SurfaceKey.FINISHED: Tolerance(high=0.006, low=0.006),
}
"""Sub-base and base: UK highway works specification; bedding and paving: industry guidance. Quoted from memory."""
LEAST_OF_BASE = 0.010
"""How much thinner than specified the base as a whole may be at a station (quoted from memory)."""
GREATEST_LIFT = {Family.DENSE: 0.075, Family.OPEN: 0.100, Family.DUST: 0.050}
"""The thickest lift taken at once, compacted; crusher fines are tamped by hand (common practice, no published
source)."""
MOST_LIFTS = 20


@dataclass(frozen=True)
class Layer:
    """One layer; `thickness` is compacted, for bedding as screeded; `material` a key of the catalogue."""

    role: Role
    material: str
    thickness: float

    @property
    def made_of(self) -> Material:
        return material(self.material)

    @property
    def family(self) -> Family:
        return self.made_of.family


class GridJoints(StrEnum):
    """How lengths of geogrid meet."""

    BUTTED = "butted"
    LAPPED = "lapped"


class Reinforcement(StrEnum):
    """What a bound base is reinforced with."""

    NONE = "none"
    STEEL = "steel"
    FIBRE = "fibre"


@dataclass(frozen=True)
class Joint:
    """The joints between units: `width`, what fills them, and the widths the filling's maker allows."""

    width: float = 0.003
    fill: str = "dry sand"
    maker_range: tuple[float, float] | None = None


@dataclass(frozen=True)
class Details:
    """What a specification settles beside its layers. `fabric_under`: the layers that lie on a fabric;
    `side_fabric`: up against an existing base; `dense_strip`: beside a foundation; `concrete_joints`: how far
    apart in a bound base, metres, None where not said; `margin`: how far the base passes the paved edge;
    `early_edge`: what stands along the edges before the base goes in, `forms` or `kerbs`, where the school has none
    of its own."""

    fabric_under: frozenset[Role] = frozenset()
    fabric_overlap: float = 0.300
    side_fabric: bool = False
    dense_strip: bool = False
    geogrid: GridJoints | None = None
    reinforcement: Reinforcement = Reinforcement.NONE
    concrete_joints: float | None = None
    joint: Joint = field(default_factory=Joint)
    margin: float = 0.0
    early_edge: str = ""


@dataclass(frozen=True)
class Surface:
    """The top of a layer or of one of its lifts, or the formation, `depth` below the finished surface. A lift's
    key is its layer's with its number, `base.1`; the last lift's top is the layer's own."""

    key: str
    depth: float
    lift: int = 0
    lifts: int = 1

    @property
    def is_covered(self) -> bool:
        """Whether another lift of the same layer comes on it."""
        return 0 < self.lift < self.lifts

    @property
    def kind(self) -> SurfaceKey:
        return SurfaceKey(self.key.split(".", maxsplit=1)[0])


@dataclass(frozen=True)
class Course:
    """What is laid at once: a layer, or one of its lifts, `thickness` compacted, up to the surface `surface` from
    `under`; `lift` of `lifts` of its layer."""

    surface: Surface
    under: Surface
    layer: Layer
    thickness: float
    lift: int
    lifts: int


@dataclass(frozen=True)
class BaseSpecification:
    """Layers top first; `settlement` is how high above finished level pavers are laid before seating;
    `tolerances` are this job's own, of surfaces other than the formation; `lifts` how many a role's layers are
    laid in, where the crew has chosen more or fewer than usual.

    Raises `ValueError` where the layers cannot be built as given.
    """

    school: str
    layers: tuple[Layer, ...]
    settlement: float = 0.0
    formation_tolerance: Tolerance = field(default=FORMATION_TOLERANCE)
    details: Details = field(default_factory=Details)
    tolerances: tuple[tuple[SurfaceKey, Tolerance], ...] = ()
    lifts: tuple[tuple[Role, int], ...] = ()

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
            material(layer.material)
            if not 0 < layer.thickness <= 2:
                raise Said(
                    "{role} of {thick}: between 1 and 2000 mm", role=layer.role, lengths={"thick": layer.thickness}
                )
        bedding = next((layer.thickness for layer in self.layers if layer.role is Role.BEDDING), 0.0)
        if any(not 1 <= number <= MOST_LIFTS for _role, number in self.lifts):
            raise Said("a layer is laid in 1 to {most} lifts", most=MOST_LIFTS)
        if self.settlement < 0 or (self.settlement and self.settlement >= bedding):
            raise ValueError("pavers cannot settle by as much as the bedding is thick")

    @property
    def roles(self) -> list[Role]:
        return [layer.role for layer in self.layers]

    def layer(self, role: Role) -> Layer | None:
        """The uppermost layer of a role, if there is one."""
        return next((layer for layer in self.layers if layer.role is role), None)

    @cached_property
    def under_bedding(self) -> tuple[Layer, ...]:
        """The layers that carry: bound base, base and sub-base, top first."""
        return tuple(x for x in self.layers if x.role not in (Role.PAVING, Role.BEDDING))

    @cached_property
    def unbound(self) -> float:
        """Thickness of all stone under the paving and its bedding."""
        return sum(x.thickness for x in self.under_bedding if x.role is not Role.BOUND_BASE)

    @cached_property
    def takes_water_in(self) -> bool:
        """Whether water goes through the base instead of over it: all of it drains."""
        return bool(self.under_bedding) and all(x.family in DRAINING for x in self.under_bedding)

    @cached_property
    def lies_on_what_is_there(self) -> bool:
        """Whether the base is there already, and nothing is dug."""
        return any(layer.made_of.is_there for layer in self.layers)

    @property
    def dig(self) -> float:
        """How far under the finished surface is dug; nothing where the base is there."""
        return 0.0 if self.lies_on_what_is_there else self.excavation_depth

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

    @cached_property
    def courses(self) -> tuple[Course, ...]:
        """What is laid, lift by lift, from the formation up. Bedding is levelled as it is screeded."""
        found: list[Course] = []
        depth = self.excavation_depth
        under = Surface(SurfaceKey.FORMATION, depth)
        chosen = dict(self.lifts)
        for role, layers in groupby(reversed(self.layers), key=lambda layer: layer.role):
            steps = [
                (layer, step, n, len(lifts))
                for layer in layers
                for lifts in [_lifts(layer, self.compacted(layer), chosen.get(role))]
                for n, step in enumerate(lifts, start=1)
            ]
            key = SurfaceKey.FINISHED if role is Role.PAVING else SurfaceKey(role.value)
            for number, (layer, step, lift, lifts) in enumerate(steps, start=1):
                depth = round(depth - step, 9)
                last = number == len(steps)
                top = Surface(key if last else f"{key}.{number}", depth, number, len(steps))
                if last and key is SurfaceKey.BEDDING and self.settlement:
                    top = Surface(SurfaceKey.SCREED, depth - self.settlement)
                found.append(Course(top, under, layer, step, lift, lifts))
                under = top
        return tuple(found)

    @cached_property
    def levelled(self) -> tuple[Surface, ...]:
        """Every surface that is levelled as the base is built, the formation first, the top of each lift among
        them."""
        return (Surface(SurfaceKey.FORMATION, self.excavation_depth), *(course.surface for course in self.courses))

    def course(self, key: str) -> Course:
        """What is laid up to a surface. Raises `KeyError` where nothing is."""
        return {course.surface.key: course for course in self.courses}[key]

    def surface(self, key: str) -> Surface:
        """A levelled surface by its key. Raises `KeyError` where this base has no such surface."""
        return {surface.key: surface for surface in self.levelled}[key]

    def tolerance(self, surface: Surface) -> Tolerance:
        """What its level may miss by. Lifts that others cover have the sub-base's, where the specification's own
        are not set for their layer."""
        if surface.kind is SurfaceKey.FORMATION:
            return self.formation_tolerance
        own = dict(self.tolerances)
        return own.get(surface.kind) or TOLERANCES[SurfaceKey.SUB_BASE if surface.is_covered else surface.kind]


def _lifts(layer: Layer, compacted: float, chosen: int | None) -> list[float]:
    """The thickness of each lift, the lowest first: so many equal ones as were chosen, or as few as the greatest lift
    allows."""
    number = (
        chosen or math.ceil(compacted / in_kind(GREATEST_LIFT.get(layer.family, math.inf), compacted) - 1e-9) or 1
    )
    return [compacted / number] * number
