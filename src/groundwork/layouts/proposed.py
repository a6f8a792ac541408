"""Which pattern fits a job: every one that can be laid with its units, ranked, with the reasons for and against.

The weights are common practice, no published source; they order the list and settle nothing. The lead decides.
"""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import shapely

from groundwork.base import Role
from groundwork.job import Job
from groundwork.measures import Words
from groundwork.pattern import PavingPattern, PavingUnit, patterns
from groundwork.soundness import Reason, Side

NARROW = 2.5
"""A path so narrow is laid in courses across it, metres (common practice)."""
FLAG = 0.4
"""A unit with a side so long is a flag, metres."""
USUAL = {"porcelain": (0.6, 0.6), "natural-stone": (0.6, 0.3)}
USUAL_BLOCK = (0.2, 0.1)
"""Usual sizes of units by material, metres (common practice): blocks and pavers are 200 × 100."""


@dataclass(frozen=True)
class PatternOption:
    """A pattern for a job: its reasons, and what they come to."""

    pattern: PavingPattern
    reasons: tuple[Reason, ...]

    @property
    def score(self) -> int:
        return sum(r.weight if r.side is Side.FOR else -r.weight for r in self.reasons)


def usual_unit(job: Job) -> PavingUnit:
    """The unit one begins with: the usual size of the job's paving, with the job's joint."""
    paving = job.specification.layer(Role.PAVING)
    long, wide = USUAL.get(paving.material if paving else "", USUAL_BLOCK)
    return PavingUnit(long, wide, job.specification.details.joint.width)


def pattern_options(job: Job, unit: PavingUnit) -> tuple[PatternOption, ...]:
    """What can be laid of such units, what fits best first."""
    found = [
        PatternOption(each, tuple(_reasons(job, each, unit))) for each in patterns().values() if not each.wrong(unit)
    ]
    return tuple(sorted(found, key=lambda option: -option.score))


def breadth(job: Job) -> float:
    """How broad an area is, metres: of its least rectangle."""
    one, other, third = shapely.get_coordinates(shapely.minimum_rotated_rectangle(job.area))[:3]
    return min(math.dist(one, other), math.dist(other, third))


def _reasons(job: Job, pattern: PavingPattern, unit: PavingUnit) -> Iterator[Reason]:
    wheels = job.brief.traffic.wheels
    if wheels and pattern.wheels:
        yield Reason(Side.FOR, Words("locks in both directions: wheels do not turn it"), 4)
    if wheels and not pattern.wheels:
        yield Reason(Side.AGAINST, Words("wheels turn it: only courses across the way hold"), 2)
    if wheels and pattern.four_corners:
        yield Reason(Side.AGAINST, Words("four corners meet: nothing holds them against a wheel"), 4)
    if unit.length >= FLAG:
        if pattern.key in ("running-half", "stack"):
            yield Reason(Side.FOR, Words("usual for flags, and quick"), 2)
        if pattern.two_to_one:
            yield Reason(Side.AGAINST, Words("flags are seldom laid so"), 3)
    if pattern.key.startswith("running"):
        yield Reason(Side.FOR, Words("its rows show at once where they wander"))
        if breadth(job) <= NARROW and not wheels:
            yield Reason(Side.FOR, Words("courses across a narrow path lead the eye along it"), 2)
    if pattern.straight or pattern.ends_apart:
        yield Reason(Side.AGAINST, Words("is drawn by lot: laid from its sheet, row by row"))
    if pattern.key in ("three-sizes", "random-sizes"):
        yield Reason(Side.AGAINST, Words("several sizes to buy and keep apart"))
    if not wheels and pattern.wheels:
        yield Reason(Side.AGAINST, Words("many cuts along the edges"))
