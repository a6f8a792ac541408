"""Jobs at random, with names as long as people write them and everything that stands on a plan."""

import json
import math
import random
from dataclasses import replace

import shapely
from shapely import affinity

from groundwork.assess import Assessment, assess
from groundwork.entries import Reading, SetUp
from groundwork.files import loads
from groundwork.layerwork import SoftSpot
from groundwork.measures import Measured

NAMES = [
    "gate",
    "Boathouse, its south wall",
    "old kerb along the lane",
    "slot drain 3",
    "neighbour’s wall",
    "hut",
    "way",
]
OFF = [0.0, 0.002, -0.004, 0.016, -0.022, 0.041, -0.058, 0.0, 0.001]


def assessed(seed: int) -> Assessment:
    """A job somewhere in its dig: part of it shot, some of that out, a soft spot here and there."""
    chance = random.Random(seed)
    job = loads(json.dumps(_site(chance)))
    level = max(mark.level for mark in job.marks) + 1.4
    first = job.marks[0]
    entries = [SetUp("s", first.name, _measured(level - first.level), at=job.area.centroid.coords[0])]
    design = assess(job).surveys.formation
    for station in list(job.stations)[: chance.randrange(len(job.stations) + 1)]:
        reads = level - design.answers[station.name].design - chance.choice(OFF)
        entries.append(Reading(f"r{station.name}", station.name, "s", _measured(reads)))
    if chance.random() < 0.4:
        middle = job.area.representative_point()
        ring = shapely.get_coordinates(middle.buffer(1.0, quad_segs=1))[:-1]
        entries.append(SoftSpot("soft", "by the gate", tuple(map(tuple, ring.tolist())), Measured("300", 0.3)))
    return assess(replace(job, entries=tuple(entries)))


def _measured(metres: float) -> Measured:
    return Measured(f"{metres * 1000:.1f}", round(metres, 4))


def _site(chance: random.Random) -> dict:
    outline = _outline(chance)
    ring = [(round(x, 3), round(y, 3)) for x, y in shapely.get_coordinates(outline)[:-1]]
    sides = list(zip(ring, [*ring[1:], ring[0]], strict=True))
    chance.shuffle(sides)
    features: list[dict] = []
    kinds = ["building", "free edge", "drain", "kerb", "kerb"]
    for kind, (start, end) in zip(kinds, sides, strict=False):
        points = [start, end]
        if kind == "building":
            along = shapely.LineString([start, end])
            points = [*points, *reversed(shapely.get_coordinates(along.offset_curve(-2.0)).tolist())]
        features.append(
            {"kind": kind, "name": chance.choice(NAMES), "points_m": [list(map(float, p)) for p in points]}
        )
    west, south, east, north = outline.bounds
    marks = [
        {"name": f"{chance.choice(['sill', 'bolt in the wall', 'M'])} {n}",
         "at_m": [round(chance.uniform(west - 2, east + 2), 2), round(chance.uniform(south - 2, north + 2), 2)],
         "level_m": round(chance.uniform(10.0, 10.6), 3)}
        for n in range(1, chance.randint(2, 5))
    ]  # fmt: skip
    spacing = max(1.0, math.sqrt(outline.area / chance.choice([8, 20, 45, 90])))
    return {
        "format": "nivelum-job/1", "name": "At random", "units": chance.choice(["mm", "m", "ft", "ft-in"]),
        "area": {"outline_m": [list(p) for p in ring]}, "station_spacing_m": round(spacing, 2), "features": features,
        "marks": marks,
        "facets": [{"name": "all", "outline_m": [list(p) for p in ring], "at_m": list(ring[0]), "level_m": 10.0,
                    "bearing_deg": chance.randrange(360), "fall_1_in": chance.choice([48, 60, 80])}],
        "brief": {"traffic": "drive", "soil": "clay", "dust_control": "water"},
        "specification": {"school": "dense", "layers": [
            {"role": "paving", "material": "concrete-block", "thickness_mm": 80},
            {"role": "bedding", "material": "concrete-sand", "thickness_mm": 30},
            {"role": "base", "material": "dense-graded", "thickness_mm": 150}]},
    }  # fmt: skip


def _outline(chance: random.Random) -> shapely.Polygon:
    wide, high = chance.uniform(3, 22), chance.uniform(3, 16)
    shape = shapely.box(0, 0, wide, high)
    if chance.random() < 0.5:
        bite = shapely.box(wide * chance.uniform(0.4, 0.7), high * chance.uniform(0.4, 0.7), wide, high)
        shape = shape.difference(bite)
    if chance.random() < 0.3:
        shape = shape.difference(shapely.Polygon([(0, 0), (wide * 0.25, 0), (0, high * 0.25)]))
    return shapely.set_precision(affinity.rotate(shape, chance.choice([0, 0, 0, 17, 33, 90]), origin=(0, 0)), 0.001)
