"""Every kind of entry: to JSON and back, through the job file, and what a job file may not say."""

import json
from dataclasses import replace
from datetime import date, datetime

import pytest
from tests.conftest import PAD

from groundwork.assess import assess
from groundwork.bedwork import kinds as b
from groundwork.daywork import kinds as d
from groundwork.edgework import kinds as g
from groundwork.entries import kinds as e
from groundwork.files import JobFileError, dumps, loads
from groundwork.jointwork import kinds as j
from groundwork.kinds import KINDS, STORED, Entry, renamed
from groundwork.layerwork import kinds as w
from groundwork.laywork import kinds as y
from groundwork.levels import Lost
from groundwork.measures import FOOT, Measured, Unit, parse_rod
from groundwork.observations import Gauged, Observed, Pictured, Seen
from groundwork.orderwork import kinds as o
from groundwork.tools import LASER, Instrument, Machine, MachineKind, Method

MM = Unit.MILLIMETRES
ALL = (
    e.SetUp(
        "s1", "sill", Measured("1300", 1.3), Instrument(Method.OPTICAL, "dumpy", 0.001, 0.0001, -0.00015), (3.0, -2.0)
    ),
    e.Foresight("f1", "s1", "T1", Measured("1.42", 1.42), (5.0, 5.0)),
    e.SetUp("s2", "T1", Measured("1500", 1.5), LASER),
    e.MeterBase("b1", "bolt", Measured("-12", -0.012)),
    e.StringLine("l1", "A1", "A3", (1.0, 1.0), (5.0, 1.0), Measured("200", 0.2), Measured("level", 0.22), 10.2, 10.2),
    e.TapeDatum("t1"),
    e.Reading("r1", "A1", "s2", Measured("1712", 1.712), True, "base.1", True),
    e.Reading("r2", "A1", "b1", Measured("-0.5", -0.5)),
    e.FallCheck("c1", "B1", "A1", Measured("2", 2.0), Measured("-3", -0.003), "base"),
    e.Fill("i1", "A1", "stone", 2),
    e.Correction("k1", "s1", Measured("1310", 1.31), "misread"),
    e.Disturbance("d1", "T1", "s2"),
    e.PegDistance("p1", "P1", "P2", Measured("6.001", 6.001)),
    e.PegMove("p2", "P2"),
    e.MarginMeasured("g1", 2, Measured("150", 0.15)),
    e.ServicesLocated("v1", "T-1", date(2026, 3, 2), 14, "the locators", "red is power", "nothing"),
    e.Strike("x1", "r1", "slip"),
    w.MachineBrought("m1", Machine("the plate", MachineKind.PLATE, 90.0, 0.45, 0.5, 0.4, 15.0, 6.0)),
    w.Spread("w1", "base.1", "A1", Measured("95", 0.095)),
    w.Moisture("w2", "base.1", w.Feel.DRY),
    w.Moisture("w3", "base", None, 0.055),
    w.Passed("w4", "base", "m1", w.Direction.ACROSS, "1"),
    w.Tamped("w5", "base", 2),
    w.Scarified("w6", "base", Measured("50", 0.05)),
    w.ToppedUp("w7", "base", "A1", Measured("30", 0.03), True),
    w.Settling("w8", "base", "A1", 3, parse_rod("1400", MM), parse_rod("1402", MM)),
    w.Weather("w9", "base", "drizzle"),
    w.LaboratoryTest(
        "w10", "dense-graded", (0.04, 0.05, 0.06, 0.07), (2050.0, 2100.0, 2120.0, 2090.0), 2.7, "the lab"
    ),
    w.GaugeTest("w11", "base", "1", (2.0, 3.0), 2250.0, 0.06, 0.1, 2.7),
    w.SandTest("w12", "base", "1", (2.0, 3.0), 5.2, 1.6, 1400.0, 5.5, 0.05),
    w.WeightTest("w13", "base", "1", (2.0, 3.0), (0.0005, 0.0005, 0.00048)),
    w.SpikeTest("w14", "formation", "S1", (2.0, 3.0), Measured("12", 0.012)),
    w.ConeTest("w15", "formation", "S1", (2.0, 3.0), (0, 5, 9), (0.0, 0.08, 0.15), "CL"),
    w.ProofRoll("w16", "formation", "S1", (2.0, 3.0), "loaded dumper", Measured("15", 0.015), True),
    w.SoftSpot("w17", "by the gate", ((1.0, 1.0), (2.0, 1.0), (2.0, 2.0)), Measured("200", 0.2)),
    w.Cured("w18", "w17", w.CureKind.LIME, date(2026, 3, 4), 1, 0.04),
    w.FabricLaid("w19", "formation", Measured("300", 0.3), True, Measured("150", 0.15)),
    w.Delivered("w20", "4711", "dense-graded", 8200.0, "wet"),
    w.Poured("w21", date(2026, 3, 5), 6.5, 11.0, Measured("3", 0.003), "88"),
    w.Competent("w22", "M. Voss", "engineer", "sides battered back"),
    o.OrderMade(
        "od1", "dense-graded", o.Measure.MASS, "tonne", 1000.0, 8.5, date(2026, 3, 3), "the quarry", "tipped left"
    ),
    o.OrderMade("od2", "kerb", o.Measure.PIECES, "piece", 1.0, 17.0, date(2026, 3, 3), after="none"),
    o.OrderMoved("od3", "od1", o.OrderState.PROMISED, date(2026, 3, 5)),
    o.OrderMoved("od4", "od2", o.OrderState.OFF),
    o.OrderCome("od5", "od2", 15.0, "K-7", "2" * 64),
    o.HoursWorked("od6", "excavation", date(2026, 3, 2), 2, 6.5, 4.0),
    o.Hired("od7", "plate", date(2026, 3, 2)),
    o.HireEnded("od8", "od7", date(2026, 3, 4)),
    d.ThermometerRead("dw1", datetime(2026, 3, 6, 7, 30), 4.5, d.Thermometer.CONCRETE),
    d.DayWas("dw2", date(2026, 3, 5), -1.5, 9.0, 2.4, "the stand-in"),
    d.TaskMoved("dw3", "laying", date(2026, 3, 16), "the client is away"),
    d.TaskMoved("dw4", "laying"),
    d.Promised("dw5", date(2026, 3, 27), "the rowing club"),
    w.Delivered("w23", "4712", "dense-graded", 8400.0, order="od1"),
    Observed("o1", "excavation", "sides", Seen.NOT_HERE, "only 250 deep"),
    Pictured("o2", "subgrade", "0" * 64, "north corner", "photo"),
    Pictured("o4", "handover", "1" * 64, "finished", "", 52.25, -1.5),
    Gauged("o3", "laying", "joint", "row 4", Measured("3", 0.003)),
    b.RailsPlanned("rp1", Measured("2", 2.0), "along", Measured("25", 0.025), Measured("3", 3.0)),
    b.RailShot("rp2", "rp1", "R1", "start", "s2", Measured("1500", 1.5)),
    b.RailDipped("rp3", "rp1", "R2", Measured("1", 0.001)),
    g.EdgePlanned(
        "eg1",
        0,
        g.EdgeKind.KERB,
        Measured("25", 0.025),
        Measured("0.9", 0.9),
        Measured("3", 0.003),
        Measured("125", 0.125),
        Measured("150", 0.15),
    ),
    g.EdgeShot("eg2", "eg1", 2, "s2", Measured("1500", 1.5)),
    g.EdgeLined("eg3", "eg1", 1, Measured("-4", -0.004)),
    g.EdgeShot("eg4", "eg1", 0, "s2", Measured("2500", 2.5), True),
    g.EdgeStrung("eg5", "eg1", 2, Measured("100", 0.1), Measured("97", 0.097)),
    g.EdgeBedded("eg6", "eg1", datetime(2026, 3, 5, 15, 30), 11.5),
    g.EdgePlanned(
        "eg7",
        1,
        g.EdgeKind.FORM,
        Measured("0", 0.0),
        Measured("2.4", 2.4),
        Measured("0", 0.0),
        Measured("50", 0.05),
        Measured("150", 0.15),
    ),
    g.EdgePlanned(
        "eg11",
        3,
        g.EdgeKind.SPIKED,
        Measured("0", 0.0),
        Measured("2", 2.0),
        Measured("3", 0.003),
        Measured("50", 0.05),
        Measured("60", 0.06),
    ),
    g.BoardLeft("eg8", "eg7", 2, True),
    g.BoardLeft("eg9", "eg7", 2, False),
    y.LayoutChosen(
        "ly1",
        "running-third",
        Measured("600", 0.6),
        Measured("300", 0.3),
        Measured("5", 0.005),
        0,
        90,
        0.05,
        0.1,
        "along",
        "butted",
        3,
    ),
    y.PiecesShared("ly2", "ly1", ("1.1", "2.1")),
    y.CourseTaped("ly3", "ly1", 3, "left", Measured("910", 0.91), True),
    y.ModuleTaped("ly4", "ly1", Measured("2020", 2.02)),
    y.RowsSquared("ly5", "ly1", Measured("4", 4.0), Measured("3", 3.0), Measured("5.01", 5.01)),
    y.RowsLaid("ly6", "ly1", 3, 2.5),
    y.PieceCut("ly7", "ly1", "1.1"),
    y.PackOpened("ly8", "MK 0412", 480, "0" * 64),
    y.PackEmptied("ly9", "ly8"),
    y.SparesLeft("ly10", 14, "in the shed"),
    g.SideHeld("eg10", 2, "wall"),
    g.SpikesDriven("eg12", "eg11", 14),
    g.Backfilled("eg13", 1, Measured("-5", -0.005)),
    j.LaidShot("j1", "A1", "s2", Measured("1495", 1.495), True),
    j.FaceSeen("j2", j.UnitFace.RIVEN),
    j.UnitFault("j3", (2.0, 1.5), j.FaultKind.ROCKS, "by the gate"),
    j.LipTaped("j4", (3.0, 1.5), Measured("4", 0.004)),
    j.UnitMended("j5", "j3"),
    j.FillUsed("j6", 25.0, "1"),
    j.FillStepDone("j7", "sweep", datetime(2026, 3, 7, 14, 0), "1"),
    j.JointDepth("j8", "1", 2, Measured("2", 0.002)),
    j.AirRead("j9", datetime(2026, 3, 7, 13, 0), 18.0, 0.55, 21.0, 0.02),
    b.BayScreeded("rp5", "rp1", "B1", datetime(2026, 3, 6, 9, 0)),
    b.BayChecked("rp6", "rp1", "B1", Measured("2", 0.002), Measured("7", 0.007)),
    b.BayClosed("rp7", "rp1", "B1", "sheeted"),
    b.BatchMixed("rp8", datetime(2026, 3, 6, 10, 15), 4.0, 0.08, 12.0),
    b.BatchEnded("rp9", "rp8", "used up"),
    b.FlagLifted("rp10", "third row, left", 0.96),
    b.TrialSeated("rp4", "the corner", Measured("6", 0.006), Measured("0", 0.0)),
)


