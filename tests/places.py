"""Every place of a job that a test walks, and a job with every kind of trouble in it."""

import uuid
from datetime import date, datetime, timedelta
from decimal import Decimal

from django.utils import timezone

from groundwork import daywork as d
from groundwork import orderwork as o
from groundwork.bedwork import BayChecked, BayScreeded, RailDipped, RailShot, RailsPlanned, TrialSeated
from groundwork.edgework import Backfilled, EdgeBedded, EdgeKind, EdgeLined, EdgePlanned, EdgeShot, SideHeld
from groundwork.entries import Fill
from groundwork.jointwork import kinds as j
from groundwork.kinds import Entry
from groundwork.layerwork import Delivered, Direction, GaugeTest, LaboratoryTest, MachineBrought, Passed, SoftSpot
from groundwork.laywork import CourseTaped, LayoutChosen, PackOpened, RowsLaid
from groundwork.measures import Measured
from groundwork.tools import Machine, MachineKind
from groundwork.weather import DayAhead, of_days
from nivelum.days.models import KeptWeek, WeekSaid
from nivelum.money.services import set_price
from nivelum.weather.models import ForecastWay
from nivelum.weather.services import keep
from tests.conftest import DRAINED_PAD, World, make_world

PLACES = [
    "/",
    "crew",
    "people",
    "you",
    "help",
    "new",
    "base/",
    "base/falls/?layout=one&least=1:60&most=1:20&where=",
    "base/schools/?one=dense&other=open",
    "base/ground/",
    "base/brief/",
    "order/",
    "order/placed/",
    "order/work/",
    "order/costs/",
    "order/costs/compare/?one=dense&other=slab",
    "prices",
    "days/",
    "days/programme/",
    "days/setting/",
    "days/forecasts/",
    "weather",
    "week",
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
    "edges/?side=0",
    "edges/?side=1",
    "edges/?side=0&plan=1",
    "edges/?side=0&over=100mm",
    "bed/",
    "bed/bays/",
    "bed/thickness/?people=2&hours=3",
    "bed/trial/",
    "laying/",
    "laying/?piece=1.1",
    "laying/courses/",
    "laying/cuts/",
    "laying/packs/?pack=12",
    "joints/",
    "joints/?station=A2&patch=1",
    "joints/units/",
    "joints/filling/",
    "joints/filling/?patch=1",
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
    "record/lessons/",
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
    plan = RailsPlanned(
        str(uuid.uuid4()), Measured("2 m", 2.0), "along", Measured("25 mm", 0.025), Measured("3 m", 3.0)
    )
    set_up = world.assessment().levels.set_up.id
    off = RailShot(
        str(uuid.uuid4()), plan.id, "R1", "start", set_up, Measured("3.28" if rod.startswith("ft") else "1000", 1.0)
    )
    hangs = RailDipped(str(uuid.uuid4()), plan.id, "R2", Measured("7 mm", 0.007))
    kerb = EdgePlanned(str(uuid.uuid4()), 0, EdgeKind.KERB, Measured("0", 0.025), Measured("3 m", 0.9),
                       Measured("0", 0.003), Measured("0", 0.125), Measured("0", 0.150))  # fmt: skip
    low = EdgeShot(str(uuid.uuid4()), kerb.id, 2, set_up, Measured("3.28" if rod.startswith("ft") else "1000", 1.0))
    bowed = EdgeLined(str(uuid.uuid4()), kerb.id, 3, Measured("0", 0.014))
    ends = [EdgeShot(str(uuid.uuid4()), kerb.id, n, set_up, Measured("0", 1.4)) for n in (0, 7)]
    made = EdgeBedded(str(uuid.uuid4()), kerb.id, datetime(2026, 3, 5, 15, 30), 12.0)
    bays = [
        BayScreeded(str(uuid.uuid4()), plan.id, "B1", datetime(2026, 3, 6, 9, 0)),
        BayChecked(str(uuid.uuid4()), plan.id, "B1", Measured("2 mm", 0.002), Measured("9 mm", 0.009)),
    ]
    sizes = [Measured("0", size) for size in (0.4, 0.2, 0.005)]
    layout = LayoutChosen(str(uuid.uuid4()), "running-half", sizes[0], sizes[1], sizes[2], 0, 0, 0.05, 0.03)
    rows = [CourseTaped(str(uuid.uuid4()), layout.id, 11, where, Measured("0", 2.0 + off))
            for where, off in (("left", 0.046), ("middle", 0.05), ("right", 0.058))]  # fmt: skip
    packs = [PackOpened(str(uuid.uuid4()), code, 300) for code in ("MK 0412", "MK 0417")]
    seated = [TrialSeated(str(uuid.uuid4()), f"unit {n}", Measured("9 mm", 0.009), Measured("0 mm", 0.0))
              for n in (1, 2, 3)]  # fmt: skip
    for entry in (
        machine,
        lab,
        spot,
        passed,
        gauge,
        ticket,
        plan,
        off,
        hangs,
        *seated,
        kerb,
        *ends,
        low,
        bowed,
        made,
        *bays,
        layout,
        *rows,
        RowsLaid(str(uuid.uuid4()), layout.id, 11, 4.0),
        *packs,
        *finish(set_up, machine.id),
        *ordered(rod),
    ):
        world.record(entry)
    prices = {
        "material|dense-graded|tonne": "31.40", "material|dense-graded|short ton": "28.50", "labour|crew|hour": "42",
        "hire|plate|day": "65",
    }  # fmt: skip
    for thing, amount in prices.items():
        cost, what, unit = thing.split("|")
        if unit == ("tonne" if rod.startswith("ft") else "short ton"):
            continue
        set_price(world.crew, world.people["lead"], cost, what, unit, Decimal(amount), date(2026, 1, 1))
    foretold(world)
    world.client("lead").post(f"/jobs/{world.job.id}/order/costs/keep/", {"begins": "2026-12-07", "name": "asked"})
    proposed(world)
    return world


def foretold(world: World) -> None:
    """A forecast of a wet, cold week from today on, a promise, a task that was moved, a thermometer read."""
    now = timezone.localtime().replace(tzinfo=None, minute=0, second=0, microsecond=0)
    days = [DayAhead(now.date() + timedelta(days=n), -2.0, 7.0, 9.0, 0.8, 9, 15) for n in range(7)]
    keep(world.crew, of_days(days, now, "typed by somebody"), ForecastWay.TYPED)
    for entry in (
        d.ThermometerRead(str(uuid.uuid4()), datetime(2026, 3, 6, 7, 0), 4.0),
        d.DayWas(str(uuid.uuid4()), date(2026, 3, 5), -1.0, 8.0),
        d.TaskMoved(str(uuid.uuid4()), "handover", date(2099, 12, 30), "the owner is away"),
        d.Promised(str(uuid.uuid4()), now.date() + timedelta(days=3), "the owner"),
    ):
        world.record(entry)


def proposed(world: World) -> None:
    """A week that was worked out, a job late for a reason, and what somebody fixed of it."""
    job, who = str(world.job.id), world.people["crew"]
    halves = [[(timezone.localdate() + timedelta(days=n)).isoformat(), half] for n in range(3) for half in (0, 1)]
    placed = [{"task": f"{job}|laying", "job": job, "title": "Laying", "job_name": world.job.name,
               "halves": halves[1:4], "people": [[str(who.pk), who.name]], "machines": ["plate"]}]  # fmt: skip
    jobs = [{"job": job, "name": world.job.name, "late": 3, "due": True, "why": [["machine", "plate"], ["weather",
    ""]],
             "is_least": False, "asked_why": True}]  # fmt: skip
    data = {"placed": placed, "jobs": jobs, "gap": 0.2, "stopped": False, "halves": halves}
    KeptWeek.objects.create(crew=world.crew, asked_by=who.name, digest="x", data=data)
    on = timezone.localdate() + timedelta(days=1)
    WeekSaid.objects.create(crew=world.crew, job=world.job, task="laying", person=who, on=on, half=1, said_by="x")


def ordered(rod: str) -> list[Entry]:
    """Stone promised and part of it come, kerbs ordered twice over, hours written down, a plate on hire."""
    way, holds = ("short ton", 907.18474) if rod.startswith("ft") else ("tonne", 1000.0)
    stone = o.OrderMade(
        str(uuid.uuid4()), "dense-graded", o.Measure.MASS, way, holds, 20, date(2026, 12, 4), "the quarry"
    )
    kerbs = o.OrderMade(str(uuid.uuid4()), "kerb", o.Measure.PIECES, "piece", 1, 60, date(2026, 12, 5))
    return [
        stone,
        kerbs,
        o.OrderMoved(str(uuid.uuid4()), stone.id, o.OrderState.PROMISED, date(2026, 12, 7)),
        o.OrderCome(str(uuid.uuid4()), kerbs.id, 20, "K-1"),
        o.HoursWorked(str(uuid.uuid4()), "excavation", date(2026, 12, 1), 2, 6.5, 3),
        o.Hired(str(uuid.uuid4()), "plate", date(2026, 12, 1)),
    ]


def finish(set_up: str, machine: str) -> list[Entry]:
    """Seated and filled, each with something wrong."""
    nine, fault = datetime(2026, 3, 9, 9, 0), str(uuid.uuid4())
    return [
        Passed(str(uuid.uuid4()), "finished", machine, Direction.ALONG),
        j.LaidShot(str(uuid.uuid4()), "A2", set_up, Measured("0", 1.36)),
        j.UnitFault(fault, (2.0, 1.0), j.FaultKind.ROCKS, "by the gate"),
        j.UnitFault(str(uuid.uuid4()), (4.0, 3.0), j.FaultKind.CRACKED),
        j.LipTaped(str(uuid.uuid4()), (3.0, 2.0), Measured("0", 0.006)),
        j.AirRead(str(uuid.uuid4()), nine, 12.0, 0.9, 11.0, 0.2),
        j.FillStepDone(str(uuid.uuid4()), "dry", nine),
        j.FillUsed(str(uuid.uuid4()), 31.0, "1"),
        j.JointDepth(str(uuid.uuid4()), "1", 1, Measured("0", 0.009)),
        SideHeld(str(uuid.uuid4()), 2, "wall"),
        Backfilled(str(uuid.uuid4()), 1, Measured("0", 0.06)),
    ]


def address(world: World, place: str) -> str:
    """Where a place is for a crew and its job."""
    crew = f"/crews/{world.crew.id}/"
    laser = world.crew.tools.get(name="Laser").id
    outside = {
        "/": "/", "new": "/jobs/new/", "crew": crew, "people": f"{crew}people/", "you": "/you/", "help": "/help/",
        "tool": f"{crew}tools/{laser}/", "prices": f"{crew}prices/", "weather": f"{crew}weather/",
        "week": f"{crew}week/",
    }  # fmt: skip
    return outside.get(place) or f"/jobs/{world.job.id}/{place}"
