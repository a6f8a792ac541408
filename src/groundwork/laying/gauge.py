"""The course gauge: what rows should tape from the string, what they do, and how the next ones bring them home."""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

from groundwork.base import Tolerance
from groundwork.laywork import CourseTaped
from groundwork.measures import Words
from groundwork.shape import TAPE_RATE, TAPE_U
from groundwork.survey import SettingRule
from groundwork.verdict import COVERAGE, Call, Foreseen

OFF = 0.005
"""A row may be so far from where it should be, or out of line from end to end, before the next ones put it right,
metres (common practice, no published source)."""
LINES = 0.015
"""Lines of joints lie within so much over 15 m as a whole (interlocking-paving guidance, quoted from memory): what is
farther off is lifted, not made up for."""
CHANGE = 0.001
"""A joint is opened or closed by no more than that against those before it, metres: more shows (common
practice)."""
EVERY = 2.0
"""Rows are taped every so many metres (common practice, no published source)."""
RULE = SettingRule(
    Tolerance(OFF, OFF), "{amount} too far: close the joints from here", "{amount} short: open the joints from here",
    LINES, "{amount} too far: lift back to the last row in line",
)  # fmt: skip
WHERE = ("left", "middle", "right")


def tape_u(length: float) -> float:
    """How sure a taped length is, standard, metres."""
    return math.hypot(TAPE_U, TAPE_RATE * length)


@dataclass(frozen=True)
class Joints:
    """The joint as designed, and between what it may lie, metres."""

    width: float
    least: float
    most: float

    def change(self, *, opens: bool) -> float:
        """How much a joint may be opened or closed, metres; nothing where it is at its limit."""
        return max(0.0, min(CHANGE, self.most - self.width if opens else self.width - self.least))


@dataclass(frozen=True)
class RowTaped:
    """A row as taped from the string: how far each place is from where it should be, metres, farther positive."""

    row: int
    target: float
    off: Mapping[str, float]

    @property
    def guard(self) -> float:
        """What a taped place is sure to, metres."""
        return COVERAGE * tape_u(self.target)

    @property
    def drift(self) -> float:
        """How far it is off on the whole, metres."""
        return sum(self.off.values()) / len(self.off)

    @property
    def fan(self) -> float | None:
        """How much farther it is at its right than at its left, metres."""
        return self.off["right"] - self.off["left"] if {"left", "right"} <= set(self.off) else None

    @property
    def bow(self) -> float | None:
        """How much farther its middle is than its ends, metres."""
        if len(self.off) < len(WHERE):
            return None
        return self.off["middle"] - (self.off["left"] + self.off["right"]) / 2

    @cached_property
    def faults(self) -> tuple[str, ...]:
        """What is surely wrong with it: `drift`, `fan`, `bow`."""
        spread = {"drift": 1 / math.sqrt(len(self.off)), "fan": math.sqrt(2), "bow": math.sqrt(1.5)}
        sizes = {"drift": self.drift, "fan": self.fan, "bow": self.bow}
        return tuple(
            name for name, size in sizes.items() if size is not None and abs(size) > OFF + self.guard * spread[name]
        )

    @property
    def call(self) -> Call:
        worst = max(self.off.values(), key=abs)
        if self.faults:
            return Call.HIGH if worst > 0 else Call.LOW
        return RULE.call(worst, self.guard / COVERAGE)

    @property
    def is_in_line(self) -> bool:
        return not self.faults and all(abs(off) <= LINES for off in self.off.values())


@dataclass(frozen=True)
class Home:
    """How rows to come bring a row home: so many of them, each joint at a place changed by so much, metres, opened
    positive; or, where no joint allows it, lift back to a row, 0 where that is the string."""

    rows: int = 0
    by: Mapping[str, float] | None = None
    back_to: int | None = None


def home(taped: RowTaped, ahead: int, joints: Joints, good: int, pitch: float) -> Home:
    """How a row comes home over at most so many rows `ahead`; `good` is the last row in line. What is not surely off
    is brought home where the joints allow it, and never lifted."""
    lifted = Home() if taped.is_in_line else Home(back_to=good)
    if not taped.faults and max(map(abs, taped.off.values())) <= OFF:
        return Home()
    if max(map(abs, taped.off.values())) > LINES + taped.guard:
        return lifted
    usual = max(1, round(EVERY / pitch))
    needed = 1
    for off in taped.off.values():
        change = joints.change(opens=off < 0)
        if abs(off) > OFF / 2:
            if change <= 1e-9:
                return lifted
            needed = max(needed, math.ceil(abs(off) / change - 1e-9))
    rows = max(needed, min(usual, ahead))
    if needed > ahead:
        return lifted
    return Home(rows, {where: -off / rows for where, off in taped.off.items()})


