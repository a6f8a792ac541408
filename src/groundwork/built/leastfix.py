"""The least work that puts a surface right: the fewest stations to trim or fill, and by how much.

A mixed-integer linear programme (HiGHS, through scipy). Levels, falls and what water does at the vertices all follow
the stations' levels linearly; amounts are whole divisions of the crew's rod. Water drains where every vertex has a
way on to one whose water stands lower, or not deeper than may stand: choosing that way is the integer part.
"""

import math
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy import sparse
from scipy.optimize import Bounds, LinearConstraint, milp

from groundwork.base import SWELL, Material, Role, SurfaceKey, Tolerance
from groundwork.built.asbuilt import BAR_LIMITS, OUT_SHARE, AsBuilt
from groundwork.measures import INCH, Unit, Words
from groundwork.plan import Station
from groundwork.surfaces import Bools, Floats, Gap
from groundwork.verdict import COVERAGE, STONE_WORK, WORK

SECONDS = 3.0
MOST_BARS = 12
"""So many places where the straightedge would still rock are put right before it is said that nothing does."""
WHOLE, WEIGHED = 60, 1000
"""Up to so many vertices every way for the water is weighed at once; up to the second number after those near what is
wrong, to see whether fewer stations do; on larger surfaces only those near."""
ONWARD = 0.00001
"""Water goes on to where it stands at least so much lower, metres, so that no ring of puddles feeds itself."""
FAR_OFF = 1.0
A_METRE = 0.2
"""A metre of trimming and filling counts as so much of a station, so that of two ways as short the lighter one is
taken."""
BARROW = 0.060
"""A barrow's load, m³ loose (common practice)."""


@dataclass(frozen=True)
class Change:
    """What is done at a station: `by` metres, filled where positive, trimmed where negative."""

    station: Station
    by: float


@dataclass(frozen=True, eq=False)
class Fix:
    """The work in walking order. `filled` and `trimmed` are volumes, m³; `after` the surface once it is done;
    `proven` where no smaller set of stations can do it."""

    changes: tuple[Change, ...]
    filled: float
    trimmed: float
    after: AsBuilt
    proven: bool


@dataclass(frozen=True)
class NoFix:
    """Why trimming and filling at the stations cannot put it right."""

    why: str


NO_OUTLET = "no drain or free edge is named: water has no way off"
TOO_UNSURE = "the readings are too unsure for the limits: shoot again with a finer tool"
NONE = "no trimming and filling at these stations does it"
NOT_FOUND = "nothing was found in the time it was given"


def division(unit: Unit) -> float:
    """The finest step a crew of that unit trims to: a millimetre, or a sixteenth of an inch."""
    return 0.001 if unit.is_metric else INCH / 16


@dataclass(frozen=True)
class SurfaceLimits:
    """What a surface has to hold: its tolerance, whether its falls are asked for, how deep water may stand, and the
    widest gap under the straightedge; None where one does not matter."""

    tolerance: Tolerance
    fall_share: float | None
    puddle: float | None
    bar: float | None = None


def asked_of(built: AsBuilt, tolerance: Tolerance) -> SurfaceLimits:
    """What the rules ask of a surface."""
    bar = None if built.surface.is_covered else BAR_LIMITS.get(built.surface.kind)
    if not built.asked_to_drain:
        return SurfaceLimits(tolerance, None, None, bar)
    share = 0.0 if built.surface.kind is SurfaceKey.FORMATION else OUT_SHARE
    return SurfaceLimits(tolerance, share, built.puddle_limit, bar)


def passes(built: AsBuilt, asked: SurfaceLimits) -> bool:
    """Whether a surface holds what is asked of it: levels sure to be in, falls, nothing standing deeper."""
    guard = COVERAGE * built.uncertainties
    within = (built.at_stations <= asked.tolerance.high - guard + 1e-9) & (
        built.at_stations >= -asked.tolerance.low + guard - 1e-9
    )
    if not within.all():
        return False
    if asked.fall_share is not None:
        judged = built.falls.judged
        if (built.falls.built[judged] < asked.fall_share * built.falls.designed[judged] - 1e-9).any():
            return False
    if asked.bar is not None and _gap(built) > asked.bar + 1e-9:
        return False
    if asked.puddle is None:
        return True
    return not built.water.landlocked.any() and all(p.depth <= asked.puddle + 1e-9 for p in built.water.puddles)


def _gap(built: AsBuilt) -> float:
    """The widest gap under the straightedge."""
    return built.bar.worst.gap if built.bar.worst else 0.0


