"""Which edge stands along a side: every kind that can, ranked, with the reasons for and against on this job.

The weights are common practice, no published source; they order the list and settle nothing. The lead decides.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import shapely

from groundwork.base import Family, Role
from groundwork.edges.sums import STRAIGHT_UNITS
from groundwork.edgework import EdgeKind
from groundwork.job import Job
from groundwork.measures import Words
from groundwork.plan import BESIDE
from groundwork.soundness import Case, Reason, Side


@dataclass(frozen=True)
class EdgeOption:
    """A kind of edge for a side: its reasons, and what they come to."""

    kind: EdgeKind
    reasons: tuple[Reason, ...]

    @property
    def score(self) -> int:
        return sum(r.weight if r.side is Side.FOR else -r.weight for r in self.reasons)


def edge_options(job: Job, case: Case, side: int) -> tuple[EdgeOption, ...]:
    """What can stand along a side, what fits best first; what cannot be there is left out."""
    there = _Situation(job, case, side)
    options = [EdgeOption(kind, tuple(there.reasons(kind))) for kind in EdgeKind if there.allows(kind)]
    return tuple(sorted(options, key=lambda option: -option.score))


class _Situation:
    def __init__(self, job: Job, case: Case, side: int) -> None:
        specification = job.specification
        self.wheels, self.school = job.brief.traffic.wheels, case.school
        bound = specification.layer(Role.BOUND_BASE)
        self.base = bound or specification.layer(Role.BASE) or specification.layer(Role.SUB_BASE)
        self.is_slab = bound is not None or job.brief.sound_slab
        self.early = specification.details.early_edge
        bed = specification.layer(Role.BEDDING)
        self.is_soft = bed is not None and bed.family in (Family.SAND, Family.CHIP)
        arc = job.ring.arc(side)
        self.radius = arc.radius if arc else None
        line = shapely.LineString(job.ring.along(side))
        self.by_wall = runs_beside(job, line, "building")
        self.by_drain = runs_beside(job, line, "drain")

    def allows(self, kind: EdgeKind) -> bool:
        if kind is EdgeKind.WALL:
            return self.by_wall
        if kind is EdgeKind.ANGLE:
            return self.is_slab
        return not (kind is EdgeKind.SPIKED and self.is_slab)

    def reasons(self, kind: EdgeKind) -> Iterator[Reason]:
        yield from {
            EdgeKind.WALL: self._wall, EdgeKind.KERB: self._kerb, EdgeKind.CONCRETE: self._concrete,
            EdgeKind.SPIKED: self._spiked, EdgeKind.ANGLE: self._angle, EdgeKind.CHANNEL: self._channel,
            EdgeKind.FORM: self._form,
        }[kind]()  # fmt: skip
        if self.by_wall and kind is not EdgeKind.WALL:
            yield _against("a wall stands there and holds the paving already", 9)

    def _wall(self) -> Iterator[Reason]:
        yield _for("it stands there: nothing more is needed", 9)

    def _kerb(self) -> Iterator[Reason]:
        if self.wheels:
            yield _for("holds under wheels", 3)
        else:
            yield _against("more concrete than feet need", 1)
        if "kerbs" in (self.early, self.school.edge.split(",")[0].removeprefix("the ")):
            yield _for("this base is built between kerbs", 4)
        yield _for("gives a line and a height to work to", 1)
        if self.radius is not None and self.radius <= STRAIGHT_UNITS:
            yield _against("straight units gape on this curve: units of its radius, or short ones", 2)
        if self.is_slab:
            yield _against("wants a bed and a haunch of its own beside the slab", 1)

    def _concrete(self) -> Iterator[Reason]:
        if self.wheels:
            yield _for("holds under wheels", 3)
        if self.is_soft:
            yield _for("holds a soft bed in", 1)
        if self.is_slab and not self.school.spiked:
            yield _for("is tied to the slab", 1)
        if self.radius is not None:
            yield _for("follows any curve", 1)
        yield _against("keeps grass off the paving: there is a strip to trim", 1)

    def _spiked(self) -> Iterator[Reason]:
        if self.base is not None and self.base.family in (Family.OPEN, Family.PERVIOUS):
            yield _against("clean stone lets spikes work loose: long spikes and a wide base", 2)
        elif self.base is not None:
            yield _for("spikes hold in a base with fines", 2)
        if self.school.spiked:
            yield _for("usual for this base", 2)
        if self.wheels:
            yield _against("under wheels every hole wants its spike", 1)
        else:
            yield _for("enough for feet", 1)
        if self.radius is not None:
            yield _for("bends to the curve", 2)
        yield _for("lets grass grow up to the paving", 0)

    def _angle(self) -> Iterator[Reason]:
        yield _for("is fixed to the slab that is there", 4)
        if self.wheels:
            yield _for("holds under wheels", 1)

    def _channel(self) -> Iterator[Reason]:
        if self.by_drain:
            yield _for("water runs along this side to its drain", 3)
        else:
            yield _against("only where water is to run along the edge", 3)
        if self.wheels:
            yield _for("holds under wheels", 2)

    def _form(self) -> Iterator[Reason]:
        if self.early == "forms" or any(ask.key == "forms" for asks in self.school.asks.values() for ask in asks):
            yield _for("concrete is poured between forms here", 5)
        else:
            yield _against("comes out again: no edge that stays", 5)


def runs_beside(job: Job, line: shapely.LineString, kind: str) -> bool:
    """Whether something of a kind stands along at least half of a line."""
    near = [feature.shape.buffer(BESIDE) for feature in job.features if feature.kind == kind]
    return bool(near) and line.intersection(shapely.union_all(near)).length >= line.length / 2


def _for(says: str, weight: int) -> Reason:
    return Reason(Side.FOR, Words(says), weight)


def _against(says: str, weight: int) -> Reason:
    return Reason(Side.AGAINST, Words(says), weight)
