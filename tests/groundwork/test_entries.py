"""Every kind of entry: to JSON and back, through the job file, and what a job file may not say."""

import json
from dataclasses import replace
from datetime import date

import pytest
from tests.conftest import PAD

from groundwork import entries as e
from groundwork.jobfile import JobFileError, dumps, loads
from groundwork.kit import LASER, Instrument, Method
from groundwork.measure import FOOT, Measured, Unit, parse_rod

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
)


def test_there_is_one_of_every_kind() -> None:
    assert {entry.KIND for entry in ALL} == set(e.KINDS)


@pytest.mark.parametrize("entry", ALL, ids=lambda entry: f"{entry.KIND}-{entry.id}")
def test_an_entry_comes_back_from_json_as_it_was(entry: e.Entry) -> None:
    body = json.loads(json.dumps(e.entry_body(entry)))
    assert e.entry_value(entry.KIND, entry.id, body) == entry


def test_all_of_them_go_through_a_job_file() -> None:
    job = replace(loads(PAD), entries=ALL)
    # A string pulled level was typed as that word; a job file says it in metres.
    level = replace(ALL[4], end_height=Measured("0.220000 m", 0.22))
    assert loads(dumps(job)).entries == (*ALL[:4], level, *ALL[5:])


def test_bodies_of_earlier_versions_are_still_read() -> None:
    old = {"mark": "sill", "backsight": {"typed": "1300", "m": 1.3}, "instrument": "laser", "at_m": None}
    assert e.entry_value("set_up", "s", old) == e.SetUp("s", "sill", Measured("1300", 1.3), LASER, None)
    old = {"station": "A1", "surface": "formation", "set_up": "s", "reading": {"typed": "1", "m": 1.0},
           "same_ground": False}  # fmt: skip
    assert e.entry_value("reading", "r", old) == e.Reading("r", "A1", "s", Measured("1", 1.0))


def test_new_names_are_followed_where_entries_name_one_another() -> None:
    names = {entry.id: f"new-{entry.id}" for entry in ALL}
    found = {entry.id: entry for entry in (e.renamed(entry, names) for entry in ALL)}
    assert found["new-f1"].set_up == "new-s1" and found["new-r1"].set_up == "new-s2"
    assert found["new-x1"].strikes == "new-r1" and found["new-k1"].corrects == "new-s1"
    assert found["new-d1"].since == "new-s2" and found["new-d1"].point == "T1"


@pytest.mark.parametrize(("kind", "body"), [("moon", {}), ("reading", {"station": "A1"}), ("set_up", {"mark": "x"})])
def test_what_is_no_entry_is_refused(kind: str, body: dict) -> None:
    with pytest.raises(KeyError):
        e.entry_value(kind, "x", body)


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
      "entries[1]"),
     ({"kind": "strike", "id": "a", "strikes": "a"}, "entries[1].strikes"),
     ({"kind": "tape", "id": "a", "instrument": "eye"}, "entries[1].instrument"),
     ({"kind": "string", "id": "a", "start": "A1", "end": "A2"}, "entries[1]")],
    ids=lambda row: row["kind"] if isinstance(row, dict) else "",
)  # fmt: skip
def test_a_job_file_says_where_an_entry_cannot_be(row: dict, path: str) -> None:
    data = json.loads(PAD) | {"entries": [SET_UP, row]}
    with pytest.raises(JobFileError) as caught:
        loads(json.dumps(data))
    assert caught.value.path == path


def test_a_turning_point_is_fixed_once() -> None:
    turn = {"kind": "foresight", "id": "f", "point": "T1", "reading": "1400"}
    data = json.loads(PAD) | {"entries": [SET_UP, turn, turn | {"id": "g"}]}
    with pytest.raises(JobFileError, match="fixed already"):
        loads(json.dumps(data))


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