def least_fix(built: AsBuilt, asked: SurfaceLimits, unit: Unit, seconds: float = SECONDS) -> Fix | NoFix:
    """The fewest stations of `built` to change so that it `passes`, and the least change of those."""
    if passes(built, asked):
        return Fix((), 0.0, 0.0, built, True)
    if asked.puddle is not None and built.water.landlocked.any():
        return NoFix(NO_OUTLET)
    if (asked.tolerance.high + asked.tolerance.low < 2 * COVERAGE * built.uncertainties + division(unit)).any():
        return NoFix(TOO_UNSURE)
    wrong, every = _wrong(built, asked), np.ones(len(built.mesh.points), dtype=bool)
    regions = [_spread(built, wrong, 1), _spread(built, wrong, 3), every]
    best: Fix | NoFix = NoFix(NONE)
    for region in regions if len(every) > WHOLE else [every]:
        if isinstance(best, Fix) and (not region.all() or len(every) > WEIGHED or len(best.changes) == 1):
            continue
        programme = _Programme(built, asked, division(unit), region)
        found = programme.solved(seconds)
        for _bar in range(MOST_BARS):
            if isinstance(found, NoFix) or asked.bar is None:
                break
            # Where the bar would still rock, it is asked to lie there too, and all is weighed again.
            worst = _changed(built, found[0]).bar.worst
            if worst is None or worst.gap <= asked.bar + 1e-9:
                break
            programme.lay(worst)
            found = programme.solved(seconds)
        if isinstance(found, NoFix):
            best = best if isinstance(best, Fix) else found
            continue
        changes, proven = found
        after = _changed(built, changes)
        if passes(after, asked):
            fix = _fix(built, after, changes, proven and bool(region.all()))
            best = fix if not isinstance(best, Fix) or len(fix.changes) <= len(best.changes) else best
    if isinstance(best, Fix) and len(best.changes) == 1:
        return replace(best, proven=True)
    return best


def _changed(built: AsBuilt, changes: Floats) -> AsBuilt:
    return AsBuilt(built.job, built.surface, built.stations, built.at_stations + changes, built.uncertainties)


def _fix(built: AsBuilt, after: AsBuilt, changes: Floats, proven: bool) -> Fix:
    filled, trimmed = built.mesh.volumes(built.mesh.at_vertices(changes))
    work = tuple(Change(s, float(by)) for s, by in zip(built.stations, changes, strict=True) if by)
    return Fix(work, filled, trimmed, after, proven)


def _wrong(built: AsBuilt, asked: SurfaceLimits) -> Bools:
    """The vertices where something is out."""
    found = np.zeros(len(built.mesh.points), dtype=bool)
    guard = COVERAGE * built.uncertainties
    out = (built.at_stations > asked.tolerance.high - guard) | (built.at_stations < guard - asked.tolerance.low)
    own = built.mesh.vertex_of[out]
    found[own[own >= 0]] = True
    if asked.fall_share is not None:
        flat = built.falls.judged & (built.falls.built < asked.fall_share * built.falls.designed)
        found[built.mesh.triangles[flat]] = True
    if asked.bar is not None and built.bar.worst and built.bar.worst.gap > asked.bar:
        bar = built.bar.worst
        for triangle in built.mesh.locate([bar.at, bar.start, bar.end]):
            found[built.mesh.triangles[triangle]] = True
    most = math.inf if asked.puddle is None else asked.puddle
    for puddle in built.water.puddles if asked.puddle is not None else ():
        if puddle.depth > most:
            found[list(puddle.vertices)] = True
            onward = puddle.way
            drained = next((n for n, v in enumerate(onward) if built.levels[v] < built.levels[puddle.lowest]), None)
            found[list(onward[:drained])] = True
    return found


def _spread(built: AsBuilt, start: Bools, rings: int) -> Bools:
    found = start.copy()
    for _ring in range(rings):
        touched = found[built.mesh.edges].any(axis=1)
        found[built.mesh.edges[touched]] = True
    return found


