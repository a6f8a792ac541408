"""Outlines in and out: what goes out comes back to 0.1 mm, and hostile files are refused with a reason."""

import io
import json
import math
from itertools import combinations

import ezdxf
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from groundwork.measures import Unit
from groundwork.plan import OutlineError, checked
from groundwork.shape import Ring
from nivelum.exchange.files import UnreadableFile
from nivelum.exchange.outlines import read_outline, to_csv, to_dxf, to_geojson

M = Unit.METRES
ELL = ((0.0, 0.0), (17.2, 0.0), (17.2, 6.4), (12.6, 6.4), (12.6, 10.8), (0.0, 10.8))
WRITERS = {
    "csv": lambda o: to_csv(Ring(o)), "geojson": lambda o: to_geojson("x", Ring(o)), "dxf": lambda o: to_dxf(Ring(o)),
}  # fmt: skip


def close(found, outline) -> bool:
    return len(found) == len(outline) and all(math.dist(a, b) < 1e-4 for a, b in zip(found, outline, strict=True))


@pytest.mark.parametrize("ending", WRITERS)
@given(
    st.lists(st.floats(0, 6.2), min_size=3, max_size=9, unique=True),
    st.floats(1, 90),
    st.floats(-5000, 5000),
)
def test_round_trip_to_a_tenth_of_a_millimetre(ending: str, angles: list, radius: float, away: float) -> None:
    try:
        outline = checked([(away + radius * math.cos(a), radius * math.sin(a)) for a in sorted(angles)])
    except OutlineError:
        return
    assume(min(math.dist(a, b) for a, b in combinations(outline, 2)) > 0.001)
    for unit in (M, Unit.FEET_INCHES):
        assert close(read_outline(f"a.{ending}", WRITERS[ending](outline).encode(), unit).ring.corners, outline)


def polygon(*rings: list) -> bytes:
    return json.dumps(
        {"type": "Feature", "properties": {}, "geometry": {"type": "Polygon", "coordinates": rings}}
    ).encode()


def test_geojson_in_longitude_and_latitude() -> None:
    # On WGS 84 a minute of latitude is 1849.6 m at 52° and of longitude 1143.8 m: from memory, standard tables of the
    # lengths of a degree (111.267 km and 68.678 km at 52°).
    minute = 1 / 60
    found = read_outline(
        "a.geojson",
        polygon(
            [[0.1, 52], [0.1 + minute / 100, 52], [0.1 + minute / 100, 52 + minute / 100], [0.1, 52.0], [0.1, 52]]
        ),
        M,
    )
    assert "longitude" in found.note
    east, north = found.ring.corners[2]
    assert east == pytest.approx(68678 / 6000, rel=2e-3) and north == pytest.approx(111267 / 6000, rel=2e-3)


def test_geojson_in_metres_says_so() -> None:
    found = read_outline("a.json", polygon([[0, 0], [12, 0], [12, 8], [0, 8], [0, 0]]), M)
    assert "metres" in found.note and found.ring.corners[2] == (12, 8)


def test_dxf_of_other_programs() -> None:
    drawing = ezdxf.new("R2000", units=ezdxf.units.MM)
    space = drawing.modelspace()
    space.add_line((0, 0), (1, 1))
    space.add_lwpolyline([(0, 0), (1000, 0), (1000, 1000)], close=True)
    space.add_lwpolyline([(0, 0, 0), (4000, 0, 1), (4000, 2000, 0), (0, 2000, 0)], format="xyb", close=True)
    text = io.StringIO()
    drawing.write(text)
    found = read_outline("PLAN.DXF", text.getvalue().encode(), M)
    assert "largest of 2" in found.note
    # 4 by 2 m with a half circle of radius 1 m at its east end: 8 + π/2, chords within a millimetre.
    assert found.ring.area == pytest.approx(8 + math.pi / 2, abs=0.01)
    assert max(x for x, _ in found.ring.flat) == pytest.approx(5, abs=0.001)


