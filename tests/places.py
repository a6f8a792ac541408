"""Every place of a job that a test walks, and a job with every kind of trouble in it."""

import uuid

from groundwork.entries import Fill
from groundwork.layerwork import Delivered, Direction, GaugeTest, LaboratoryTest, MachineBrought, Passed, SoftSpot
from groundwork.measures import Measured
from groundwork.tools import Machine, MachineKind
from tests.conftest import DRAINED_PAD, World, make_world

PLACES = [
    "/",
    "crew",
    "new",
    "base/",
    "base/falls/?layout=one&least=1:60&most=1:20&where=",
    "base/schools/?one=dense&other=open",
    "base/ground/",
    "base/brief/",
    "sign-offs/?stage=brief",
    "ground/",
    "ground/?station=A2",
    "ground/?pane=anew",
    "ground/?pane=sight",
    "ground/?pane=mend",
    "ground/?surface=base.1",
    "ground/book/?by=rise",
    "ground/targets/",
    "ground/surface/",
    "ground/surface/?show=falls&start=X1&end=X3",
    "ground/surface/?show=coverage",
    "ground/surface/?surface=base&show=thickness",
    "water/",
    "water/?of=mended",
    "water/?surface=base&of=designed&beside=1",
    "lifts/?lift=base.1",
    "lifts/?lift=formation",
    "lifts/spread-targets/?lift=base.1",
    "lifts/tests/?lift=base.1",
    "lifts/tests/?lift=formation",
    "lifts/ground/",
    "lifts/deliveries/",
    "set-out/?",
    "set-out/services/",
    "set-out/strings/?height=200mm&surface=base",
    "set-out/square/?side_a=3&side_b=4&across=5.02",
    "tool",
    "sign-offs/",
    "sign-offs/?stage=subgrade",
    "sign-offs/?stage=laying",
    "sign-offs/?stage=handover",
    "record/",
    "shares/",
]


def dug_world(rod: str) -> World:
    world = make_world(rod=rod, job_file=DRAINED_PAD)
    world.set_up()
    for station, high in [("A1", 34), ("A2", -60), ("A3", 19.5), ("B1", -48), ("B2", -90), ("X3", 0), ("X4", 0)]:
        world.shoot(station, high)
    world.record(Fill(str(uuid.uuid4()), "B1", "soil"))
    world.shoot("B1")
    machine = MachineBrought(str(uuid.uuid4()), Machine("plate", MachineKind.PLATE, 90, 0.45, 0.5))
    lab = LaboratoryTest(str(uuid.uuid4()), "dense-graded", (0.04, 0.05, 0.06, 0.07),
                         (2050.0, 2110.0, 2130.0, 2100.0), 2.7)  # fmt: skip
    square = ((1.0, 1.0), (3.0, 1.0), (3.0, 3.0))
    spot = SoftSpot(
        str(uuid.uuid4()), "gate", square, Measured("1.00", 0.3048) if rod == "ft" else Measured("300", 0.3)
    )
    passed = Passed(str(uuid.uuid4()), "base.1", machine.id, Direction.ALONG)
    gauge = GaugeTest(str(uuid.uuid4()), "base.1", "T1", (2.0, 2.0), 2200.0, 0.05)
    ticket = Delivered(str(uuid.uuid4()), "4471", "dense-graded", 9_000.0)
    for entry in (machine, lab, spot, passed, gauge, ticket):
        world.record(entry)
    return world


def address(world: World, place: str) -> str:
    """Where a place is for a crew and its job."""
    crew = f"/crews/{world.crew.id}/"
    laser = world.crew.tools.get(name="Laser").id
    outside = {"/": "/", "new": "/jobs/new/", "crew": crew, "tool": f"{crew}tools/{laser}/"}
    return outside.get(place) or f"/jobs/{world.job.id}/{place}"
