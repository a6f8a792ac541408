"""How the paving was seated, what was wrong with any unit and mended, and how its joints were filled."""

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Annotated

from annotated_types import Interval, Len, doc

from groundwork.kinds import (
    AnchorId,
    Circumstances,
    Entry,
    EntryId,
    Key,
    Layered,
    Line,
    Name,
    Signed,
    Wrong,
    no_minute,
    not_called,
    not_holding,
)
from groundwork.measures import Words
from groundwork.surfaces import Point

HIGHEST_LIP, DEEPEST = 0.1, 0.2
"""Metres: no lip is higher, no joint deeper (common practice)."""
MOST_FILL = 10_000.0
MOST_SPOTS = 20
"""Joints are taped at so many places of a patch at most."""
AN_AREA = Annotated[str, Len(0, 8), doc("A patch's number; all of the area where left out.")]


class UnitFace(StrEnum):
    """What units are like on top: a lip between flat ones is felt sooner than one between riven ones."""

    FLAT = "flat"
    TEXTURED = "textured"
    RIVEN = "riven"


class FaultKind(StrEnum):
    """What may be wrong with a unit as it lies."""

    ROCKS = "rocks"
    CRACKED = "cracked"
    CHIPPED = "chipped"
    HOLLOW = "hollow"


class PavedWork(Entry):
    """Something done or found of paving that lies, or of its joints."""


def _no_patch(patch: str, there: Circumstances) -> Wrong | None:
    return None if not patch or patch in there.patches else not_called("patch", "patch of this area", patch)


@dataclass(frozen=True)
class LaidShot(PavedWork, kind="laid_high", mends="reading"):
    """What was read on units at a station before they were seated, against what `set_up` names; `sure` where it
    looked misread and whoever read it says that it does read that."""

    station: Name
    set_up: AnchorId
    reading: Signed
    sure: bool = False

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.station not in there.stations:
            return not_called("station", "station", self.station)
        return not_holding("set_up", self.set_up, there)


@dataclass(frozen=True)
class FaceSeen(PavedWork, kind="face"):
    """What the units are like on top."""

    face: UnitFace


@dataclass(frozen=True)
class AtAPlace(PavedWork):
    """Something found at a place on the plan."""

    at: Annotated[Point, "at_m"]

    def wrong(self, there: Circumstances) -> Wrong | None:
        if there.is_now and not there.is_on_the_area(self.at):
            return Wrong("at", Words("that is not on this area"))
        return None


@dataclass(frozen=True)
class UnitFault(AtAPlace, kind="unit_fault"):
    """A unit that has to be mended, with what is wrong with it."""

    fault: FaultKind
    words: Line = ""


@dataclass(frozen=True)
class LipTaped(AtAPlace, kind="lip", mends="lip"):
    """How far a unit stands over the one beside it, at a place; anew where it was taped before."""

    lip: Layered

    def wrong(self, there: Circumstances) -> Wrong | None:
        if not 0 <= self.lip.metres <= HIGHEST_LIP:
            return Wrong("lip", Words("between {least} and {most}", {"least": 0.0, "most": HIGHEST_LIP}))
        return super().wrong(there)


@dataclass(frozen=True)
class UnitMended(PavedWork, kind="unit_mended"):
    """A unit lifted and laid again, or changed."""

    found: EntryId

    def wrong(self, there: Circumstances) -> Wrong | None:
        known = self.found in there.of_kind(UnitFault) or self.found in there.of_kind(LipTaped)
        return None if known else not_called("found", "unit to mend before it", self.found)


@dataclass(frozen=True)
class FillUsed(PavedWork, kind="fill_used"):
    """What went into the joints of a patch, kg, more than was recorded of it before."""

    mass: Annotated[float, "mass_kg", Interval(gt=0, le=MOST_FILL)]
    patch: AN_AREA = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        return _no_patch(self.patch, there)


@dataclass(frozen=True)
class FillStepDone(PavedWork, kind="fill_step"):
    """A step of filling joints done at a minute of a day: on a patch, or all over."""

    step: Key
    at: datetime
    patch: AN_AREA = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        return no_minute("at", self.at) or _no_patch(self.patch, there)


@dataclass(frozen=True)
class JointDepth(PavedWork, kind="joint_depth", mends="below"):
    """How far the filling lies below the edge of the units at a place of a patch, above it below nought; anew where
    it was taped before."""

    patch: Annotated[str, Len(1, 8)]
    spot: Annotated[int, Interval(ge=1, le=MOST_SPOTS), doc("Which place of the patch, counted from 1.")]
    below: Signed

    def wrong(self, there: Circumstances) -> Wrong | None:
        if not -DEEPEST <= self.below.metres <= DEEPEST:
            return Wrong("below", Words("between {least} and {most}", {"least": -DEEPEST, "most": DEEPEST}))
        return _no_patch(self.patch, there)


@dataclass(frozen=True)
class AirRead(PavedWork, kind="air"):
    """How warm the air and the surface were, °C, how damp the air, a share, at a minute of a day; the `chance` of
    rain in any one hour of those that follow, a share, where a forecast says."""

    at: datetime
    celsius: Annotated[float, Interval(ge=-40, le=60)]
    humidity: Annotated[float, Interval(gt=0, le=1)]
    surface: Annotated[float, "surface_celsius", Interval(ge=-40, le=90)]
    chance: Annotated[float | None, Interval(ge=0, le=1)] = None

    def wrong(self, _there: Circumstances) -> Wrong | None:
        return no_minute("at", self.at)