class _Programme:
    """The programme. Unknowns, in divisions of the rod: the fill and the trim at each station, whether it is touched,
    the water's level over the design at each vertex, and which way it goes on."""

    def __init__(self, built: AsBuilt, asked: SurfaceLimits, step: float, region: Bools) -> None:
        self.built, self.asked, self.step, self.region = built, asked, step, region
        self.stations = len(built.stations)
        self.vertices = len(built.mesh.points)
        self.weights = built.mesh.weights
        self.free = np.asarray((self.weights.T @ region.astype(float)) > 0)
        self.rows: list[tuple[sparse.spmatrix, Floats, Floats]] = []
        self.bars: list[tuple[Floats, float]] = []

    def lay(self, bar: Gap) -> None:
        """Asks that the straightedge, held where it was, shows no wider gap there than it may: the line between its
        contacts less the surface is a straight function of the stations' levels."""
        built = self.built
        share = math.dist(bar.start, bar.at) / math.dist(bar.start, bar.end)
        triangles, shares = built.mesh.shares_at([bar.start, bar.end, bar.at])
        over = np.zeros(self.vertices)
        for triangle, corners, weight in zip(triangles, shares, (1 - share, share, -1.0), strict=True):
            np.add.at(over, built.mesh.triangles[triangle], weight * np.nan_to_num(corners))
        row = np.asarray(self.weights.T @ over)
        self.bars.append((row * self.step, (self.asked.bar or 0.0) - float(row @ built.at_stations)))

    @cached_property
    def ways(self) -> NDArray[np.int_]:
        """The ways on that are weighed, each from a vertex to the next, (k, 2)."""
        edges = np.concatenate([self.built.mesh.edges, self.built.mesh.edges[:, ::-1]])
        return np.asarray(edges[self.region[edges[:, 0]] & ~self.built.outlets[edges[:, 0]]])

    def solved(self, seconds: float) -> tuple[Floats, bool] | NoFix:
        count, drained = self.stations, self.asked.puddle is not None
        water = self.vertices if drained else 0
        ways = len(self.ways) if drained else 0
        self.sizes, self.rows = [count, count, count, water, ways], []
        most = math.ceil(FAR_OFF / self.step)
        guard = COVERAGE * self.built.uncertainties
        high = np.floor((self.asked.tolerance.high - guard - self.built.at_stations) / self.step + 1e-6)
        low = np.ceil((guard - self.asked.tolerance.low - self.built.at_stations) / self.step - 1e-6)
        if (high < low).any():
            return NoFix(TOO_UNSURE)
        one = sparse.identity(count)
        self._row(low, high, one, -one)
        reach = np.maximum(np.maximum(high, -low), 1.0)
        self._row(np.full(count, -np.inf), np.zeros(count), one, one, -sparse.diags(reach))
        for bar, room in self.bars:
            self._row(np.array([-np.inf]), np.array([room]), sparse.csr_matrix(bar), sparse.csr_matrix(-bar))
        if self.asked.fall_share is not None:
            self._falls(self.asked.fall_share)
        if self.asked.puddle is not None:
            self._water(self.asked.puddle)
        touched = np.where(self.free, 1.0, 0.0)
        amount = A_METRE * self.step
        cost = np.concatenate([np.full(2 * count, amount), np.ones(count), np.zeros(water + ways)])
        upper = np.concatenate(
            [
                np.where(self.free, most, 0),
                np.where(self.free, most, 0),
                touched,
                np.full(water, np.inf),
                np.ones(ways),
            ]
        )
        lower = np.concatenate([np.zeros(3 * count), np.full(water, -np.inf), np.zeros(ways)])
        whole = np.concatenate([np.ones(3 * count), np.zeros(water), np.ones(ways)])
        constraints = [LinearConstraint(matrix, lb, ub) for matrix, lb, ub in self.rows]
        result = milp(
            cost, constraints=constraints, bounds=Bounds(lower, upper), integrality=whole,
            options={"time_limit": seconds, "mip_rel_gap": 1e-4},
        )  # fmt: skip
        if result.x is None:
            return NoFix(NONE if result.status == 2 else NOT_FOUND)
        filled, trimmed = np.round(result.x[:count]), np.round(result.x[count : 2 * count])
        return (filled - trimmed) * self.step, result.status == 0

    def _row(self, lower: Floats, upper: Floats, *blocks: sparse.spmatrix | None) -> None:
        """Rows over the unknowns, block by block; blocks left out are nothing."""
        height = len(lower)
        whole = [*blocks, *[None] * (len(self.sizes) - len(blocks))]
        parts = [
            sparse.csr_matrix((height, size)) if block is None else sparse.csr_matrix(block)
            for block, size in zip(whole, self.sizes, strict=True)
        ]
        self.rows.append((sparse.csr_matrix(sparse.hstack(parts)), lower, upper))

    def _falls(self, share: float) -> None:
        """Every triangle that can be judged keeps its share of the designed fall."""
        built, falls = self.built, self.built.falls
        judged = np.flatnonzero(falls.judged)
        if not len(judged):
            return
        corners = built.mesh.triangles[judged]
        rates = -(built.mesh.slopes[judged] * falls.ways[judged][:, None]).sum(axis=2)
        spread = sparse.csr_matrix(
            (rates.ravel(), (np.repeat(np.arange(len(judged)), 3), corners.ravel())),
            shape=(len(judged), self.vertices),
        )
        change = spread @ self.weights * self.step
        need = share * falls.designed[judged] - falls.built[judged]
        self._row(need, np.full(len(judged), np.inf), change, -change)

    def _water(self, most: float) -> None:
        """Water stands at most so deep: at every vertex on or over the surface, and it goes on to lower."""
        built, step = self.built, self.step
        level = (built.levels - built.levels.min()) / step
        one = sparse.identity(self.vertices)
        none = None
        infinite = np.full(self.vertices, np.inf)
        self._row(level, infinite, -self.weights, self.weights, none, one)
        deepest = np.where(built.outlets, 0.0, most / step)
        self._row(-infinite, level + deepest, -self.weights, self.weights, none, one)
        fixed = np.flatnonzero(~built.outlets & ~self.region & (built.water.onward >= 0))
        if len(fixed):
            down = self._differences(np.column_stack([fixed, built.water.onward[fixed]]))
            self._row(np.full(len(fixed), 0.0), np.full(len(fixed), np.inf), none, none, none, down)
        ways = self.ways
        if not len(ways):
            return
        room = math.ceil(FAR_OFF / step)
        # Water at the start stands no lower than at the end, where the way is taken.
        reach = np.minimum(room, np.abs(level[ways[:, 0]] - level[ways[:, 1]]) + 4 * self._most_change() + 1)
        self._row(
            ONWARD / step - reach, np.full(len(ways), np.inf), none, none, none,
            self._differences(ways), -sparse.diags(reach),
        )  # fmt: skip
        starts, place = np.unique(ways[:, 0], return_inverse=True)
        taken = sparse.csr_matrix((np.ones(len(ways)), (place, np.arange(len(ways)))), shape=(len(starts), len(ways)))
        self._row(np.ones(len(starts)), np.full(len(starts), np.inf), none, none, none, None, taken)

    def _most_change(self) -> float:
        built, tolerance = self.built, self.asked.tolerance
        return (float(np.abs(built.at_stations).max()) + tolerance.high + tolerance.low) / self.step

    def _differences(self, pairs: NDArray[np.int_]) -> sparse.spmatrix:
        """Rows of the first of each pair less the second."""
        rows = np.arange(len(pairs))
        return sparse.csr_matrix(
            (np.concatenate([np.ones(len(pairs)), -np.ones(len(pairs))]),
             (np.concatenate([rows, rows]), pairs.T.ravel())), shape=(len(pairs), self.vertices),
        )  # fmt: skip


