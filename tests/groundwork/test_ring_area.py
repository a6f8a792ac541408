"""A ring-shaped area, curved outside and in: everything downstream against numerical integration over a fine grid,
and water against a fill of a raster with the island walled and with the island as way out."""

import heapq
import math
from dataclasses import replace

import numpy as np
import pytest
import shapely
from tests.groundwork.test_asbuilt import LAYERS

from groundwork.base import BaseSpecification, Details
from groundwork.base.takeoff import quantities
from groundwork.built import AsBuilt
from groundwork.job import Job
from groundwork.measures import Unit
from groundwork.plan import Feature, patches
from groundwork.shape import Island, circle
from groundwork.soundness import first_facets
from groundwork.soundness.designed import designed_water
from groundwork.surfaces import Facet, widest_hole

OUTER, INNER, MIDDLE = 5.0, 1.5, (6.0, 6.0)
AREA = math.pi * (OUTER**2 - INNER**2)
STEP = 0.02


def ring_job(takes_water: bool = False, kind: str = "tree pit", **more) -> Job:
    """Round, 10 m across with a tree pit of 3 m in its middle, falling 1:60 to the south; nothing named along its
    outer edge."""
    outer = circle(MIDDLE, OUTER)
    facet = Facet("all", outer.cover, MIDDLE, 10.0, 180.0, 1 / 60)
    base = BaseSpecification("dense", LAYERS, details=Details(margin=0.15))
    island = Island(kind, "lime", circle(MIDDLE, INNER), takes_water)
    job = Job("Ring", Unit.MILLIMETRES, outer.corners, (facet,), base, 1.0, bulges=outer.bulges, islands=(island,))
    return replace(job, **more)


def grid() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Middles of small squares, and which of them lie in the ring, by the circles' own formula."""
    along = np.arange(0.5 * STEP, 12, STEP)
    east, north = np.meshgrid(along, along)
    far = np.hypot(east - MIDDLE[0], north - MIDDLE[1])
    return east, north, (far <= OUTER) & (far >= INNER)


def shot(job: Job, deviation) -> AsBuilt:
    off = [deviation(*station.at) for station in job.stations]
    return AsBuilt(job, job.specification.surface("finished"), job.stations, off, [1e-6] * len(off))


def test_area_patches_and_quantities_are_those_of_the_ring() -> None:
    job = ring_job()
    assert job.area.area == pytest.approx(AREA, rel=1e-7)
    assert sum(patch.area for patch in patches(job.area)) == pytest.approx(AREA, rel=1e-5)
    taken = {str(q.layer.role): q for q in quantities(job.area, job.specification, job.footprint).layers}
    assert taken["paving"].volume == pytest.approx(AREA * 0.06, rel=1e-6)
    # Stone reaches 150 mm under the edging outside and in the tree pit.
    wide = math.pi * ((OUTER + 0.15) ** 2 - (INNER - 0.15) ** 2)
    assert taken["base"].volume == pytest.approx(wide * 0.10, rel=2e-3)
    walled = quantities(job.area, job.specification, ring_job(kind="column").footprint)
    narrow = math.pi * ((OUTER + 0.15) ** 2 - INNER**2)
    assert walled.layers[-1].volume == pytest.approx(narrow * 0.10, rel=2e-3)


def test_stations_lie_on_the_ring_and_reach_all_of_it() -> None:
    job = ring_job()
    names = [station.name for station in job.stations]
    assert len(set(names)) == len(names) and {"X1", "X2", "Y1"} <= set(names)
    for station in job.stations:
        far = math.dist(station.at, MIDDLE)
        assert INNER - 0.002 <= far <= OUTER + 0.002
    east, north, inside = grid()
    stations = shapely.MultiPoint([s.at for s in job.stations])
    far = shapely.distance(stations, shapely.points(east[inside][::40], north[inside][::40]))
    hole = widest_hole([s.at for s in job.stations], job.area)
    assert hole.radius == pytest.approx(float(far.max()), abs=0.03) and hole.radius < 1.02


