"""A surface as built, from the stations that were shot: levels everywhere, falls, puddles, straightedge, coverage.

Between stations a surface is taken to follow its design, with the deviation straight from station to station; where
the design is one plane that is the plain triangulation of the levels. What no station encloses is not known.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
import shapely
from scipy import sparse
from scipy.spatial import cKDTree

from groundwork.base import Surface, SurfaceKey
from groundwork.brief import Outlet
from groundwork.drainage import kept_lines, outlets
from groundwork.job import Job
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.plan import Feature, Station
from groundwork.soundness import MOST_STANDING
from groundwork.surfaces import (
    BAR,
    BarGaps,
    Bools,
    Floats,
    Hole,
    Ints,
    Mesh,
    Point,
    Puddle,
    StandingWater,
    lay_mesh,
    standing_water,
    straightedge,
    widest_hole,
)
from groundwork.survey import SHARE, FallCall, Survey
from groundwork.verdict import COVERAGE

PUDDLE_LIMITS = {
    SurfaceKey.FORMATION: 0.010,
    SurfaceKey.BASE: 0.003,
    SurfaceKey.BOUND_BASE: 0.003,
    SurfaceKey.FINISHED: MOST_STANDING,
}
"""The deepest water that may stand (common practice, no published source)."""
BAR_LIMITS = {
    SurfaceKey.SUB_BASE: 0.015,
    SurfaceKey.BASE: 0.010,
    SurfaceKey.BOUND_BASE: 0.005,
    SurfaceKey.SCREED: 0.005,
    SurfaceKey.BEDDING: 0.005,
    SurfaceKey.FINISHED: 0.005,
}
"""The widest gap under a 3 m straightedge. Base, sub-base: UK highway works specification; bedding, paving: industry
guidance. Quoted from memory."""
BAR_STOPS = {SurfaceKey.FINISHED: 0.010}
"""Where a wider gap is only a stop from here on; elsewhere the limit is (industry guidance, quoted from memory)."""
OUT_SHARE = 0.5
"""Less than this share of its designed fall, and a surface's falls are out (common practice, no published source)."""
LEAST_TOLD = 0.001
"""Puddles less deep than this are not told one by one, metres (common practice, no published source)."""
LEAST_COMPACT = 0.15
"""A triangle slimmer than this says nothing of the fall across it."""
TOWARDS = 1 / 100
"""More fall than this towards a building leads water there (common practice, no published source)."""
LEVEL = 1 / 500
"""A design flatter than this asks for no fall."""
ABOUT_A_SPACING = 1.02
"""A station left out on a full grid leaves a hole a spacing wide; a rounding's more is no wider one."""


@lru_cache(maxsize=128)
def mesh_of(
    places: tuple[Point, ...],
    area: shapely.Polygon,
    facets: tuple[tuple[Point, ...], ...],
    features: tuple[Feature, ...],
    pipe: Outlet | None,
    spacing: float,
) -> Mesh:
    """The triangulation of a job's surfaces through `places`, `facets` by their outlines. Raises `NoSurface`."""
    return lay_mesh(places, area, kept_lines(facets, features, pipe), spacing)


def job_mesh(job: Job, places: tuple[Point, ...]) -> Mesh:
    """The triangulation of a job's surfaces through `places`. Raises `NoSurface`."""
    outlines = tuple(facet.outline for facet in job.facets)
    return mesh_of(places, job.area, outlines, job.ways_out, job.outlet, job.station_spacing)


@lru_cache(maxsize=128)
def _hole(places: tuple[Point, ...], area: shapely.Polygon) -> Hole | None:
    return widest_hole(places, area)


@dataclass(frozen=True, eq=False)
class Falls:
    """Falls triangle by triangle: as `built` and as `designed` down the design's own way, ratios, downhill
    positive; `guard` what the levels' uncertainty may make of it; `calls` what each comes to, None where the
    design is level or the triangle too slim to say; `ways` the design's way down, unit vectors."""

    built: Floats
    designed: Floats
    guard: Floats
    calls: tuple[FallCall | None, ...]
    ways: Floats

    @cached_property
    def judged(self) -> Bools:
        return np.array([call is not None for call in self.calls])

    def of(self, call: FallCall) -> Bools:
        """The triangles that come to `call`."""
        return np.array([of == call for of in self.calls])

    def under(self, share: float) -> Bools:
        """The triangles that have less than a share of their fall, sure of it."""
        return self.judged & (self.built + self.guard < share * self.designed)


