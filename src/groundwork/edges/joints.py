"""A joint of an edge as set, what to do about it, and which units to lift."""

from dataclasses import dataclass

from groundwork.base import Tolerance
from groundwork.edges.runs import LINE, EdgeRun
from groundwork.edgework import TopWork
from groundwork.measures import Words
from groundwork.survey import SettingRule
from groundwork.verdict import Call

TOPS = Tolerance(0.006, 0.006)
"""How far a kerb's top may lie off its level (UK highway works specification, quoted from memory)."""
BESIDE, WITHIN = 0.003, 3.0
"""How far neighbouring tops may lie off a straight line, and along how much of it, metres (UK kerb practice, quoted
from memory)."""
TAPS = 0.010
"""A unit on fresh concrete is tapped down by no more than this; further, it is lifted and bedded anew, metres (common
practice, no published source)."""

SET = SettingRule(
    TOPS, "tap it down {amount}", "lift it, bed it {amount} higher", TAPS, "lift it, bed it {amount} lower"
)
"""What a top is held to, and what to do about one that is off."""


@dataclass(frozen=True)
class JointAnswer:
    """A joint as set: how far its top lies above its level and how sure that is, and how far it stands off its line;
    None of what is not known."""

    run: EdgeRun
    joint: int
    shot: TopWork | None = None
    deviation: float | None = None
    uncertainty: float = 0.0
    off: float | None = None

    @property
    def call(self) -> Call | None:
        return None if self.deviation is None else SET.call(self.deviation, self.uncertainty)

    @property
    def is_out_of_line(self) -> bool:
        return self.off is not None and abs(self.off) > LINE + 1e-9

    @property
    def action(self) -> Words:
        return SET.action(self.deviation, self.uncertainty, was_shot=self.shot is not None)


@dataclass(frozen=True)
class Reset:
    """Units of a run to lift and bed anew, counted from 1, `first` to `last`."""

    first: int
    last: int

    @property
    def words(self) -> Words:
        number = self.last - self.first + 1
        return Words("reset {n} units from unit {first}", counts={"n": number, "first": self.first},
                     one="reset unit {first}")  # fmt: skip
