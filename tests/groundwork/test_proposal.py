"""The first falls of jobs as people start them: an outline, one height, a way out. Whether water stands is judged
from outside: a raster of the planes, flooded by morphological reconstruction (scikit-image)."""

import math
from dataclasses import dataclass, replace

import numpy as np
import pytest
import shapely
from skimage.morphology import reconstruction

from groundwork.base import BaseSpecification
from groundwork.brief import FixedHeight, HeightKind
from groundwork.job import Job
from groundwork.measures import FOOT, Unit
from groundwork.plan import Feature, along_side
from groundwork.schools import school
from groundwork.soundness import first_facets, soundness
from groundwork.surfaces import Facet

STEP = 0.05


@dataclass(frozen=True)
class Started:
    """An outline with what stands along its sides or in it, and the heights given. Metres."""

    outline: tuple
    along: dict[int, str]
    heights: tuple[FixedHeight, ...]
    things: tuple[Feature, ...] = ()
    unit: Unit = Unit.MILLIMETRES
    steepest: float = 1 / 60

    @property
    def job(self) -> Job:
        sides = tuple(
            Feature(kind, kind, along_side(self.outline, side, kind), side)
            for side, kinds in self.along.items()
            for kind in kinds.split("+")
        )
        base: BaseSpecification = school("dense").specification(Job("", self.unit, (), (), None, 1).brief.traffic)  # type: ignore[arg-type]
        return Job("j", self.unit, self.outline, (), base, 2.0, (), (*sides, *self.things), heights=self.heights)


def box(east: float, north: float, unit: float = 1.0) -> tuple:
    return ((0.0, 0.0), (east * unit, 0.0), (east * unit, north * unit), (0.0, north * unit))


def at(kind: HeightKind, east: float, north: float, level: float, unit: float = 1.0) -> FixedHeight:
    return FixedHeight(kind, str(kind), (east * unit, north * unit), level * unit)


STEP_, EDGE, GULLY = HeightKind.THRESHOLD, HeightKind.BOUNDARY, HeightKind.DRAIN
ELL = ((0.0, 0.0), (8.0, 0.0), (8.0, 4.0), (4.0, 4.0), (4.0, 9.0), (0.0, 9.0))
EL_FEET = tuple((x * FOOT, y * FOOT) for x, y in ((0, 0), (26, 0), (26, 12), (11, 12), (11, 30), (0, 30)))
JOBS = {
    "a court, one boundary, out on the far side": Started(box(6, 5), {2: "free edge"}, (at(EDGE, 3, 0, 10),)),
    "the same, drained on the far side": Started(box(6, 5), {2: "drain"}, (at(EDGE, 0, 0, 10),)),
    "24 feet, out at the far end": Started(
        box(24, 12, FOOT), {1: "free edge"}, (at(EDGE, 0, 6, 100, FOOT),), unit=Unit.FEET_INCHES
    ),
    "a terrace off the house": Started(
        box(7.3, 4.1), {2: "building", 0: "free edge"}, (at(STEP_, 3.6, 4.1, 100),)
    ),
    "a patio, out at one side of the house": Started(
        box(20, 14, FOOT), {2: "building", 1: "free edge"}, (at(STEP_, 10, 14, 100, FOOT),), unit=Unit.FEET_TENTHS
    ),
    "a drive toward the garage and its channel": Started(
        box(3.2, 9.5), {2: "building+drain"}, (at(EDGE, 1.6, 0, 50),)
    ),
    "a yard to a gully in its middle": Started(box(9, 7), {}, (at(GULLY, 10 / 3, 7 / 3, 20),)),
    "a gully in a corner": Started(box(5, 5), {2: "building"}, (at(GULLY, 0.2, 0.2, 20),)),
    "a path to its end": Started(box(1.1, 14), {0: "free edge"}, (at(EDGE, 0.5, 14, 12),)),
    "a corner drain, given as a thing": Started(
        box(6, 4), {}, (at(EDGE, 0, 4, 9),), (Feature("drain", "pot", ((5.9, 0.1),)),)
    ),
    "an L round a corner, out at the end of the long arm": Started(ELL, {1: "free edge"}, (at(EDGE, 0, 9, 10),)),
    "an L round a house, out at the foot": Started(
        ELL, {2: "building", 3: "building", 0: "free edge"}, (at(STEP_, 4, 6, 10),)
    ),
    "an L, out at the end of the short arm": Started(
        EL_FEET, {4: "free edge"}, (at(EDGE, 26, 0, 100, FOOT),), unit=Unit.FEET_INCHES
    ),
    "a channel across the middle": Started(
        box(8, 10), {}, (at(EDGE, 4, 10, 10),), (Feature("drain", "slot", ((0.0, 5.0), (8.0, 5.0))),)
    ),
    "a kite": Started(
        ((0.0, 0.0), (5.0, -2.0), (9.0, 1.0), (4.0, 6.5)), {3: "free edge"}, (at(EDGE, 9, 1, 10),)
    ),
    "a ring of eight sides": Started(
        tuple((4 * math.cos(a), 4 * math.sin(a)) for a in np.arange(8) * math.pi / 4), {5: "free edge"},
        (at(EDGE, 4, 0, 10),),
    ),
    "both ends held at 1:40": Started(
        box(6, 8), {0: "free edge"}, (at(STEP_, 3, 8, 10), at(EDGE, 3, 0, 9.8)), steepest=1 / 40
    ),
    "both ends held at 1:15": Started(
        box(4, 6), {0: "free edge"}, (at(STEP_, 2, 6, 10), at(EDGE, 2, 0, 9.6)), steepest=1 / 15
    ),
    "nothing but a damp-proof course": Started(
        box(6, 4), {2: "building", 0: "free edge"}, (at(HeightKind.DAMP_PROOF_COURSE, 3, 4, 10),)
    ),
}  # fmt: skip