class AsBuilt:
    """One surface of a job: `deviations` and standard `uncertainties` from design at `stations`, metres; none of
    either for a surface as designed. Raises `NoSurface` where the stations make none."""

    def __init__(
        self,
        job: Job,
        surface: Surface,
        stations: Sequence[Station],
        deviations: Sequence[float] | Floats | None = None,
        uncertainties: Sequence[float] | Floats | None = None,
    ) -> None:
        self.job, self.surface, self.stations = job, surface, tuple(stations)
        places = tuple(station.at for station in stations)
        self.mesh = job_mesh(job, places)
        none = np.zeros(len(places))
        self.at_stations = none if deviations is None else np.asarray(deviations, dtype=float)
        self.uncertainties = none if uncertainties is None else np.asarray(uncertainties, dtype=float)

    @cached_property
    def design(self) -> Floats:
        """Design levels at the vertices."""
        return self.job.design.level_at(*self.mesh.points.T) - self.surface.depth

    @cached_property
    def deviations(self) -> Floats:
        return self.mesh.at_vertices(self.at_stations)

    @cached_property
    def levels(self) -> Floats:
        return np.asarray(self.design + self.deviations)

    @cached_property
    def vertex_uncertainties(self) -> Floats:
        return np.asarray(np.sqrt(self.mesh.weights.power(2) @ self.uncertainties**2))

    @cached_property
    def outlets(self) -> Bools:
        return outlets(self.mesh, self.job.area, self.job.ways_out, self.job.outlet, self.surface.kind)

    @cached_property
    def water(self) -> StandingWater:
        """Where water stands on it, were it to hold any."""
        return standing_water(self.mesh, self.levels, self.outlets)

    @property
    def asked_to_drain(self) -> bool:
        """Whether rules ask it to fall and to hold no water: the tops of base and paving, and the formation under a
        base that drains along it."""
        if self.surface.is_covered or self.surface.kind not in PUDDLE_LIMITS:
            return False
        drains = self.job.specification.takes_water_in or self.job.outlet is not None
        return drains or self.surface.kind is not SurfaceKey.FORMATION

    @property
    def puddle_limit(self) -> float | None:
        """How deep water may stand on it; None where no rule asks."""
        return PUDDLE_LIMITS[self.surface.kind] if self.asked_to_drain and not self.lets_water_in else None

    @property
    def lets_water_in(self) -> bool:
        """Whether water goes through it instead of over it: stone that drains lies under it all the way."""
        return self.surface.kind is not SurfaceKey.FORMATION and self.job.specification.takes_water_in

    @cached_property
    def falls(self) -> Falls:
        built, design = self.mesh.gradient(self.levels), self.mesh.gradient(self.design)
        designed = np.hypot(*design.T)
        with np.errstate(divide="ignore", invalid="ignore"):
            ways = np.where(designed[:, None] > 0, -design / designed[:, None], 0.0)
        along = -(built * ways).sum(axis=1)
        count = len(self.mesh.triangles)
        spread = sparse.csr_matrix(
            ((self.mesh.slopes * ways[:, None]).sum(axis=2).ravel(),
             (np.repeat(np.arange(count), 3), self.mesh.triangles.ravel())),
            shape=(count, len(self.mesh.points)),
        )  # fmt: skip
        guard = COVERAGE * np.sqrt(np.asarray((spread @ self.mesh.weights).power(2) @ self.uncertainties**2))
        least = SHARE * designed
        judged = (designed >= LEVEL) & (self.mesh.compactness >= LEAST_COMPACT)
        code = np.select(
            [~judged, along + guard < 0, along + guard < least, along - guard >= least - 1e-12], [0, 1, 2, 3], 4
        )
        call = (None, FallCall.WRONG_WAY, FallCall.FLAT, FallCall.GOOD, FallCall.TOO_CLOSE)
        return Falls(along, designed, guard, tuple(call[n] for n in code), ways)

    @cached_property
    def towards_buildings(self) -> dict[str, Ints]:
        """The triangles along a building without a drain between that fall towards it, sure of it, by its name."""
        found = {}
        built = self.mesh.gradient(self.levels)
        outer, own = self.mesh.neighbours < 0, self.vertex_uncertainties
        corners = self.mesh.points[self.mesh.triangles]
        middles = (np.roll(corners, -1, axis=1) + np.roll(corners, -2, axis=1)) / 2
        for edge in self.job.building_edges:
            if edge.drained:
                continue
            line = shapely.LineString([edge.start, edge.end])
            beside = (outer & shapely.dwithin(line, shapely.points(middles), 0.05)).any(axis=1)
            beside &= self.mesh.compactness >= LEAST_COMPACT
            towards = -(built @ np.array(edge.towards))
            guard = COVERAGE * np.sqrt(
                ((self.mesh.slopes @ np.array(edge.towards)) ** 2 * own[self.mesh.triangles] ** 2).sum(axis=1)
            )
            if (falling := np.flatnonzero(beside & (towards - guard > TOWARDS))).size:
                found[edge.building] = falling
        return found

    @cached_property
    def bar(self) -> BarGaps:
        """A 3 m straightedge laid at every station in every direction; gaps by station. It is laid on what the
        surface is off its design, so that a ridge or a valley that was designed is no gap."""
        limit = BAR_LIMITS.get(self.surface.kind, 0.0)
        laid = straightedge(self.mesh, self.deviations, self.mesh.vertex_of[self.mesh.vertex_of >= 0], BAR, limit)
        gaps = np.full(len(self.stations), np.nan)
        gaps[self.mesh.vertex_of >= 0] = laid.gaps
        return BarGaps(gaps, laid.worst)

    @cached_property
    def hole(self) -> Hole | None:
        """The place of the area furthest from every station that was shot."""
        return _hole(tuple(station.at for station in self.stations), self.job.area)

    @property
    def reach(self) -> float:
        """How far from a station its level still speaks for the ground, metres."""
        return ABOUT_A_SPACING * self.job.station_spacing

    @property
    def known(self) -> float:
        """The share of the area whose level is known."""
        return float(self.mesh.region.area / self.job.area.area)

    def station_near(self, vertex: int) -> str:
        """The station nearest to a vertex."""
        return self.stations[int(self._nearest[vertex])].name

    def stations_near(self, vertices: Sequence[int]) -> tuple[str, ...]:
        """The stations nearest to vertices, each once, in walking order."""
        found = np.unique(self._nearest[vertices]) if len(vertices) else ()
        return tuple(self.stations[number].name for number in found)

    @cached_property
    def _nearest(self) -> Ints:
        """The number of the station nearest to each vertex; of those as near, the first."""
        some = min(len(self.stations), 4)
        far, near = cKDTree([s.at for s in self.stations]).query(self.mesh.points, k=some)
        far, near = np.round(far.reshape(-1, some), 9), near.reshape(-1, some)
        return np.asarray(np.take_along_axis(near, np.lexsort((near, far), axis=1)[:, :1], axis=1)[:, 0])

    @cached_property
    def puddles(self) -> tuple[Puddle, ...]:
        """The puddles worth telling one by one, the deepest first."""
        return tuple(p for p in self.water.puddles if p.depth >= LEAST_TOLD)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What it comes to against its design: falls, puddles, the straightedge, coverage."""
        return tuple(findings(self))

    def sureness(self, puddle: Puddle) -> float:
        """How far the puddle's depth may be off."""
        own = self.vertex_uncertainties
        return float(COVERAGE * np.hypot(own[puddle.lowest], own[puddle.sill]))


