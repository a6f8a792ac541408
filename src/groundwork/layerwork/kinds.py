"""What was done to a layer and what was tested on it, as it is recorded, each with what it must find standing; `lift`
names the surface it was done to: the top of a lift, or the formation."""

from dataclasses import dataclass
from datetime import date, datetime
from enum import StrEnum
from typing import Annotated, Literal

from annotated_types import Interval, Len, doc

from groundwork.base import catalogue
from groundwork.kinds import (
    PHOTO_IF_ANY,
    Circumstances,
    Entry,
    EntryId,
    Gravity,
    Layered,
    LiftName,
    Line,
    Name,
    Rod,
    Share,
    Words500,
    Wrong,
    no_side,
    not_called,
)
from groundwork.laboratory import CompactionCurve, NotACurve
from groundwork.measures import Words
from groundwork.surfaces import Point
from groundwork.tools import Machine

RISEN = 0.003
"""A lift does not rise under a machine: more than this is no uncertainty of the rod, metres (common practice)."""
BESIDE_THE_AREA = 0.5
"""A test this near to the paved area still stands on its base, metres (common practice)."""


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


class Work(Entry):
    """Something done to a layer, or learnt of it."""


@dataclass(frozen=True)
class MachineBrought(Work, kind="machine"):
    """A machine that compacts on this job."""

    machine: Machine


@dataclass(frozen=True)
class LiftWork(Work):
    """Work on one lift, or on the formation."""

    lift: LiftName

    def wrong(self, there: Circumstances) -> Wrong | None:
        return None if self.lift in there.surfaces else not_called("lift", "surface of this base", self.lift)


@dataclass(frozen=True)
class StationWork(LiftWork):
    """Work at a station of a lift."""

    station: Name

    def wrong(self, there: Circumstances) -> Wrong | None:
        if found := super().wrong(there):
            return found
        return None if self.station in there.stations else not_called("station", "station", self.station)


@dataclass(frozen=True)
class Spread(StationWork, kind="spread"):
    """How thick a lift lies before it is compacted, at a station."""

    thickness: Layered


@dataclass(frozen=True)
class Moisture(LiftWork, kind="moisture"):
    """How wet a lift is: by a handful squeezed, or by number, a share of the dry mass."""

    feel: Feel | None = None
    share: Share | None = None


@dataclass(frozen=True)
class Passed(LiftWork, kind="pass"):
    """A lift gone over once in a direction with the machine brought as `machine`; `patch` is the part of the area,
    all of it where none is named."""

    machine: EntryId
    direction: Direction
    patch: Annotated[str, Len(0, 8), doc("A patch's number; all of the area where left out.")] = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        if found := super().wrong(there):
            return found
        if self.machine not in there.of_kind(MachineBrought):
            return not_called("machine", "machine before it", self.machine)
        if self.patch and self.patch not in there.patches:
            return not_called("patch", "patch of this area", self.patch)
        return None


@dataclass(frozen=True)
class Tamped(LiftWork, kind="tamped"):
    """A lift tamped by hand along the side from corner `side` to the next."""

    side: Annotated[int, Interval(ge=0, le=500)]

    def wrong(self, there: Circumstances) -> Wrong | None:
        return super().wrong(there) or no_side("side", self.side, there)


@dataclass(frozen=True)
class Scarified(LiftWork, kind="scarified"):
    """The top of a lift loosened so deep: what was compacted before no longer counts."""

    depth: Layered


@dataclass(frozen=True)
class ToppedUp(StationWork, kind="topped_up"):
    """A skin of stone added at a station on a lift that came out low."""

    thickness: Layered
    scarified: bool = False


@dataclass(frozen=True)
class Settling(StationWork, kind="settling"):
    """The rod before and after one pass at a station, once `after_passes` had gone before and this one: what it reads
    more is what the lift settled by."""

    after_passes: Annotated[int, Interval(ge=1, le=1000)]
    before: Rod
    after: Rod

    def wrong(self, there: Circumstances) -> Wrong | None:
        if found := super().wrong(there):
            return found
        if there.is_now and self.after.metres < self.before.metres - RISEN - 1e-9:
            return Wrong("after", Words("the lift would have risen under the machine: are before and after swapped?"))
        return None


@dataclass(frozen=True)
class Weather(LiftWork, kind="weather"):
    """The weather over a lift, in words."""

    words: Words500


@dataclass(frozen=True)
class LaboratoryTest(Work, kind="laboratory"):
    """A laboratory's compaction points of a material: moistures, shares of the dry mass, and dry densities, kg/m³."""

    material: Name
    moistures: Annotated[tuple[Share, ...], Len(1, 50)]
    densities: Annotated[tuple[Annotated[float, Interval(gt=0, le=5000)], ...], "densities_kg_m3", Len(1, 50)]
    gravity: Gravity
    by: Words500 = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        if found := _no_material(self.material):
            return found
        try:
            CompactionCurve(self.moistures, self.densities, self.gravity)
        except NotACurve as error:
            return Wrong("moistures", Words("{said}", names={"said": str(error)}))
        return None


@dataclass(frozen=True)
class PlacedTest(LiftWork):
    """A test taken at a place of a lift."""

    place: Name
    at: Point

    def wrong(self, there: Circumstances) -> Wrong | None:
        if found := super().wrong(there):
            return found
        if there.is_now and not there.is_on_the_area(self.at):
            said = "that is not on this area: a test says something of the place it was taken at"
            return Wrong("at", Words(said))
        return None