def test_there_is_one_of_every_kind() -> None:
    assert {entry.KIND for entry in ALL} == {name for name, kind in KINDS.items() if kind.IN_FILES}


@pytest.mark.parametrize("entry", ALL, ids=lambda entry: f"{entry.KIND}-{entry.id}")
def test_an_entry_comes_back_from_json_as_it_was(entry: Entry) -> None:
    body = json.loads(json.dumps(STORED.body(entry)))
    assert STORED.value(entry.KIND, entry.id, body) == entry


def test_all_of_them_go_through_a_job_file() -> None:
    job = replace(loads(PAD), entries=ALL)
    # A string pulled level was typed as that word; a job file says it in metres.
    level = replace(ALL[4], end_height=Measured("0.220000 m", 0.22))
    assert loads(dumps(job)).entries == (*ALL[:4], level, *ALL[5:])


def test_bodies_of_earlier_versions_are_still_read() -> None:
    old = {"mark": "sill", "backsight": {"typed": "1300", "m": 1.3}, "instrument": "laser", "at_m": None}
    assert STORED.value("set_up", "s", old) == e.SetUp("s", "sill", Measured("1300", 1.3), LASER, None)
    old = {"station": "A1", "surface": "formation", "set_up": "s", "reading": {"typed": "1", "m": 1.0},
           "same_ground": False}  # fmt: skip
    assert STORED.value("reading", "r", old) == e.Reading("r", "A1", "s", Measured("1", 1.0))


