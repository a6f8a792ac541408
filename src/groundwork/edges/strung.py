"""A tight string over an edge, pulled from one end to the other: what should be taped from it down to each top."""

import math
from dataclasses import dataclass

from groundwork.edges.runs import EdgeRun
from groundwork.levels import sag
from groundwork.tools import STRING, STRING_TENSION, STRING_WEIGHT, TIGHT_STRING, TIGHT_UP_TO
from groundwork.verdict import COVERAGE, Foreseen

REACH = 0.3
"""A top further aside from the string than this is not taped from it, metres (common practice)."""


@dataclass(frozen=True)
class Strung:
    """A string `over` the tops at both ends of a run, which lie off their level by `first` and `last`, known to
    `uncertainty`, standard; metres."""

    run: EdgeRun
    over: float
    first: float
    last: float
    uncertainty: float

    @property
    def span(self) -> float:
        return math.dist(self.run.place(0), self.run.place(len(self.run.joints) - 1))

    @property
    def reading_u(self) -> float:
        """Standard uncertainty of what is taped from it, metres: a short one is pulled tight."""
        return (TIGHT_STRING if self.span <= TIGHT_UP_TO else STRING).reading_u

    def level(self, joint: int) -> float | None:
        """How high it hangs at a joint, metres: straight but for its sag; None where it is too far off."""
        (x0, y0), (x1, y1) = self.run.place(0), self.run.place(len(self.run.joints) - 1)
        x, y = self.run.place(joint)
        along = (x - x0) * (x1 - x0) + (y - y0) * (y1 - y0)
        aside = (x - x0) * (y1 - y0) - (y - y0) * (x1 - x0)
        if self.span < 1e-6 or abs(aside) > REACH * self.span:
            return None
        share = along / self.span**2
        low = self.run.level(0) + self.first
        high = self.run.level(len(self.run.joints) - 1) + self.last
        hangs = 4 * share * (1 - share) * sag(STRING_WEIGHT, self.span, STRING_TENSION)
        return low + share * (high - low) + self.over - hangs

    def target(self, joint: int) -> float | None:
        """What should be taped from it down to the top at a joint, metres."""
        level = self.level(joint)
        return None if level is None else level - self.run.level(joint)

    def is_between(self, joint: int) -> bool:
        """Whether the top there can be taped from it: not at its ends, nor too far aside."""
        return 0 < joint < len(self.run.joints) - 1 and self.level(joint) is not None

    def foreseen(self, joint: int) -> Foreseen | None:
        """What is taped will come to, whatever it is."""
        nought = self.read(joint, 0.0)
        return Foreseen(nought[0], -1.0, COVERAGE * nought[1]) if nought else None

    def read(self, joint: int, down: float) -> tuple[float, float] | None:
        """How far above its level a top lies and how sure that is, standard, metres."""
        target = self.target(joint)
        return None if target is None else (target - down, math.hypot(self.reading_u, self.uncertainty))
