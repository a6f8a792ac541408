"""How the bed was laid out and measured: the plan of its rails, how each was set, and what seating took off."""

from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Literal

from annotated_types import Interval, Len, doc

from groundwork.kinds import (
    AnchorId,
    Circumstances,
    Entry,
    EntryId,
    Layered,
    Name,
    OnPlan,
    Signed,
    Wrong,
    no_minute,
    not_called,
    not_holding,
)
from groundwork.measures import Words

BOARDS, TUBES, LENGTHS = (0.5, 6.0), (0.008, 0.1), (0.5, 6.0)
"""A screed board, how high a rail is, and the lengths rails come in, metres: what there is (common practice)."""
HIGHEST_LAID = 0.1
"""Nobody lays a unit higher than this over its neighbour, nor does a rail hang so far, metres."""


class BedWork(Entry):
    """Something planned, set or tried of the bed."""


@dataclass(frozen=True)
class RailsPlanned(BedWork, kind="rails"):
    """Rails for a screed board, along the fall or across it, of tubes so high and at most so long. A newer plan takes
    the place of the one before, and of what was set by it."""

    board: OnPlan
    way: Literal["along", "across"]
    tube: Layered
    longest: OnPlan

    def wrong(self, _there: Circumstances) -> Wrong | None:
        for name, (least, most) in (("board", BOARDS), ("tube", TUBES), ("longest", LENGTHS)):
            if not least - 1e-9 <= getattr(self, name).metres <= most + 1e-9:
                limits = {"least": least, "most": most}
                if name == "tube":
                    return Wrong(name, Words("between {least} and {most}", limits))
                return Wrong(name, Words("between {least} and {most}", distances=limits))
        return None


@dataclass(frozen=True)
class RailWork(BedWork):
    """Something measured of one rail of a plan."""

    plan: EntryId
    rail: Name

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.plan not in there.of_kind(RailsPlanned):
            return not_called("plan", "plan of rails before it", self.plan)
        return None if self.rail in there.rails(self.plan) else not_called("rail", "rail of that plan", self.rail)


@dataclass(frozen=True)
class RailShot(RailWork, kind="rail", mends="reading"):
    """What was read on top of a rail at one of its ends, against what `set_up` names; `sure` where it looked misread
    and whoever read it says that it does read that."""

    end: Literal["start", "end"]
    set_up: AnchorId
    reading: Signed
    sure: bool = False

    def wrong(self, there: Circumstances) -> Wrong | None:
        return super().wrong(there) or not_holding("set_up", self.set_up, there)


@dataclass(frozen=True)
class RailDipped(RailWork, kind="rail_dipped", mends="gap"):
    """The gap under a string from end to end of a rail, at its middle."""

    gap: Layered

    def wrong(self, there: Circumstances) -> Wrong | None:
        if not 0 <= self.gap.metres <= HIGHEST_LAID:
            return Wrong("gap", Words("between {least} and {most}", {"least": 0.0, "most": HIGHEST_LAID}))
        return super().wrong(there)


@dataclass(frozen=True)
class BayWork(BedWork):
    """Something done in a bay of a plan of rails."""

    plan: EntryId
    bay: Name

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.plan not in there.of_kind(RailsPlanned):
            return not_called("plan", "plan of rails before it", self.plan)
        return None if self.bay in there.bays(self.plan) else not_called("bay", "bay of that plan", self.bay)


@dataclass(frozen=True)
class BayScreeded(BayWork, kind="screeded"):
    """A bay screeded at a minute of a day; anew where it was before."""

    at: datetime

    def wrong(self, there: Circumstances) -> Wrong | None:
        return no_minute("at", self.at) or super().wrong(there)


@dataclass(frozen=True)
class BayChecked(BayWork, kind="bay_checked", mends="along"):
    """The greatest gaps under a straightedge laid along a screeded bay and across it."""

    along: Layered
    across: Layered

    def wrong(self, there: Circumstances) -> Wrong | None:
        for name in ("along", "across"):
            if not 0 <= getattr(self, name).metres <= HIGHEST_LAID:
                return Wrong(name, Words("between {least} and {most}", {"least": 0.0, "most": HIGHEST_LAID}))
        return super().wrong(there)


@dataclass(frozen=True)
class BayClosed(BayWork, kind="bay_closed"):
    """A screeded bay that lies open no longer: units are laid on it, or it is sheeted for the night, or it was raked
    off again."""

    how: Literal["laid", "sheeted", "raked off"]


PARTS, MOST_MIXED = (1.0, 12.0), 5.0
"""Parts to one of cement, and m³ that are mixed at once: what there is (common practice)."""


@dataclass(frozen=True)
class BatchMixed(BedWork, kind="batch"):
    """A batch of mortar, 1 part of cement to `parts` by volume, so many m³ of it, mixed at a minute of a day, and how
    warm that was, °C."""

    at: datetime
    parts: Annotated[float, Interval(ge=PARTS[0], le=PARTS[1])]
    volume: Annotated[float, "volume_m3", Interval(gt=0, le=MOST_MIXED)]
    celsius: Annotated[float, Interval(ge=-40, le=60)]

    def wrong(self, _there: Circumstances) -> Wrong | None:
        return no_minute("at", self.at)


@dataclass(frozen=True)
class BatchEnded(BedWork, kind="batch_ended"):
    """What became of a batch: it was used up in its life, or what was left of it thrown away."""

    batch: EntryId
    how: Literal["used up", "thrown away"]

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.batch not in there.of_kind(BatchMixed):
            return not_called("batch", "batch before it", self.batch)
        return None


@dataclass(frozen=True)
class FlagLifted(BedWork, kind="flag_lifted"):
    """A flag lifted again to look at its back: which one, and how much of it the mortar had hold of, a share."""

    where: Annotated[str, Len(1, 80), doc("Which flag, in the crew's words.")]
    contact: Annotated[float, Interval(ge=0, le=1)]


@dataclass(frozen=True)
class TrialSeated(BedWork, kind="trial", mends="after"):
    """A unit of the trial patch: how far it stood over the edge it was laid against, before it was seated and
    after."""

    where: Annotated[str, Len(1, 80), doc("Which unit, in the crew's words.")]
    before: Layered
    after: Layered

    def wrong(self, _there: Circumstances) -> Wrong | None:
        if not 0 <= self.before.metres <= HIGHEST_LAID:
            return Wrong("before", Words("between {least} and {most}", {"least": 0.0, "most": HIGHEST_LAID}))
        if self.after.metres > self.before.metres + 1e-9:
            return Wrong("after", Words("seating brings a unit down: are before and after swapped?"))
        return None