@pytest.mark.parametrize("dip", [0.0, 0.012])
def test_volume_and_falls_against_a_grid(dip: float) -> None:
    job = ring_job()

    def deviation(x: float, y: float) -> float:
        return 0.004 + 0.002 * (x - MIDDLE[0]) - dip * math.exp(-((x - 9) ** 2 + (y - 6) ** 2) / 2)

    built = shot(job, deviation)
    east, north, inside = grid()
    inside &= shapely.contains_xy(built.mesh.region, east, north)
    wanted = float(np.sum(np.vectorize(deviation)(east[inside][::7], north[inside][::7]))) * STEP**2 * 7
    tolerance = 0.002 * AREA if dip else 2e-4
    # Between stations a metre apart the arc stands 25 mm out of what they enclose: 0.7 % of the area.
    assert built.known == pytest.approx(1.0, abs=0.01)
    assert built.mesh.volume(built.deviations) == pytest.approx(wanted, abs=tolerance)
    if not dip:
        falls = np.hypot(*built.mesh.gradient(built.levels).T)
        assert falls == pytest.approx(math.hypot(1 / 60, 0.002), abs=2e-4)


def filled(levels: np.ndarray, inside: np.ndarray, out: np.ndarray) -> np.ndarray:
    """How high water stands in each cell: a flood from the ways out over the lowest rims (Barnes 2014)."""
    water = np.where(inside, np.inf, np.nan)
    heap = []
    for r, c in np.argwhere(inside & out):
        water[r, c] = levels[r, c]
        heapq.heappush(heap, (levels[r, c], int(r), int(c)))
    while heap:
        level, r, c = heapq.heappop(heap)
        for dr, dc in ((0, 1), (1, 0), (0, -1), (-1, 0)):
            a, b = r + dr, c + dc
            if 0 <= a < inside.shape[0] and 0 <= b < inside.shape[1] and inside[a, b] and water[a, b] == np.inf:
                water[a, b] = max(level, levels[a, b])
                heapq.heappush(heap, (water[a, b], a, b))
    return water


@pytest.mark.parametrize("way_out", ["south", "island"])
def test_water_stands_as_a_raster_fills(way_out: str) -> None:
    """A trough behind the island: with the south edge open water is held by the island and runs round it; with the
    island open the water south of it stands against the outer edge."""
    low = [(6 + OUTER * math.cos(a), 6 + OUTER * math.sin(a)) for a in np.linspace(-1.9, -1.24, 12)]
    open_edge = (Feature("free edge", "lawn", tuple(low)),) if way_out == "south" else ()
    job = ring_job(takes_water=way_out == "island", features=open_edge, station_spacing=0.5)

    def dished(x: float, y: float) -> float:
        return -0.080 * math.exp(-((x - 6) ** 2 + (y - 8.8) ** 2) / 2)

    built = shot(job, dished)
    step = 0.05
    along = np.arange(0.5 * step, 12, step)
    east, north = np.meshgrid(along, along)
    far = np.hypot(east - 6, north - 6)
    inside = (far <= OUTER) & (far >= INNER)
    levels = built.mesh.level_at(built.levels, np.column_stack([east.ravel(), north.ravel()])).reshape(east.shape)
    inside &= np.isfinite(levels)
    if way_out == "south":
        angle = np.arctan2(north - 6, east - 6)
        out = (far > OUTER - 1.5 * step) & (angle > -1.9) & (angle < -1.24)
    else:
        out = far < INNER + 1.5 * step
    depth = filled(levels, inside, out) - levels
    volume = float(np.nansum(depth)) * step**2
    assert sum(p.volume for p in built.water.puddles) == pytest.approx(volume, rel=0.06)
    assert max(p.depth for p in built.water.puddles) == pytest.approx(float(np.nanmax(depth)), abs=0.002)


def test_the_first_design_of_a_round_court_with_a_tree_stands_dry_and_no_steeper_than_it_must() -> None:
    edge = tuple((6 + OUTER * math.cos(a), 6 + OUTER * math.sin(a)) for a in np.linspace(-2.5, -0.6, 24))
    for kind, takes in (("tree pit", False), ("gully", True)):
        job = ring_job(takes_water=takes, kind=kind, features=(Feature("free edge", "lawn", edge),) * (not takes))
        design = replace(job, facets=first_facets(job))
        water = designed_water(design)
        assert water is not None and not water.landlocked and water.depth <= 0.003
        assert max(facet.steepest[0] for facet in design.facets) <= 1 / 60 + 1e-6