def test_new_names_are_followed_where_entries_name_one_another() -> None:
    names = {entry.id: f"new-{entry.id}" for entry in ALL}
    found = {entry.id: entry for entry in (renamed(entry, names) for entry in ALL)}
    assert found["new-f1"].set_up == "new-s1" and found["new-r1"].set_up == "new-s2"
    assert found["new-x1"].strikes == "new-r1" and found["new-k1"].corrects == "new-s1"
    assert found["new-d1"].since == "new-s2" and found["new-d1"].point == "T1"
    assert found["new-w4"].machine == "new-m1" and found["new-w18"].spot == "new-w17"


@pytest.mark.parametrize(("kind", "body"), [("moon", {}), ("reading", {"station": "A1"}), ("set_up", {"mark": "x"})])
def test_what_is_no_entry_is_refused(kind: str, body: dict) -> None:
    with pytest.raises(KeyError):
        STORED.value(kind, "x", body)


SET_UP = {"kind": "set_up", "id": "s", "mark": "sill", "backsight": "1300"}


@pytest.mark.parametrize(
    ("row", "path"),
    [({"kind": "set_up", "id": "a", "mark": "T7", "backsight": "1300"}, "entries[1].mark"),
     ({"kind": "foresight", "id": "a", "set_up": "moon", "point": "T1", "reading": "1300"}, "entries[1].set_up"),
     ({"kind": "foresight", "id": "a", "point": "T1", "reading": "7001"}, "entries[1].reading"),
     ({"kind": "meter_base", "id": "a", "mark": "sill", "shows": "high"}, "entries[1].shows"),
     ({"kind": "meter_base", "id": "a", "mark": "nowhere", "shows": "0"}, "entries[1].mark"),
     ({"kind": "reading", "id": "a", "station": "A1", "reading": "1300", "surface": "moon"}, "entries[1].surface"),
     ({"kind": "fall", "id": "a", "start": "A1", "end": "A1", "length": "2", "gap": "3"}, "entries[1].end"),
     ({"kind": "fall", "id": "a", "start": "A1", "end": "A2", "length": "40", "gap": "3"}, "entries[1].length"),
     ({"kind": "correction", "id": "a", "corrects": "moon", "reading": "1300"}, "entries[1].corrects"),
     ({"kind": "disturbed", "id": "a", "point": "moon"}, "entries[1].point"),
     ({"kind": "distance", "id": "a", "start": "P1", "end": "P9", "length": "6"}, "entries[1].end"),
     ({"kind": "distance", "id": "a", "start": "P1", "end": "P2", "length": "far"}, "entries[1].length"),
     ({"kind": "peg_move", "id": "a", "peg": "Q1"}, "entries[1].peg"),
     ({"kind": "margin", "id": "a", "side": -1, "width": "150"}, "entries[1].side"),
     ({"kind": "services", "id": "a", "ticket": "t", "located_on": "yesterday", "life_days": 14, "by": "b"},
      "entries[1].located_on"),
     ({"kind": "services", "id": "a", "ticket": "t", "located_on": "2026-02-31", "life_days": 14, "by": "b"},
      "entries[1].located_on"),
     ({"kind": "strike", "id": "a", "strikes": "a"}, "entries[1].strikes"),
     ({"kind": "tape", "id": "a", "instrument": "eye"}, "entries[1].instrument"),
     ({"kind": "string", "id": "a", "start": "A1", "end": "A2"}, "entries[1]"),
     ({"kind": "machine", "id": "a", "machine": {"name": "p", "kind": "plate", "mass_kg": 90, "width_m": 0.4}},
      "entries[1].machine"),
     ({"kind": "pass", "id": "a", "lift": "base", "machine": "moon", "direction": "along"}, "entries[1].machine"),
     ({"kind": "moisture", "id": "a", "lift": "moon", "feel": "dry"}, "entries[1].lift"),
     ({"kind": "spread", "id": "a", "lift": "base", "station": "Z9", "thickness": "80"}, "entries[1].station"),
     ({"kind": "spread", "id": "a", "lift": "base", "station": "A1", "thickness": "thick"}, "entries[1].thickness"),
     ({"kind": "tamped", "id": "a", "lift": "base", "side": 9}, "entries[1].side"),
     ({"kind": "delivered", "id": "a", "ticket": "1", "material": "cheese", "mass_kg": 1}, "entries[1].material"),
     ({"kind": "weight", "id": "a", "lift": "base", "place": "1", "at_m": [1, 1], "drops_m": [0.1, 0.1]},
      "entries[1].drops_m"),
     ({"kind": "gauged", "id": "a", "stage": "moon", "check": "joint", "where": "row 4", "value": "3"},
      "entries[1].stage"),
     ({"kind": "cured", "id": "a", "spot": "moon", "how": "stone", "on": "2026-03-04"}, "entries[1].spot")],
    ids=lambda row: row["kind"] if isinstance(row, dict) else "",
)  # fmt: skip
def test_a_job_file_says_where_an_entry_cannot_be(row: dict, path: str) -> None:
    data = json.loads(PAD) | {"entries": [SET_UP, row]}
    with pytest.raises(JobFileError) as caught:
        loads(json.dumps(data))
    assert caught.value.path == path


