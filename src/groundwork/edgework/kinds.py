"""What stands along the edges and how it was set: runs side by side, their tops joint by joint, their line."""

from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from typing import Annotated, Literal

from annotated_types import Interval, doc

from groundwork.kinds import (
    AnchorId,
    Circumstances,
    Entry,
    EntryId,
    Layered,
    OnPlan,
    Signed,
    Wrong,
    no_minute,
    no_side,
    not_called,
    not_holding,
)
from groundwork.measures import Words


class EdgeKind(StrEnum):
    """What an edge is made of."""

    KERB = "kerb"
    CHANNEL = "channel"
    SPIKED = "spiked edging"
    CONCRETE = "concrete edge"
    ANGLE = "angle on a slab"
    FORM = "form"
    WALL = "wall that is there"

    @property
    def is_bedded(self) -> bool:
        """Whether its units stand in a bed of semi-dry concrete."""
        return self in (EdgeKind.KERB, EdgeKind.CHANNEL)

    @property
    def is_set_in_concrete(self) -> bool:
        """Whether something of it has to set before a plate comes near."""
        return self.is_bedded or self is EdgeKind.CONCRETE


SIZES = {"length": (0.05, 6.0), "width": (0.003, 1.0), "height": (0.02, 1.0)}
"""Of a unit of an edge, metres: what there is (common practice)."""
UPSTANDS = (-0.1, 0.5)
WIDEST_JOINT = 0.05
MOST_JOINTS = 5000
FARTHEST_OFF = 1.0
HIGHEST_STRING = 0.5


def between(least: float, most: float) -> Words:
    return Words("between {least} and {most}", signed={"least": least, "most": most})


class EdgeWork(Entry):
    """Something planned or set of an edge."""


@dataclass(frozen=True)
class EdgePlanned(EdgeWork, kind="edge"):
    """What stands along the side from corner `side` to the next, its top `upstand` over the finished surface there;
    units `length` long with `joint` between them, `width` across and `height` high. A newer one along the same side
    takes its place, and that of what was set by it."""

    side: Annotated[int, Interval(ge=0, le=500)]
    what: EdgeKind
    upstand: Signed
    length: OnPlan
    joint: Layered
    width: Layered
    height: Layered

    def wrong(self, there: Circumstances) -> Wrong | None:
        if found := no_side("side", self.side, there):
            return found
        for name, (least, most) in SIZES.items():
            if not least - 1e-9 <= getattr(self, name).metres <= most + 1e-9:
                limits = {"least": least, "most": most}
                if name == "length":
                    return Wrong(name, Words("between {least} and {most}", distances=limits))
                return Wrong(name, Words("between {least} and {most}", limits))
        if not UPSTANDS[0] <= self.upstand.metres <= UPSTANDS[1]:
            return Wrong("upstand", between(*UPSTANDS))
        if not 0 <= self.joint.metres <= WIDEST_JOINT:
            return Wrong("joint", Words("between {least} and {most}", {"least": 0.0, "most": WIDEST_JOINT}))
        if there.side_length(self.side) / self.length.metres > MOST_JOINTS:
            return Wrong("length", Words("more than {n} units along this side", counts={"n": MOST_JOINTS}))
        return None


@dataclass(frozen=True)
class JointWork(EdgeWork):
    """Something measured at a joint of an edge, counted from 0 where the side begins."""

    edge: EntryId
    joint: Annotated[int, Interval(ge=0, le=MOST_JOINTS)]

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.edge not in there.of_kind(EdgePlanned):
            return not_called("edge", "edge before it", self.edge)
        most = there.joints(self.edge)
        if self.joint > most:
            return Wrong("joint", Words("it has {n} joints, counted from 0", counts={"n": most + 1}))
        return None


@dataclass(frozen=True)
class TopWork(JointWork):
    """How high an edge stands at a joint."""


@dataclass(frozen=True)
class EdgeShot(TopWork, kind="edge_top", mends="reading"):
    """What was read on top of an edge at a joint, against what `set_up` names; `sure` where it looked misread and
    whoever read it says that it does read that."""

    set_up: AnchorId
    reading: Signed
    sure: bool = False

    def wrong(self, there: Circumstances) -> Wrong | None:
        return super().wrong(there) or not_holding("set_up", self.set_up, there)


