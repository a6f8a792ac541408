"""What was done to a layer and what was tested on it, as it is recorded; `lift` names the surface it was done to: the
top of a lift, or the formation."""

from dataclasses import dataclass
from datetime import date
from enum import StrEnum
from typing import Annotated, ClassVar

from groundwork.measures import Measured, Typed
from groundwork.surfaces import Point
from groundwork.tools import Machine

Layered = Annotated[Measured, Typed.LAYER]


class Direction(StrEnum):
    """A pass runs down the fall, or across it."""

    ALONG = "along"
    ACROSS = "across"


class Feel(StrEnum):
    """A handful squeezed: it falls apart, holds as a ball and leaves the hand damp, or water runs out."""

    DRY = "dry"
    HOLDS = "holds"
    SOUPY = "soupy"


class CureKind(StrEnum):
    """What was done about a soft spot."""

    STONE = "stone"
    FABRIC_AND_STONE = "fabric and stone"
    LIME = "lime"
    CEMENT = "cement"


@dataclass(frozen=True)
class MachineBrought:
    """A machine that compacts on this job."""

    KIND: ClassVar[str] = "machine"
    id: str
    machine: Machine


@dataclass(frozen=True)
class Spread:
    """How thick a lift lies before it is compacted, at a station."""

    KIND: ClassVar[str] = "spread"
    id: str
    lift: str
    station: str
    thickness: Layered


@dataclass(frozen=True)
class Moisture:
    """How wet a lift is: by a handful squeezed, or by number, a share of the dry mass."""

    KIND: ClassVar[str] = "moisture"
    id: str
    lift: str
    feel: Feel | None = None
    share: float | None = None


@dataclass(frozen=True)
class Passed:
    """A lift gone over once in a direction with the machine brought as `machine`; `patch` is the part of the area,
    all of it where none is named."""

    KIND: ClassVar[str] = "pass"
    id: str
    lift: str
    machine: str
    direction: Direction
    patch: str = ""


@dataclass(frozen=True)
class Tamped:
    """A lift tamped by hand along the side from corner `side` to the next."""

    KIND: ClassVar[str] = "tamped"
    id: str
    lift: str
    side: int


@dataclass(frozen=True)
class Scarified:
    """The top of a lift loosened so deep: what was compacted before no longer counts."""

    KIND: ClassVar[str] = "scarified"
    id: str
    lift: str
    depth: Layered


@dataclass(frozen=True)
class ToppedUp:
    """A skin of stone added at a station on a lift that came out low."""

    KIND: ClassVar[str] = "topped_up"
    id: str
    lift: str
    station: str
    thickness: Layered
    scarified: bool = False


@dataclass(frozen=True)
class Settling:
    """The rod before and after one pass at a station, once `after_passes` had gone before and this one: what it reads
    more is what the lift settled by."""

    KIND: ClassVar[str] = "settling"
    id: str
    lift: str
    station: str
    after_passes: int
    before: Measured
    after: Measured


@dataclass(frozen=True)
class Weather:
    """The weather over a lift, in words."""

    KIND: ClassVar[str] = "weather"
    id: str
    lift: str
    words: str


@dataclass(frozen=True)
class LaboratoryTest:
    """A laboratory's compaction points of a material: moistures, shares of the dry mass, and dry densities, kg/m³."""

    KIND: ClassVar[str] = "laboratory"
    id: str
    material: str
    moistures: tuple[float, ...]
    densities: Annotated[tuple[float, ...], "densities_kg_m3"]
    gravity: float
    by: str = ""


@dataclass(frozen=True)
class GaugeTest:
    """A density gauge at a test place: wet density, kg/m³, moisture, a share of the dry mass, and the share of
    `oversize` that the laboratory kept out of its mould, with its specific gravity."""

    KIND: ClassVar[str] = "gauge"
    id: str
    lift: str
    place: str
    at: Point
    wet: Annotated[float, "wet_kg_m3"]
    moisture: float
    oversize: float = 0.0
    oversize_gravity: float = 2.65