@dataclass(frozen=True)
class _Says:
    """How a surface's findings are ruled and worded."""

    rule: str
    why: str
    standing: Source


DRAINS = _Says("D05", "Water that finds no fall stays in the base and softens the ground.", Source.PRACTICE)
BASE_TOP = _Says("L06", "The bedding follows the base: what stands on one stands under the other.", Source.PRACTICE)
PAVING = _Says("F02", "Standing water stains, freezes and gets walked in.", Source.PRACTICE)


def findings(built: AsBuilt) -> Iterator[Finding]:
    """What a surface as built comes to against its design: falls, puddles, the straightedge, coverage."""
    kind = built.surface.kind
    if built.asked_to_drain:
        says = {SurfaceKey.FORMATION: DRAINS, SurfaceKey.FINISHED: PAVING}.get(kind, BASE_TOP)
        yield from _fall_findings(built, says)
        if built.puddle_limit is not None:
            yield from _puddle_findings(built, says, built.puddle_limit)
    if kind in BAR_LIMITS and not built.surface.is_covered:
        yield from _bar_findings(built)
    yield from _hole_findings(built)


def _fall_findings(built: AsBuilt, says: _Says) -> Iterator[Finding]:
    down = Words("down the design's own way")
    half = Words("at least half the designed fall")
    most_of_it = Words("at least four fifths of the designed fall")
    cure = "Trim and fill between the stations named, and shoot them again."
    falls = built.falls
    wrong = falls.of(FallCall.WRONG_WAY)
    kinds = [(wrong, Severity.STOP, "falls the wrong way round {n} stations", down)]
    if says is not DRAINS:
        out = falls.under(OUT_SHARE) & ~wrong
        kinds.append((out, Severity.STOP, "less than half its fall round {n} stations", half))
        flat = falls.of(FallCall.FLAT) & ~out
        kinds.append((flat, Severity.WARNING, "too flat round {n} stations", most_of_it))
    for triangles, severity, found, limit in kinds:
        names = built.stations_near(np.unique(built.mesh.triangles[triangles]).tolist())
        if names:
            words = Words(found, counts={"n": len(names)}, one=ROUND_ONE[found])
            yield Finding(says.rule, severity, words, limit, says.why, cure, says.standing, names)
    for building, along in built.towards_buildings.items():
        names = built.stations_near(np.unique(built.mesh.triangles[along]).tolist())
        words = Words("falls towards the {building}", names={"building": building})
        yield Finding(
            says.rule, Severity.STOP, words, Words("away from it, or a drain between"),
            "Water is led to the foundation.", cure, says.standing, names,
        )  # fmt: skip