@dataclass(frozen=True)
class EdgeStrung(TopWork, kind="edge_string", mends="down"):
    """How far the top lies below a tight string, pulled so far `over` the tops at both ends as they are set."""

    over: Layered
    down: Signed

    def wrong(self, there: Circumstances) -> Wrong | None:
        if not 0 < self.over.metres <= HIGHEST_STRING:
            return Wrong("over", Words("between {least} and {most}", {"least": 0.001, "most": HIGHEST_STRING}))
        if abs(self.down.metres) > FARTHEST_OFF:
            return Wrong("down", between(-FARTHEST_OFF, FARTHEST_OFF))
        if found := super().wrong(there):
            return found
        if self.joint in (0, there.joints(self.edge)):
            return Wrong("joint", Words("the string is tied there: set both ends by level"))
        return None


@dataclass(frozen=True)
class EdgeLined(JointWork, kind="edge_line", mends="off"):
    """How far an edge stands off its line at a joint, away from the paving; towards it with a minus."""

    off: Annotated[Signed, doc("Metres off the string or the curve's own line.")]

    def wrong(self, there: Circumstances) -> Wrong | None:
        if abs(self.off.metres) > FARTHEST_OFF:
            return Wrong("off", between(-FARTHEST_OFF, FARTHEST_OFF))
        return super().wrong(there)


@dataclass(frozen=True)
class EdgeBedded(EdgeWork, kind="edge_bedded"):
    """Bed and haunch of an edge made at a minute of a day, and how warm it is to be on the whole until it has set,
    °C."""

    edge: EntryId
    at: datetime
    celsius: Annotated[float, Interval(ge=-40, le=60)]

    def wrong(self, there: Circumstances) -> Wrong | None:
        planned = there.of_kind(EdgePlanned).get(self.edge)
        if planned is None:
            return not_called("edge", "edge before it", self.edge)
        if not planned.what.is_set_in_concrete:
            return Wrong("edge", Words("nothing of it has to set"))
        return no_minute("at", self.at)


@dataclass(frozen=True)
class BoardLeft(EdgeWork, kind="board"):
    """A board of forms, counted from 1, that is left `out` for the barrow, or closed again; one at a time."""

    edge: EntryId
    board: Annotated[int, Interval(ge=1, le=MOST_JOINTS)]
    out: bool

    def wrong(self, there: Circumstances) -> Wrong | None:
        planned = there.of_kind(EdgePlanned).get(self.edge)
        if planned is None or planned.what is not EdgeKind.FORM:
            return Wrong("edge", Words("no forms were planned there"))
        if self.board > (most := there.joints(self.edge)):
            return Wrong("board", Words("it has {n} boards", counts={"n": most}))
        standing = {e.side: e.id for e in there.of_kind(EdgePlanned).values()}.values()
        now = {e.edge: e for e in there.of_kind(BoardLeft).values() if e.edge in standing}
        open_ones = [e for e in now.values() if e.out and (e.edge, e.board) != (self.edge, self.board)]
        if self.out and open_ones and there.is_now:
            return Wrong("board", Words("one board at a time: board {n} is out", counts={"n": open_ones[0].board}))
        return None


@dataclass(frozen=True)
class SideWork(EdgeWork):
    """Something of a side of the area."""

    side: Annotated[int, Interval(ge=0, le=500)]

    def wrong(self, there: Circumstances) -> Wrong | None:
        return no_side("side", self.side, there)


@dataclass(frozen=True)
class SideHeld(SideWork, kind="side_held"):
    """That what is there already holds the paving along a side."""

    holds: Literal["wall", "paving", "kerb", "slab"]


@dataclass(frozen=True)
class SpikesDriven(EdgeWork, kind="spikes"):
    """How many spikes were driven into a run of edging, all of them; anew where they were counted before."""

    edge: EntryId
    number: Annotated[int, Interval(ge=0, le=MOST_JOINTS)]

    def wrong(self, there: Circumstances) -> Wrong | None:
        planned = there.of_kind(EdgePlanned).get(self.edge)
        if planned is None:
            return not_called("edge", "edge before it", self.edge)
        return None if planned.what is EdgeKind.SPIKED else Wrong("edge", Words("no spikes go into it"))


@dataclass(frozen=True)
class Backfilled(SideWork, kind="backfilled", mends="below"):
    """How far the soil behind a side lies below the paving, above it below nought."""

    below: Signed

    def wrong(self, there: Circumstances) -> Wrong | None:
        if abs(self.below.metres) > FARTHEST_OFF:
            return Wrong("below", between(-FARTHEST_OFF, FARTHEST_OFF))
        return super().wrong(there)