def flooded(job: Job) -> float:
    """The deepest water on a raster of the finished surface, metres: what lies within reach of a way out is open, the
    rest of the edge holds."""
    west, south, east, north = job.area.bounds
    xs, ys = np.arange(west + STEP / 2, east, STEP), np.arange(south + STEP / 2, north, STEP)
    grid = np.stack(np.meshgrid(xs, ys), axis=-1)
    inside = shapely.contains_xy(job.area, grid[..., 0], grid[..., 1])
    levels = np.full(inside.shape, np.inf)
    levels[inside] = job.design.level_at(*grid[inside].T)
    outs = [f for f in job.features if f.kind in ("drain", "free edge")]
    outs += [Feature("drain", h.name, (h.at,)) for h in job.heights if h.kind is HeightKind.DRAIN]
    ways = shapely.union_all([f.shape.buffer(0.15) for f in outs])
    open_ = inside & shapely.contains_xy(ways, grid[..., 0], grid[..., 1])
    assert open_.any()
    high = float(levels[inside].max()) + 1
    ground = np.pad(np.where(inside, levels, high), 1, constant_values=high)
    seed = np.where(np.pad(open_, 1, constant_values=False), ground, high)
    return float((reconstruction(seed, ground, method="erosion") - ground)[1:-1, 1:-1][inside].max())


@pytest.mark.parametrize("name", JOBS)
def test_a_job_started_with_one_height_and_a_way_out_drains_and_is_no_steeper_than_it_must_be(name: str) -> None:
    started = JOBS[name]
    job = replace(started.job, facets=first_facets(started.job))
    # A raster sees a step of one cell's fall where a plane runs askew to its edge.
    assert flooded(job) <= 0.003 + STEP * started.steepest
    for height in job.heights:
        least, most = height.bounds()
        level = job.design.level(height.at)
        assert (least is None or level >= least - 1e-5) and (most is None or level <= most + 1e-5)
    # A facet led into the next carries the next one's fall beside its own: two falls of 1:60 square to each other.
    led = math.sqrt(2) if len(job.facets) > 1 else 1.0
    assert max(f.steepest[0] for f in job.facets) <= started.steepest * led * 1.001
    assert not [f for f in soundness(job) if f.rule in ("S02", "S03", "S21", "S22")]


COURT = JOBS["a court, one boundary, out on the far side"].job
UPHILL = Facet("all", COURT.outline, (3.0, 0.0), 10.0, 180.0, 1 / 20)


def test_a_design_that_falls_away_from_its_way_out_is_a_stop_with_its_puddle() -> None:
    # By hand: 5 m at 1:20, held all round but at the top: 250 mm at the low side.
    (found,) = [f for f in soundness(replace(COURT, facets=(UPHILL,))) if f.rule == "S22"]
    assert found.severity == "stop"
    assert found.found.text(Unit.MILLIMETRES).startswith("as designed water stands 250 mm deep at ")
    assert set(found.stations) <= {"X1", "X2"}
    level = replace(UPHILL, fall=0.0)
    assert "S22" not in {f.rule for f in soundness(replace(COURT, facets=(level,)))}


def test_where_no_way_out_is_named_it_warns_and_cells_are_not_asked() -> None:
    unnamed = replace(COURT, features=(), facets=(UPHILL,))
    assert [(f.rule, f.severity) for f in soundness(unnamed) if f.rule == "S22"] == [("S22", "warning")]
    cells = replace(unnamed, specification=school("cells").specification(unnamed.brief.traffic))
    assert not [f for f in soundness(cells) if f.rule == "S22"]


def test_a_dip_of_just_over_and_just_under_what_may_stand() -> None:
    # Two planes that meet in a valley level with the way out but for its last metre, which rises by the depth.
    for depth, stands in ((0.0029, False), (0.0031, True)):
        low = Facet("low", ((0, 0), (6, 0), (6, 4), (0, 4)), (0, 4), 10.0, 0.0, 1 / 60)
        lip = Facet("lip", ((0, 4), (6, 4), (6, 5), (0, 5)), (0, 4), 10.0, 180.0, depth)
        rules = {f.rule for f in soundness(replace(COURT, facets=(low, lip))) if f.severity == "stop"}
        assert ("S22" in rules) is stands