def test_csv_with_and_without_a_heading() -> None:
    rows = "0;0\n12,6;0\n12,6;6,4"
    assert read_outline("a.csv", rows.encode(), M).ring.corners[1] == (12.6, 0)
    assert read_outline("a.csv", b"Name;y_mm;x_mm\na;0;0\nb;0;12600\nc;6400;12600", M).ring.corners[1] == (12.6, 0)
    assert read_outline("a.csv", b"x,y\n0,0\n40,0\n40,20", Unit.FEET_TENTHS).ring.corners[1][0] == pytest.approx(
        12.192
    )


BOMB = b'<?xml version="1.0"?><!DOCTYPE b [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;">]><b>&b;</b>'
SQUARE = [[0, 0], [4, 0], [4, 4], [0, 4], [0, 0]]


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("a.geojson", BOMB, "XML"),
        ("a.dxf", BOMB, "XML"),
        ("a.svg", b"<svg/>", "is not read here"),
        ("a", b"0 0", "is not read here"),
        ("a.csv", b"", "empty"),
        ("a.csv", b"x" * 50_000_000, "50 MB"),
        ("a.csv", "0,0\n4,0\n4,4".encode("utf-16"), "UTF-8"),
        ("a.csv", "0,0\n4,0\n4,4 é".encode("latin-1"), "at byte"),
        ("a.geojson", b"{", "Not JSON"),
        ("a.geojson", b"[" * 100_000, "Not JSON"),
        ("a.geojson", b"[1]", "not GeoJSON"),
        ("a.geojson", b'{"type": "Point", "coordinates": [0, 0]}', "No Polygon"),
        ("a.geojson", polygon([[0, 0], [4, 0], ["x", 4]]), "not two numbers"),
        ("a.geojson", polygon([]), "No Polygon"),
        ("a.geojson", polygon([[0, 0], [4, 0], [4, 4]], []), "encloses something"),
        ("a.csv", b"x,y,bulge\n0,0,nan\n4,0,0\n4,4,0", "no finite number"),
        ("a.geojson", b'{"type": "Polygon", "coordinates": [[[0, 0], [NaN, 0], [4, 4]]]}', "NaN"),
        ("a.geojson", polygon([[0, 0], [1e300, 0], [4, 4]]), "not two numbers"),
        ("a.geojson", polygon([[0, 0], [4, 4], [4, 0], [0, 4], [0, 0]]), "crosses"),
        ("a.geojson", polygon([[0, 0], [0.3, 0], [0.3, 0.3], [0, 0]]), "no paved area"),
        ("a.geojson", polygon([[0, 0], [9e5, 0], [9e5, 9e5], [0, 0]]), "no paved area"),
        ("a.dxf", b"not a drawing", "Not a DXF"),
        ("a.dxf", b"AutoCAD Binary DXF\r\n\x1a\x00" + bytes(50), "not binary"),
        ("a.dxf", b"0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n90\n99999999\n", "DXF"),
        ("a.csv", b"east,north\n0,0\n4,0\nfour,4", "Line 4"),
        ("a.csv", b"left,right\n0,0\n4,0\n4,4", "must name the columns"),
        ("a.csv", b"0\n4\n5", "Line 1"),
    ],
)
def test_files_that_hold_no_outline_are_refused_with_a_reason(name: str, data: bytes, says: str) -> None:
    with pytest.raises(UnreadableFile, match=says):
        read_outline(name, data, M)


def test_a_drawing_with_nothing_closed_in_it() -> None:
    drawing, text = ezdxf.new(), io.StringIO()
    drawing.modelspace().add_lwpolyline([(0, 0), (4, 0), (4, 4)])
    drawing.write(text)
    with pytest.raises(UnreadableFile, match="No closed polyline"):
        read_outline("a.dxf", text.getvalue().encode(), M)


@given(st.binary(max_size=400), st.sampled_from(["a.csv", "a.geojson", "a.dxf"]))
def test_rubbish_is_refused_and_never_an_error(data: bytes, name: str) -> None:
    try:
        read_outline(name, data, M)
    except UnreadableFile as error:
        assert str(error)
