"""The ends of rails: what they are called, and how each was set."""

from dataclasses import dataclass

from groundwork.bedding.rails import Rail
from groundwork.bedwork import RailShot
from groundwork.measures import Words
from groundwork.surfaces import Point
from groundwork.survey import SettingRule
from groundwork.verdict import Call

ENDS = ("start", "end")
ENDS_AS_SEEN = {
    ("along", "start"): "upper",
    ("along", "end"): "lower",
    ("across", "start"): "left",
    ("across", "end"): "right",
}
"""How the ends of a rail are told apart: along the fall, or across it as one looks down the fall."""


@dataclass(frozen=True)
class RailEnd:
    """One end of a rail as set: `deviation` from its level, positive above, and standard `uncertainty`, metres; None
    of either where it was not shot, or what it was read from no longer holds."""

    rail: Rail
    end: str
    rule: SettingRule
    shot: RailShot | None = None
    deviation: float | None = None
    uncertainty: float = 0.0

    @property
    def call(self) -> Call | None:
        return None if self.deviation is None else self.rule.call(self.deviation, self.uncertainty)

    @property
    def action(self) -> Words:
        return self.rule.action(self.deviation, self.uncertainty, was_shot=self.shot is not None)

    @property
    def place(self) -> Point:
        return self.rail.start if self.end == ENDS[0] else self.rail.end

    @property
    def level(self) -> float:
        return self.rail.start_level if self.end == ENDS[0] else self.rail.end_level
