"""What is read, taped, moved and located on site, as plain values, each with what it must find standing."""

import math
from dataclasses import dataclass
from datetime import date
from typing import Annotated, Literal

from annotated_types import Interval, Len, doc

from groundwork.base import SurfaceKey
from groundwork.kinds import (
    LINK,
    LOST,
    AnchorId,
    Bar,
    Circumstances,
    Entry,
    EntryId,
    Layered,
    Level,
    Name,
    OnPlan,
    Rod,
    Signed,
    SurfaceName,
    Words400,
    Wrong,
    no_side,
    not_called,
)
from groundwork.measures import Words
from groundwork.surfaces import Point
from groundwork.tools import (
    HEIGHT_METER,
    LASER,
    STRAIGHTEDGE,
    STRING,
    STRING_TENSION,
    STRING_WEIGHT,
    TAPE,
    Instrument,
)

SHORTEST_STRING = 0.1
BELOW_THE_ROD = "less than nothing on a rod: readings start at 0"


@dataclass(frozen=True)
class SetUp(Entry, kind="set_up", mends="backsight"):
    """The level set up by a backsight on a mark or turning point; `at` is where it stands, if known."""

    mark: Name
    backsight: Rod
    instrument: Instrument = LASER
    at: Point | None = None

    def wrong(self, there: Circumstances) -> Wrong | None:
        return _unknown_mark("mark", self.mark, there)


@dataclass(frozen=True)
class Foresight(Entry, kind="foresight", mends="reading"):
    """A sight on a mark, to check or to close, or on a turning point before the level moves."""

    set_up: AnchorId
    point: Name
    reading: Rod
    at: Point | None = None

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.set_up not in there.of_kind(SetUp):
            return _lost("set_up", self.set_up, there)
        if found := _not_held(self.set_up, there):
            return found
        if there.is_now and there.is_knocked(self.point):
            return Wrong("point", Words("“{name}” was knocked: choose another", names={"name": self.point}))
        return None


@dataclass(frozen=True)
class MeterBase(Entry, kind="meter_base", mends="shows"):
    """The height meter's base on a mark, where it shows `shows`: nothing, when it was set to zero."""

    mark: Name
    shows: Signed
    instrument: Instrument = HEIGHT_METER

    def wrong(self, there: Circumstances) -> Wrong | None:
        return _unknown_mark("mark", self.mark, there)


@dataclass(frozen=True)
class StringLine(Entry, kind="string"):
    """A string from one place to another, so high above the finished level there; `start_level` and `end_level`
    are what that came to when it was tied. `weight` is in grams a metre, `tension` in newtons."""

    start: Name
    end: Name
    start_at: Point
    end_at: Point
    start_height: Layered
    end_height: Layered
    start_level: Annotated[Level, "start_level_m"]
    end_level: Annotated[Level, "end_level_m"]
    weight: Annotated[float, "weight_g_m", Interval(ge=0, le=100), doc("Grams a metre.")] = STRING_WEIGHT
    tension: Annotated[float, "tension_n", Interval(gt=0, le=1000), doc("Newtons.")] = STRING_TENSION
    instrument: Instrument = STRING

    def wrong(self, there: Circumstances) -> Wrong | None:
        if math.dist(self.start_at, self.end_at) < SHORTEST_STRING:
            return Wrong("end_at", Words("a string runs from one place to another"))
        return None


@dataclass(frozen=True)
class TapeDatum(Entry, kind="tape"):
    """Depths taped down from the existing ground as its spot levels give it."""

    instrument: Instrument = TAPE


Anchor = SetUp | MeterBase | StringLine | TapeDatum
"""What a reading may be taken against."""


@dataclass(frozen=True)
class Reading(Entry, kind="reading", mends="reading"):
    """What was read at a station against what `set_up` names: a level, a string, a height meter's base, the ground.

    `same_ground`: the surface is as it was at the reading before. `sure`: it was asked about and stands.
    """

    station: Name
    set_up: AnchorId
    reading: Signed
    same_ground: bool = False
    surface: SurfaceName = SurfaceKey.FORMATION
    sure: bool = False

    def wrong(self, there: Circumstances) -> Wrong | None:
        if found := _no_place("station", self.station, self.surface, there):
            return found
        if not any(self.set_up in there.of_kind(kind) for kind in (SetUp, MeterBase, StringLine, TapeDatum)):
            return _lost("set_up", self.set_up, there)
        if found := _not_held(self.set_up, there) or _below_the_rod(self.set_up, self.reading.metres, there):
            return found
        if there.is_now and not there.can_be_read(self.station, self.surface, self.set_up):
            return Wrong("reading", Words("that cannot be read from here: choose another station, or set up anew"))
        return None


@dataclass(frozen=True)
class FallCheck(Entry, kind="fall", mends="gap"):
    """A straightedge held level from one station towards another: the gap under its far end, over its length."""

    start: Name
    end: Name
    length: Bar
    gap: Signed
    surface: SurfaceName = SurfaceKey.FORMATION
    instrument: Instrument = STRAIGHTEDGE

    def wrong(self, there: Circumstances) -> Wrong | None:
        found = _no_place("start", self.start, self.surface, there) or _no_place("end", self.end, self.surface, there)
        if not found and self.start == self.end:
            return Wrong("end", Words("a fall is between two stations"))
        return found