@dataclass(frozen=True)
class SandTest:
    """A hole dug at a test place and filled with sand: sand used and left in the cone, kg, its density, kg/m³, what
    came out of the hole, kg, and its moisture, a share of the dry mass."""

    KIND: ClassVar[str] = "sand"
    id: str
    lift: str
    place: str
    at: Point
    used: Annotated[float, "used_kg"]
    cone: Annotated[float, "cone_kg"]
    sand: Annotated[float, "sand_kg_m3"]
    wet: Annotated[float, "wet_kg"]
    moisture: float
    oversize: float = 0.0
    oversize_gravity: float = 2.65


@dataclass(frozen=True)
class WeightTest:
    """A light falling weight at a test place: what its plate settled by in three drops, metres."""

    KIND: ClassVar[str] = "weight"
    id: str
    lift: str
    place: str
    at: Point
    drops: Annotated[tuple[float, ...], "drops_m"]


@dataclass(frozen=True)
class SpikeTest:
    """A spike pushed in by hand with a person's weight at a test place, and how far it went."""

    KIND: ClassVar[str] = "spike"
    id: str
    lift: str
    place: str
    at: Point
    sank: Layered


@dataclass(frozen=True)
class ConeTest:
    """A cone penetrometer at a test place: total depth, metres, after each number of blows in all; `soil` as in
    `strength.cbr_from_penetration`."""

    KIND: ClassVar[str] = "cone"
    id: str
    lift: str
    place: str
    at: Point
    blows: tuple[int, ...]
    depths: Annotated[tuple[float, ...], "depths_m"]
    soil: str = ""


@dataclass(frozen=True)
class ProofRoll:
    """A loaded vehicle driven over it: the deepest rut it left; `pumps` where the ground moved under it."""

    KIND: ClassVar[str] = "proof_roll"
    id: str
    lift: str
    place: str
    at: Point
    vehicle: str
    rut: Layered
    pumps: bool = False


@dataclass(frozen=True)
class SoftSpot:
    """Ground that gives, drawn on the plan, and how deep it goes."""

    KIND: ClassVar[str] = "soft_spot"
    id: str
    name: str
    corners: tuple[Point, ...]
    depth: Layered


@dataclass(frozen=True)
class Cured:
    """What was done about a soft spot: in so many lifts of stone, or with `dose` of binder, a share of the soil's dry
    mass, mixed in `on` a day."""

    KIND: ClassVar[str] = "cured"
    id: str
    spot: str
    how: CureKind
    on: date
    lifts: int = 1
    dose: float = 0.0


@dataclass(frozen=True)
class FabricLaid:
    """Separation fabric on a surface: the least overlap as measured, whether each length lies over the next one down
    the fall like roof tiles, and how far it is turned up the sides."""

    KIND: ClassVar[str] = "fabric"
    id: str
    lift: str
    overlap: Layered
    with_the_flow: bool
    up_sides: Layered


@dataclass(frozen=True)
class Delivered:
    """A ticket: what came, kg, and the hash of a photo of it."""

    KIND: ClassVar[str] = "delivered"
    id: str
    ticket: str
    material: str
    mass: Annotated[float, "mass_kg"]
    note: str = ""
    photo: str = ""


@dataclass(frozen=True)
class Poured:
    """A bound base poured on a day: m³ by the tickets, the air's temperature, °C, and what the ground gave under the
    loaded truck."""

    KIND: ClassVar[str] = "poured"
    id: str
    on: date
    volume: Annotated[float, "volume_m3"]
    celsius: float
    deflection: Layered
    ticket: str = ""


@dataclass(frozen=True)
class Competent:
    """A competent person's or an engineer's word on the dig: its sides, its depth, what stands beside it."""

    KIND: ClassVar[str] = "competent"
    id: str
    by: str
    role: str
    words: str


DensityTest = GaugeTest | SandTest
PlacedTest = GaugeTest | SandTest | WeightTest | SpikeTest | ConeTest | ProofRoll
"""Tests taken at a place of a lift."""
Work = (
    MachineBrought | Spread | Moisture | Passed | Tamped | Scarified | ToppedUp | Settling | Weather | LaboratoryTest
    | GaugeTest | SandTest | WeightTest | SpikeTest | ConeTest | ProofRoll | SoftSpot | Cured | FabricLaid | Delivered
    | Poured | Competent
)  # fmt: skip