ROUND_ONE = {
    "falls the wrong way round {n} stations": "falls the wrong way round {n} station",
    "less than half its fall round {n} stations": "less than half its fall round {n} station",
    "too flat round {n} stations": "too flat round {n} station",
}


def _puddle_findings(built: AsBuilt, says: _Says, most: float) -> Iterator[Finding]:
    limit = Words("no water deeper than {limit}", {"limit": most})
    if built.water.trapped > 0:
        yield Finding(
            says.rule, Severity.WARNING, Words("no drain or free edge is named: water has no way off"),
            Words("a way out for water"), says.why, "Name the drain or the edge in the Brief.", says.standing,
        )  # fmt: skip
    over = [p for p in built.water.puddles if p.depth > most]
    sure = [p for p in over if p.depth - built.sureness(p) > most]
    unsure = [p for p in over if p not in sure]
    for puddles, severity, found, cure in (
        (
            sure,
            Severity.STOP,
            "standing water at {n}, up to {worst} deep",
            "Water says what to trim or fill; shoot it again.",
        ),
        (
            unsure,
            Severity.WARNING,
            "standing water at {n}, {worst} deep, too close to call",
            "Shoot those stations again.",
        ),
    ):
        if puddles:
            words = Words(found, {"worst": max(p.depth for p in puddles)}, {"n": len(puddles)})
            names = built.stations_near([p.lowest for p in puddles])
            yield Finding(says.rule, severity, words, limit, says.why, cure, says.standing, names)


def _bar_findings(built: AsBuilt) -> Iterator[Finding]:
    most, laid = BAR_LIMITS[built.surface.kind], built.bar
    if laid.worst is None or laid.worst.gap <= most:
        return
    uncertainty = COVERAGE * 1.5**0.5 * float(built.uncertainties.max(initial=0.0))
    wide = [built.stations[n].name for n in np.flatnonzero(np.nan_to_num(laid.gaps) > most)]
    sure = laid.worst.gap - uncertainty > most
    stop = laid.worst.gap - uncertainty > BAR_STOPS.get(built.surface.kind, most)
    found = (
        "gaps up to {worst} under a 3 m straightedge"
        if sure
        else "gaps of {worst} under a 3 m straightedge, too close to call"
    )
    finished = built.surface.kind in (SurfaceKey.FINISHED, SurfaceKey.SCREED, SurfaceKey.BEDDING)
    yield Finding(
        "F03" if finished else "L07",
        Severity.STOP if stop else Severity.WARNING,
        Words(found, {"worst": laid.worst.gap}),
        Words("at most {limit}", {"limit": most}),
        "Units laid over a hollow rock, and the bedding is no place to make it up.",
        "Lay the bar there; trim the high spots or fill the low one." if sure else "Lay the bar there and measure.",
        Source.MEMORY,
        tuple(wide),
    )


def _hole_findings(built: AsBuilt) -> Iterator[Finding]:
    hole, spacing = built.hole, built.job.station_spacing
    if hole and hole.radius > built.reach:
        yield Finding(
            "D06",
            Severity.WARNING,
            Words("a place {far} from anything shot", distances={"far": hole.radius}),
            Words("at most {spacing}, the stations' spacing", distances={"spacing": spacing}),
            "Between stations nobody knows the level.",
            "Shoot the stations there.",
            Source.PRACTICE,
        )


def as_built(job: Job, survey: Survey) -> AsBuilt:
    """A surface from what was shot of it. Raises `NoSurface`."""
    known = [
        (answer.station, judgement.deviation, judgement.uncertainty)
        for answer in survey.answers.values()
        for judgement in [answer.judgement]
        if judgement.deviation is not None and judgement.uncertainty is not None
    ]
    return AsBuilt(job, survey.surface, [k[0] for k in known], [k[1] for k in known], [k[2] for k in known])
