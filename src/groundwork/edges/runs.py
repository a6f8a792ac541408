"""A run of edge along one side of the area: its units with their cuts, its joints, how high its top is at each."""

import math
from dataclasses import dataclass
from functools import cached_property

from groundwork.edges.sums import LEAST_PIECE, STRAIGHT_UNITS
from groundwork.edgework import EdgeKind, EdgePlanned
from groundwork.job import Job
from groundwork.surfaces import Point

TAKEN_BY_JOINTS = 0.004
"""So much over is spread over the joints, metres (common practice, no published source)."""
LOOKED_AT = 0.85, 3.0
"""Joints are set by level no nearer to each other than this, and no further apart, metres (common practice)."""


@dataclass(frozen=True)
class EdgeRun:
    """What stands along a side, `long` metres of it."""

    plan: EdgePlanned
    job: Job

    @property
    def side(self) -> int:
        return self.plan.side

    @cached_property
    def long(self) -> float:
        return self.job.ring.side_length(self.side)

    @cached_property
    def pieces(self) -> tuple[float, ...]:
        """Its units from where the side begins, those that are cut too: one closer at the end where it is no shorter
        than a third of a unit, else one at both ends."""
        unit, joint = self.plan.length.metres, self.plan.joint.metres
        whole = int((self.long + joint + 1e-9) // (unit + joint))
        if whole == 0:
            return (self.long,)
        over = self.long - (whole * (unit + joint) - joint)
        cut = over - joint
        if over <= TAKEN_BY_JOINTS:
            return (unit,) * whole
        if cut >= unit * LEAST_PIECE - 1e-9:
            return (*(unit,) * whole, cut)
        closer = (self.long - (whole - 1) * unit - whole * joint) / 2
        return (closer, *(unit,) * (whole - 1), closer)

    @cached_property
    def joints(self) -> tuple[float, ...]:
        """How far along each joint lies, metres: the side's beginning, the middle of every joint, its end."""
        gap = (self.long - sum(self.pieces)) / max(len(self.pieces) - 1, 1)
        at, found = 0.0, [0.0]
        for piece in self.pieces[:-1]:
            at += piece + gap
            found.append(at - gap / 2)
        return (*found, self.long)

    @property
    def last(self) -> int:
        """The number of its last joint."""
        return len(self.joints) - 1

    @cached_property
    def looked_at(self) -> tuple[int, ...]:
        """The joints to set by level, the first and the last among them: every one of long units, of short ones one
        in so many."""
        found = [0]
        for n in range(1, len(self.joints) - 1):
            if self.joints[n] - self.joints[found[-1]] >= LOOKED_AT[0] - 1e-9:
                found.append(n)
        if self.joints[-1] - self.joints[found[-1]] < LOOKED_AT[0] / 2 and len(found) > 1:
            found.pop()
        return (*found, len(self.joints) - 1)

    def place(self, joint: int) -> Point:
        return self.job.ring.at(self.side, self.joints[joint] / self.long)

    def level(self, joint: int) -> float:
        """Where its top should lie at a joint, metres: the finished surface there and its upstand."""
        return self.job.design.level(self.place(joint)) + self.plan.upstand.metres

    def off_string(self, joint: int) -> float:
        """On a curve, how far its own line lies off a string from end to end at a joint, metres; nothing where it is
        straight."""
        (x0, y0), (x1, y1) = self.place(0), self.place(len(self.joints) - 1)
        x, y = self.place(joint)
        span = math.dist((x0, y0), (x1, y1))
        return abs((x - x0) * (y1 - y0) - (y - y0) * (x1 - x0)) / span if span > 1e-6 else 0.0

    @property
    def is_too_tight(self) -> bool:
        """Whether its curve wants units of its own radius, or shorter ones."""
        arc = self.job.ring.arc(self.side)
        straight = self.plan.what in (EdgeKind.KERB, EdgeKind.CHANNEL, EdgeKind.ANGLE)
        return arc is not None and straight and (
            arc.radius <= STRAIGHT_UNITS and self.plan.length.metres > self.longest_unit(arc.radius)
        )  # fmt: skip

    @staticmethod
    def longest_unit(radius: float) -> float:
        """The longest straight unit whose middle leaves a curve by no more than the line may be off: 8 R s, root."""
        return math.sqrt(8 * radius * LINE)


LINE = 0.010
"""How far an edge may stand off its line, metres (common practice, no published source)."""
