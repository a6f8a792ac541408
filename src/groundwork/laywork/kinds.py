"""How paving was laid out and laid: the layout that was chosen, its courses as taped, pieces, packs and progress."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Interval, Len, doc

from groundwork.kinds import (
    PHOTO_IF_ANY,
    Circumstances,
    Entry,
    EntryId,
    Key,
    Layered,
    Name,
    OnPlan,
    Taped,
    Wrong,
    not_called,
)
from groundwork.kinds import no_side as no_such_side
from groundwork.measures import Words
from groundwork.pattern import PavingUnit, pattern, pattern_keys

SIDES = {"length": (0.04, 3.0), "width": (0.03, 1.5)}
"""Of a unit, metres: what there is (common practice)."""
WIDEST_JOINT = 0.05
FARTHEST_TAPED = 200.0
_TAPED = {"least": 0.0, "most": FARTHEST_TAPED}
MOST_SHARED = 2000
TURNS = (0, 45, 90, 135)
FARTHEST_BEGUN = 10.0
Begun = Annotated[float, Interval(ge=-FARTHEST_BEGUN, le=FARTHEST_BEGUN)]


class LayWork(Entry):
    """Something chosen, laid or measured of the paving."""


@dataclass(frozen=True)
class LayoutChosen(LayWork, kind="layout"):
    """How the area is paved: a pattern of units with a joint, its border, from a string along a side, turned against
    it and begun so far along the side and ahead of it. A newer one takes the place of the one before, and of what was
    taped by it."""

    pattern: Annotated[Key, doc("running-half, herringbone …: a pattern's file")]
    length: Layered
    width: Layered
    joint: Layered
    side: Annotated[int, Interval(ge=0)]
    turned: Annotated[Literal[0, 45, 90, 135], "turned_deg"] = 0
    over: Annotated[Begun, "over_m"] = 0.0
    ahead: Annotated[Begun, "ahead_m"] = 0.0
    border: Literal["none", "across", "along", "double"] = "none"
    corner: Literal["mitred", "butted", "turned"] = "mitred"
    seed: Annotated[int, Interval(ge=1, le=9999), doc("Which draw, of a pattern that is drawn by lot.")] = 1

    @property
    def unit(self) -> PavingUnit:
        return PavingUnit(self.length.metres, self.width.metres, self.joint.metres)

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.pattern not in pattern_keys():
            return not_called("pattern", "pattern", self.pattern)
        for name, (least, most) in SIDES.items():
            if not least - 1e-9 <= getattr(self, name).metres <= most + 1e-9:
                return Wrong(name, Words("between {least} and {most}", {"least": least, "most": most}))
        if self.width.metres > self.length.metres + 1e-9:
            return Wrong("width", Words("the longer side first"))
        if not -1e-9 <= self.joint.metres <= WIDEST_JOINT:
            return Wrong("joint", Words("between {least} and {most}", {"least": 0.0, "most": WIDEST_JOINT}))
        for name in ("over", "ahead"):
            if not -FARTHEST_BEGUN <= getattr(self, name) <= FARTHEST_BEGUN:
                limits = {"least": -FARTHEST_BEGUN, "most": FARTHEST_BEGUN}
                return Wrong(name, Words("between {least} and {most}", distances=limits))
        if why := pattern(self.pattern, self.seed).wrong(self.unit):
            return Wrong("length", Words(why))
        return no_such_side("side", self.side, there) or there.cannot_be_laid(self)


@dataclass(frozen=True)
class OfALayout(LayWork):
    """Something of the layout that was chosen."""

    layout: EntryId

    def wrong(self, there: Circumstances) -> Wrong | None:
        if self.layout not in there.of_kind(LayoutChosen):
            return not_called("layout", "layout before it", self.layout)
        return None

    def no_row(self, row: int, there: Circumstances) -> Wrong | None:
        """That the layout has no such row; None where it has."""
        last = there.rows(self.layout)
        return None if 1 <= row <= last else Wrong("row", Words("rows are counted from 1 to {n}", counts={"n": last}))


@dataclass(frozen=True)
class PiecesShared(OfALayout, kind="pieces_shared"):
    """Pieces too small, each cut anew with the whole unit beside it: two alike."""

    pieces: Annotated[tuple[Name, ...], Len(1, MOST_SHARED)]

    def wrong(self, there: Circumstances) -> Wrong | None:
        if wrong := super().wrong(there):
            return wrong
        pieces = there.pieces(self.layout)
        return next((not_called("pieces", "piece", name) for name in self.pieces if name not in pieces), None)


@dataclass(frozen=True)
class CourseTaped(OfALayout, kind="course", mends="tape"):
    """What was taped from the string to the far face of a row, at its left, in its middle or at its right; `sure`
    where it looked misread and whoever taped it says that it is so."""

    row: Annotated[int, Interval(ge=1)]
    spot: Literal["left", "middle", "right"]
    tape: Taped
    sure: bool = False

    def wrong(self, there: Circumstances) -> Wrong | None:
        return super().wrong(there) or self.no_row(self.row, there)


@dataclass(frozen=True)
class ModuleTaped(OfALayout, kind="module", mends="tape"):
    """From the near face of a unit to the near face of the tenth after it, across the courses."""

    tape: Layered

    def wrong(self, there: Circumstances) -> Wrong | None:
        if wrong := super().wrong(there):
            return wrong
        least, most = (10 * each for each in there.modules(self.layout))
        if not least - 1e-9 <= self.tape.metres <= most + 1e-9:
            return Wrong("tape", Words("between {least} and {most}", {"least": least, "most": most}))
        return None


@dataclass(frozen=True)
class RowsSquared(OfALayout, kind="rows_squared"):
    """A triangle taped on the first rows: along the string, square to it along the units, and between the two."""

    along: OnPlan
    across: OnPlan
    diagonal: OnPlan

    def wrong(self, there: Circumstances) -> Wrong | None:
        sides = self.along.metres, self.across.metres, self.diagonal.metres
        for name, length in zip(("along", "across", "diagonal"), sides, strict=True):
            if not 0 < length <= FARTHEST_TAPED:
                return Wrong(name, Words("between {least} and {most}", distances=_TAPED))
        if not abs(sides[0] - sides[1]) < sides[2] < sides[0] + sides[1]:
            return Wrong("diagonal", Words("these three are no triangle"))
        return super().wrong(there)


@dataclass(frozen=True)
class RowsLaid(OfALayout, kind="rows_laid"):
    """That all rows are laid up to one and with it, the cuts left out or not; how many person-hours since the last
    time went into it, where somebody counted."""

    row: Annotated[int, Interval(ge=0), doc("The last row laid; 0 where they were lifted again.")]
    hours: Annotated[float | None, "person_hours", Interval(gt=0, le=500)] = None

    def wrong(self, there: Circumstances) -> Wrong | None:
        return super().wrong(there) or (self.no_row(self.row, there) if self.row else None)


@dataclass(frozen=True)
class PieceCut(OfALayout, kind="piece_cut"):
    """A piece of the cut list that is cut and laid."""

    piece: Name

    def wrong(self, there: Circumstances) -> Wrong | None:
        if wrong := super().wrong(there):
            return wrong
        return None if self.piece in there.pieces(self.layout) else not_called("piece", "piece", self.piece)


@dataclass(frozen=True)
class PackOpened(LayWork, kind="pack"):
    """A pack that was opened: the batch code on it, and how many units are in it; a photo of the label if any."""

    code: Annotated[str, Len(1, 40)]
    units: Annotated[int, Interval(ge=1, le=100_000)]
    photo: Annotated[str, PHOTO_IF_ANY, doc("The SHA-256 of the photo of its label, if any.")] = ""


@dataclass(frozen=True)
class PackEmptied(LayWork, kind="pack_emptied"):
    """A pack that was opened and is used up."""

    pack: EntryId

    def wrong(self, there: Circumstances) -> Wrong | None:
        return None if self.pack in there.of_kind(PackOpened) else not_called("pack", "pack before it", self.pack)


@dataclass(frozen=True)
class SparesLeft(LayWork, kind="spares"):
    """Units that are left over and kept for repairs, and where; anew where they were counted before."""

    units: Annotated[int, Interval(ge=0, le=100_000)]
    where: Annotated[str, Len(0, 80), doc("Where they are kept, in the crew's words.")] = ""