@dataclass(frozen=True)
class Fill(Entry, kind="fill"):
    """Material put back at a station and compacted."""

    station: Name
    material: Literal["stone", "soil"]
    lifts: Annotated[int, Interval(ge=1, le=50)] = 1

    @property
    def is_stone(self) -> bool:
        return self.material == "stone"

    def wrong(self, there: Circumstances) -> Wrong | None:
        return _no_place("station", self.station, SurfaceKey.FORMATION, there)


@dataclass(frozen=True)
class Strike(Entry, kind="strike", struck=False):
    """Strikes out an earlier entry, which stays in the record but no longer counts."""

    strikes: EntryId
    reason: Annotated[str, Len(0, 500)] = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        named = there.entry(self.strikes)
        return None if named and named.CAN_BE_STRUCK else not_called("strikes", _BEFORE, self.strikes)


@dataclass(frozen=True)
class Correction(Entry, kind="correction"):
    """What an earlier entry should have read; the first stays in the record."""

    corrects: EntryId
    reading: Signed
    reason: Words400 = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        named = there.entry(self.corrects)
        if named is None or not named.MENDS:
            return not_called("corrects", "reading before it that counts", self.corrects)
        if isinstance(named, SetUp | Foresight) and self.reading.metres < 0:
            return Wrong("reading", Words(BELOW_THE_ROD))
        return _below_the_rod(named.set_up, self.reading.metres, there) if isinstance(named, Reading) else None


@dataclass(frozen=True)
class Disturbance(Entry, kind="disturbed"):
    """A mark or turning point was knocked: nothing hung on it from the set-up `since` on, or ever, is known."""

    point: Name
    since: Annotated[str, Len(0, 80), LINK] = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        if not there.is_point(self.point):
            return not_called("point", _POINT, self.point)
        if self.since and self.since not in there.of_kind(SetUp):
            return not_called("since", "set-up before it", self.since)
        return None


@dataclass(frozen=True)
class PegDistance(Entry, kind="distance", mends="length"):
    """A side or diagonal as taped between two pegs, P1 on the first corner."""

    start: Name
    end: Name
    length: OnPlan
    instrument: Instrument = TAPE

    def wrong(self, there: Circumstances) -> Wrong | None:
        found = _no_peg("start", self.start, there) or _no_peg("end", self.end, there)
        return Wrong("end", Words("between two different pegs")) if not found and self.start == self.end else found


@dataclass(frozen=True)
class PegMove(Entry, kind="peg_move"):
    """A peg was moved: what was taped to it before no longer holds."""

    peg: Name

    def wrong(self, there: Circumstances) -> Wrong | None:
        return _no_peg("peg", self.peg, there)


@dataclass(frozen=True)
class MarginMeasured(Entry, kind="margin"):
    """How far the dig passes the paved edge on the side from corner `side` to the next, 0 the first."""

    side: Annotated[int, Interval(ge=0, le=499)]
    width: Layered

    def wrong(self, there: Circumstances) -> Wrong | None:
        return no_side("side", self.side, there)


@dataclass(frozen=True)
class ServicesLocated(Entry, kind="services"):
    """Services located and marked: on what ticket, when, by whom and for how many days it holds; what the local
    colours mean and what was found, in words."""

    ticket: Name
    located_on: date
    life_days: Annotated[int, Interval(ge=0, le=366)]
    by: Name
    scheme: Words400 = ""
    found: Annotated[str, Len(0, 2000)] = ""


_POINT = "mark or turning point"
_BEFORE = "entry before it that counts and can be struck out"


def _unknown_mark(field: str, mark: str, there: Circumstances) -> Wrong | None:
    if not there.is_point(mark):
        return not_called(field, _POINT, mark)
    if there.is_now and not there.is_level_known(mark):
        return Wrong(field, Words("the level of “{name}” is not known", names={"name": mark}))
    return None


def _no_place(field: str, station: str, surface: str, there: Circumstances) -> Wrong | None:
    if surface not in there.levelled:
        return not_called("surface", "surface of this base", surface)
    return None if station in there.stations else not_called(field, "station", station)


def _no_peg(field: str, peg: str, there: Circumstances) -> Wrong | None:
    return None if peg in {f"P{n}" for n in range(1, there.sides + 1)} else not_called(field, "peg", peg)


def _lost(field: str, anchor: str, there: Circumstances) -> Wrong:
    """An anchor that is not there: one that was may have been struck out meanwhile."""
    return _gone() if there.is_now else not_called(field, "set-up before it", anchor)


def _not_held(anchor: str, there: Circumstances) -> Wrong | None:
    return _gone() if there.is_now and not there.holds(anchor) else None


def _gone() -> Wrong:
    said = "that set-up no longer counts: send it again only if it was read from the present one"
    return Wrong("reading", Words(said), LOST)


def _below_the_rod(anchor: str, metres: float, there: Circumstances) -> Wrong | None:
    """A level reads no less than nothing on its rod."""
    return Wrong("reading", Words(BELOW_THE_ROD)) if metres < 0 and anchor in there.of_kind(SetUp) else None