def test_a_turning_point_sighted_again_checks_what_it_was_fixed_by() -> None:
    turn = {"kind": "foresight", "id": "f", "point": "T1", "reading": "1400"}
    data = json.loads(PAD) | {"entries": [SET_UP, turn, turn | {"id": "g", "reading": "1440"}]}
    runs = assess(loads(json.dumps(data))).levels.runs
    assert [round(look.misclosure, 3) for look in runs.second_looks] == [-0.040]
    assert runs.lost == {SET_UP["id"]: Lost.MISCLOSED}


def test_lengths_are_read_as_their_field_is_typed() -> None:
    rows = [SET_UP | {"backsight": "4.25"},
            {"kind": "distance", "id": "p", "start": "P1", "end": "P2", "length": "20"},
            {"kind": "margin", "id": "g", "side": 0, "width": "0.5"},
            {"kind": "fall", "id": "c", "start": "B1", "end": "A1", "length": "6", "gap": "-0.02"}]  # fmt: skip
    data = json.loads(PAD) | {"units": "ft", "entries": rows}
    set_up, distance, margin, fall = loads(json.dumps(data)).entries
    assert set_up.backsight == parse_rod("4.25", Unit.FEET_TENTHS)
    assert distance.length.metres == pytest.approx(20 * FOOT)
    assert margin.width.metres == pytest.approx(0.5 * FOOT)
    assert (fall.length.metres, fall.gap.metres) == pytest.approx((6 * FOOT, -0.02 * FOOT))
