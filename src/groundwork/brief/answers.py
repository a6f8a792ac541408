"""What the job has to be: its use, its ground, its season, and the heights and outlets it has to meet."""

from dataclasses import dataclass
from enum import StrEnum

from groundwork.surfaces import Point


class Traffic(StrEnum):
    """What goes over it: garden machines are `LIGHT`, cars and light vans `DRIVE`, anything more `HEAVY`."""

    FOOT = "foot"
    LIGHT = "light"
    DRIVE = "drive"
    HEAVY = "heavy"

    @property
    def wheels(self) -> bool:
        return self in (Traffic.DRIVE, Traffic.HEAVY)


class Soil(StrEnum):
    """What the ground is made of, as one knows it by hand and eye."""

    ROCK = "rock"
    GRAVEL = "gravel"
    SAND = "sand"
    SILT = "silt"
    CLAY = "clay"
    PEAT = "peat"

    @property
    def is_fine(self) -> bool:
        """Whether it works up into clean stone when it is wet."""
        return self in (Soil.SILT, Soil.CLAY, Soil.PEAT)


class Season(StrEnum):
    """The weather the work is done in."""

    DRY = "dry"
    WET = "wet"
    FREEZING = "freezing"


class Neighbour(StrEnum):
    """An existing base that the new one lies against."""

    NONE = "none"
    DENSE = "dense"
    OPEN = "open"
    BOUND = "bound"


class DustControl(StrEnum):
    """What keeps stone dust out of lungs where pavers are cut."""

    NONE = "none"
    WATER = "water"
    EXTRACTION = "extraction"
    MASK = "mask"


UNIT_THICKNESS = (0.010, 0.300)
WIDEST_JOINT = 0.050
"""Metres; thinner or wider than these is a slip of the pen (common practice, no published source)."""


@dataclass(frozen=True)
class Brief:
    """What the client and the ground ask for. `infiltration` is the ground's own, m/s; `storm` the depth of
    rain to store, m; `axles` the 80 kN axles it has to carry in its life. `paver` is the material of the units that
    were chosen, with their thickness and joint where those were, nothing where nobody has said; `by_others` where
    this crew makes the base and somebody else paves; `sound_slab` where a slab that can carry the paving is there."""

    traffic: Traffic
    soil: Soil
    frost: bool = False
    season: Season = Season.DRY
    neighbour: Neighbour = Neighbour.NONE
    raised: bool = False
    engineer: str = ""
    level_access: str = ""
    cutting: bool = True
    dust_control: DustControl = DustControl.NONE
    infiltration: float | None = None
    storm: float = 0.050
    axles: float | None = None
    paver: str = ""
    paver_thickness: float | None = None
    joint: float | None = None
    by_others: bool = False
    sound_slab: bool = False


class HeightKind(StrEnum):
    """A height the finished surface has to meet; a damp-proof course it has to stay below."""

    THRESHOLD = "threshold"
    DAMP_PROOF_COURSE = "damp-proof course"
    DRAIN = "drain"
    BOUNDARY = "boundary"


DAMP_CLEARANCE = 0.150
"""Finished level at least this far below a damp-proof course: common national guidance; common practice."""


@dataclass(frozen=True)
class FixedHeight:
    """The finished surface at `at` lies from `level` − `down` to `level` + `up`; for a damp-proof course
    `level` is its own."""

    kind: HeightKind
    name: str
    at: Point
    level: float
    down: float = 0.0
    up: float = 0.0

    def bounds(self, level_access: bool = False) -> tuple[float | None, float | None]:
        """The least and the greatest finished level here; None where there is none."""
        if self.kind is HeightKind.DAMP_PROOF_COURSE:
            return None, self.level - (0.0 if level_access else DAMP_CLEARANCE)
        return self.level - self.down, self.level + self.up


@dataclass(frozen=True)
class Outlet:
    """Where water under the paving can go: a pipe from `at`, `run` long, to where the ground or the drain's
    invert is at `level`; it falls by the ratio `fall` and lies `cover` below what it collects from."""

    name: str
    at: Point
    run: float
    level: float
    fall: float = 0.01
    cover: float = 0.0


@dataclass(frozen=True)
class SpotLevel:
    """The existing ground at a point."""

    at: Point
    level: float


@dataclass(frozen=True)
class ConeLog:
    """A cone penetrometer driven at `name`: total depth, metres, after each number of blows in all.
    `soil` is what the formula is chosen by; None for the general one."""

    name: str
    blows: tuple[int, ...]
    depths: tuple[float, ...]
    soil: str = ""