@dataclass(frozen=True)
class Loads:
    """What is carried for a piece of work: `volume` as it lies, m³; `barrows` loose; `mass` of stone brought, kg."""

    volume: float
    barrows: float
    mass: float


def loads(fix: Fix, change: Change) -> Loads:
    """What a change at one station takes: its share of the surface, raised or lowered by so much; filled with the
    layer's own stone, trimmed off as it lies."""
    built = fix.after
    alone = np.zeros(len(built.stations))
    alone[built.stations.index(change.station)] = abs(change.by)
    volume, _elsewhere = built.mesh.volumes(built.mesh.at_vertices(alone))
    made_of = fill_for(built)
    if change.by > 0:
        return Loads(volume, volume * made_of.bulking / BARROW, volume * made_of.density)
    soil = built.surface.kind is SurfaceKey.FORMATION
    return Loads(volume, volume * (SWELL if soil else made_of.bulking) / BARROW, 0.0)


def loads_in_all(fix: Fix) -> tuple[Loads, Loads]:
    """What all of the work takes: filled, and trimmed."""
    found = []
    for filled in (True, False):
        own = [loads(fix, change) for change in fix.changes if (change.by > 0) == filled]
        found.append(Loads(sum(x.volume for x in own), sum(x.barrows for x in own), sum(x.mass for x in own)))
    return found[0], found[1]


def fill_for(built: AsBuilt) -> Material:
    """What a low place of a surface is filled with: its own layer's stone, on the formation the lowest, under paving
    its bedding."""
    specification, kind = built.job.specification, built.surface.kind
    if kind is SurfaceKey.FORMATION:
        return specification.layers[-1].made_of
    role = Role.BEDDING if kind in (SurfaceKey.FINISHED, SurfaceKey.SCREED) else Role(kind.value)
    layer = specification.layer(role)
    return (layer or specification.layers[-1]).made_of


def work(fix: Fix, change: Change) -> Words:
    """What to do at a station, in the words of the verdicts."""
    _high, _low, trim, raise_ = WORK.get(fix.after.surface.kind, STONE_WORK)
    return Words(raise_ if change.by > 0 else trim, {"amount": abs(change.by)})