def home_words(found: Home, taped: RowTaped) -> tuple[Words, ...]:
    """What to do, as one would shout it across a site."""
    if found.back_to is not None:
        if found.back_to == 0:
            return (Words("lift back to the string and begin again"),)
        return (Words("lift back to row {n}", counts={"n": found.back_to}),)
    if found.by is None:
        return (Words("in line: go on"),)
    if "bow" in taped.faults and "fan" not in taped.faults and "drift" not in taped.faults:
        bow = taped.bow or 0.0
        phrase = "pull the middle of the row back {amount}, to a string from end to end" if bow > 0 else (
            "bring the middle of the row on {amount}, to a string from end to end"
        )  # fmt: skip
        return (Words(phrase, {"amount": abs(bow)}),)
    by = {where: change for where, change in found.by.items() if abs(change) * found.rows > OFF / 2}
    if len(by) == len(found.by) and max(by.values()) - min(by.values()) <= CHANGE / 10:
        mean = sum(by.values()) / len(by)
        return (_change(mean, found.rows, ""),)
    ends = [where for where in ("left", "right", "middle") if where in by]
    if "left" in ends or "right" in ends:
        ends = [where for where in ends if where != "middle"]
    return tuple(_change(by[where], found.rows, where) for where in ends)


_CHANGES = {
    (True, ""): "open {each} a joint over the next {n} rows",
    (True, "left"): "open {each} a joint over the next {n} rows on the left",
    (True, "right"): "open {each} a joint over the next {n} rows on the right",
    (True, "middle"): "open {each} a joint over the next {n} rows in the middle",
    (False, ""): "close {each} a joint over the next {n} rows",
    (False, "left"): "close {each} a joint over the next {n} rows on the left",
    (False, "right"): "close {each} a joint over the next {n} rows on the right",
    (False, "middle"): "close {each} a joint over the next {n} rows in the middle",
}


def _change(by: float, rows: int, where: str) -> Words:
    return Words(_CHANGES[by > 0, where], counts={"n": rows}, fine={"each": abs(by)})


@dataclass(frozen=True)
class ClosesWith:
    """What is left at the far edge beyond whole rows: so many rows, and a piece so broad, metres; and how much each
    joint changes so that it closes with a half or with nothing, opened positive; None where no joint allows it."""

    rows: int
    piece: float
    halves: float | None
    nothing: float | None


def closing(left: float, rows_broad: float, joint: float, joints: Joints) -> ClosesWith | None:
    """How what is left, metres from the last face taped to the edge, closes with rows so broad; None where that is
    nothing."""
    pitch = rows_broad + joint
    if left <= joint:
        return None
    rows = math.floor((left + 1e-9) / pitch)
    piece = left - rows * pitch - joint
    if piece < 0:
        piece = 0.0
    return ClosesWith(
        rows, piece, _by(left, rows, rows_broad / 2, rows_broad, joint, joints),
        _by(left, rows, 0.0, rows_broad, joint, joints),
    )  # fmt: skip


def _by(left: float, rows: int, piece: float, broad: float, joint: float, joints: Joints) -> float | None:
    """How much each joint changes so that just such a piece is left; the least change of a row more or less."""
    found = []
    for number in (rows - 1, rows, rows + 1):
        gaps = number + (1 if piece else 0)
        if number < 1:
            continue
        by = (left - number * broad - piece) / gaps - joint
        if abs(by) <= joints.change(opens=by > 0) + 1e-9:
            found.append(by)
    return min(found, key=abs, default=None)


def foreseen(target: float) -> Foreseen:
    """What a taped row will come to, whatever it is."""
    return Foreseen(-target, 1.0, COVERAGE * tape_u(target))


def rows_taped(taped: Iterable[CourseTaped], targets: Mapping[int, float]) -> dict[int, RowTaped]:
    """Every row that was taped, the newest of each place counting."""
    off: dict[int, dict[str, float]] = {}
    for entry in taped:
        if entry.row in targets:
            off.setdefault(entry.row, {})[entry.spot] = entry.tape.metres - targets[entry.row]
    return {row: RowTaped(row, targets[row], off[row]) for row in sorted(off)}