@dataclass(frozen=True)
class GaugeTest(PlacedTest, kind="gauge"):
    """A density gauge at a test place: wet density, kg/m³, moisture, a share of the dry mass, and the share of
    `oversize` that the laboratory kept out of its mould, with its specific gravity."""

    wet: Annotated[float, "wet_kg_m3", Interval(gt=0, le=5000)]
    moisture: Share
    oversize: Annotated[float, Interval(ge=0, le=1)] = 0.0
    oversize_gravity: Gravity = 2.65


@dataclass(frozen=True)
class SandTest(PlacedTest, kind="sand"):
    """A hole dug at a test place and filled with sand: sand used and left in the cone, kg, its density, kg/m³, what
    came out of the hole, kg, and its moisture, a share of the dry mass."""

    used: Annotated[float, "used_kg", Interval(gt=0, le=100)]
    cone: Annotated[float, "cone_kg", Interval(ge=0, le=100)]
    sand: Annotated[float, "sand_kg_m3", Interval(gt=0, le=3000)]
    wet: Annotated[float, "wet_kg", Interval(gt=0, le=200)]
    moisture: Share
    oversize: Annotated[float, Interval(ge=0, le=1)] = 0.0
    oversize_gravity: Gravity = 2.65

    def wrong(self, there: Circumstances) -> Wrong | None:
        if found := super().wrong(there):
            return found
        if there.is_now and self.used <= self.cone:
            return Wrong("used", Words("more sand is used than stays in the cone: the rest fills the hole"))
        return None


@dataclass(frozen=True)
class WeightTest(PlacedTest, kind="weight"):
    """A light falling weight at a test place: what its plate settled by in three drops, metres."""

    drops: Annotated[tuple[Annotated[float, Interval(gt=0, le=0.1)], ...], "drops_m", Len(3, 3)]


@dataclass(frozen=True)
class SpikeTest(PlacedTest, kind="spike"):
    """A spike pushed in by hand with a person's weight at a test place, and how far it went."""

    sank: Layered


@dataclass(frozen=True)
class ConeTest(PlacedTest, kind="cone"):
    """A cone penetrometer at a test place: total depth, metres, after each number of blows in all; `soil` as in
    `strength.cbr_from_penetration`."""

    blows: Annotated[tuple[Annotated[int, Interval(ge=0, le=100_000)], ...], Len(3, 501)]
    depths: Annotated[tuple[Annotated[float, Interval(ge=0, le=3)], ...], "depths_m", Len(3, 501)]
    soil: Literal["", "CH", "CL"] = ""


@dataclass(frozen=True)
class ProofRoll(PlacedTest, kind="proof_roll"):
    """A loaded vehicle driven over it: the deepest rut it left; `pumps` where the ground moved under it."""

    vehicle: Name
    rut: Layered
    pumps: bool = False


@dataclass(frozen=True)
class SoftSpot(Work, kind="soft_spot"):
    """Ground that gives, drawn on the plan, and how deep it goes."""

    name: Name
    corners: tuple[Point, ...]
    depth: Layered


@dataclass(frozen=True)
class Cured(Work, kind="cured"):
    """What was done about a soft spot: in so many lifts of stone, or with `dose` of binder, a share of the soil's dry
    mass, mixed in `on` a day."""

    spot: EntryId
    how: CureKind
    on: date
    lifts: Annotated[int, Interval(ge=1, le=50)] = 1
    dose: Annotated[float, Interval(ge=0, le=0.2), doc("A share of the soil's dry mass.")] = 0.0

    def wrong(self, there: Circumstances) -> Wrong | None:
        return None if self.spot in there.of_kind(SoftSpot) else not_called("spot", "soft spot before it", self.spot)


@dataclass(frozen=True)
class FabricLaid(LiftWork, kind="fabric"):
    """Separation fabric on a surface: the least overlap as measured, whether each length lies over the next one down
    the fall like roof tiles, and how far it is turned up the sides."""

    overlap: Layered
    with_the_flow: bool
    up_sides: Layered


@dataclass(frozen=True)
class Delivered(Work, kind="delivered"):
    """A ticket: what came, kg, the hash of a photo of it, and the order it is of, where whoever took it said so."""

    ticket: Name
    material: Name
    mass: Annotated[float, "mass_kg", Interval(gt=0, le=100_000)]
    note: Words500 = ""
    photo: Annotated[str, PHOTO_IF_ANY, doc("SHA-256 of a photo kept beside the record.")] = ""
    order: Annotated[
        str, Len(0, 80), doc("The id of the order it is of; the oldest of that material if left out.")
    ] = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        return _no_material(self.material)


@dataclass(frozen=True)
class Poured(Work, kind="poured"):
    """A bound base poured on a day: m³ by the tickets, the air's temperature, °C, and what the ground gave under the
    loaded truck; `at` is when the last of it was placed, where anybody said."""

    on: date
    volume: Annotated[float, "volume_m3", Interval(gt=0, le=1000)]
    celsius: Annotated[float, Interval(ge=-40, le=60)]
    deflection: Layered
    ticket: Line = ""
    at: datetime | None = None

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.at is not None and self.at.date() != self.on:
            return Wrong("at", Words("a minute of the day it was poured"))
        return None


@dataclass(frozen=True)
class Competent(Work, kind="competent"):
    """A competent person's or an engineer's word on the dig: its sides, its depth, what stands beside it."""

    by: Name
    role: Name
    words: Words500


DensityTest = GaugeTest | SandTest


def _no_material(material: str) -> Wrong | None:
    return None if material in catalogue() else not_called("material", "material", material)
