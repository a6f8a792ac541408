"""Areas with curves and islands through the files people send, and through the brief."""

import json
import math

import ezdxf
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import PAD

from groundwork.assess import assess
from groundwork.files import dumps, loads
from groundwork.measures import Unit
from groundwork.plan import OutlineError
from groundwork.shape import Island, Ring, circle
from groundwork.shape.ring import bulge_by_rise, smooth
from nivelum.bases.sheet import SiteSheet
from nivelum.exchange.files import UnreadableFile
from nivelum.exchange.landxml import to_landxml
from nivelum.exchange.outlines import read_outline, to_csv, to_dxf, to_geojson

KIDNEY = smooth([(0, 0), (3, -1), (6, 0), (6.5, 3), (4, 3.2), (3, 2.4), (2, 3.2), (-0.5, 3)]).checked()
ISLANDS = (
    Island("tree pit", "pear", circle((1.2, 1.2), 0.6)),
    Island("manhole", "", Ring(((4.5, 0.6), (5.1, 0.6), (5.1, 1.05), (4.5, 1.05)))),
    Island("gully", "G1", circle((3.0, 0.4), 0.15), takes_water=True),
)
WAYS = {
    "geojson": lambda ring, islands: to_geojson("k", ring, islands),
    "dxf": to_dxf,
    "csv": to_csv,
    "xml": lambda ring, islands: to_landxml("k", ring, islands),
}


@pytest.mark.parametrize("ending", WAYS)
def test_curves_and_islands_come_back_from_each_file_as_what_they_are(ending: str) -> None:
    found = read_outline(f"k.{ending}", WAYS[ending](KIDNEY, ISLANDS).encode(), Unit.METRES)
    assert len(found.ring.corners) == len(KIDNEY.corners)
    assert found.ring.area == pytest.approx(KIDNEY.area, abs=1e-5)
    assert shapely.hausdorff_distance(found.ring.polygon, KIDNEY.polygon) < 1e-5
    assert [island.kind for island in found.islands] == ["tree pit", "manhole", "gully"]
    for island, was in zip(found.islands, ISLANDS, strict=True):
        assert island.ring.area == pytest.approx(was.ring.area, abs=1e-6)
        assert len(island.ring.corners) == len(was.ring.corners)


def test_what_others_draw_of_ours_is_theirs() -> None:
    """Somebody moves a corner in their own program: our word for the curves no longer counts."""
    data = json.loads(to_geojson("k", KIDNEY, ISLANDS))
    data["geometry"]["coordinates"][0][5][0] += 0.05
    found = read_outline("k.geojson", json.dumps(data).encode(), Unit.METRES)
    assert found.ring.is_straight and len(found.ring.corners) == len(KIDNEY.flat) and len(found.islands) == 3
    # A millimetre of sagitta and no more, to those who know no arcs.
    assert shapely.Polygon(KIDNEY.flat).symmetric_difference(KIDNEY.polygon).area < 0.002 * KIDNEY.length
    for wrong in ({"outline_m": 3}, [], {"outline_m": [[0, 0]] * 3, "bulges": ["a"]}):
        data["properties"]["area"] = wrong
        assert read_outline("k.geojson", json.dumps(data).encode(), Unit.METRES).ring.is_straight


@given(st.lists(st.floats(-0.6, 0.6), min_size=5, max_size=5))
def test_any_ring_through_a_drawing_and_a_table(bulges) -> None:
    corners = ((0.0, 0.0), (6.2, 0.4), (7.0, 4.0), (3.0, 6.5), (-0.5, 4.2))
    try:
        ring = Ring(corners, tuple(bulges)).checked()
    except OutlineError:
        return  # arcs that cross
    for ending, write in WAYS.items():
        found = read_outline(f"r.{ending}", write(ring, ()).encode(), Unit.METRES)
        assert found.ring.area == pytest.approx(ring.area, abs=1e-4), ending


@pytest.mark.parametrize(("inside", "says"), [
    ("<Parcels/>", "No parcel"),
    ("<Parcel><Line><Start>0 0</Start><End>0 4</End></Line><Line><Start>3 4</Start><End>0 0</End></Line></Parcel>",
     "not closed"),
    ("<Parcel><Line><Start>0</Start><End>0 4</End></Line></Parcel>", "does not say where"),
    ("<Parcel><Curve rot='cw'><Start>0 0</Start><End>0 4</End></Curve></Parcel>", "does not say where"),
    ("<Parcel><Line><Start>0 9e99</Start><End>0 4</End></Line></Parcel>", "further out"),
])  # fmt: skip
def test_parcels_that_are_no_area(inside: str, says: str) -> None:
    text = f"<LandXML><Units><Metric linearUnit='meter'/></Units>{inside}</LandXML>"
    with pytest.raises(UnreadableFile, match=says):
        read_outline("p.xml", text.encode(), Unit.METRES)


def test_a_drawing_of_somebody_elses() -> None:
    drawing = ezdxf.new("R2010", units=ezdxf.units.MM)
    space = drawing.modelspace()
    half = bulge_by_rise(4000, 2000)
    space.add_lwpolyline([(0, 0, half), (4000, 0, 0), (4000, 3000, 0), (0, 3000, 0)], format="xyb", close=True)
    space.add_circle((2000, 1500), 300)
    space.add_circle((9000, 1500), 100)
    space.add_line((0, 0), (1, 1))
    import io

    stream = io.StringIO()
    drawing.write(stream)
    found = read_outline("x.dxf", stream.getvalue().encode(), Unit.METRES)
    assert found.ring.area == pytest.approx(12 + 2 * math.pi, abs=1e-6)
    (island,) = found.islands
    assert island.ring.area == pytest.approx(math.pi * 0.09) and found.note


def test_a_hole_over_the_edge_is_refused_with_a_word() -> None:
    over = Island("column", "post", circle((6.4, 1.5), 0.5))
    with pytest.raises(UnreadableFile, match="room around it"):
        read_outline("k.csv", to_csv(KIDNEY, (over,)).encode(), Unit.METRES)


def curved_pad(**area) -> str:
    data = json.loads(PAD)
    data["area"] = area
    data["facets"][0]["outline_m"] = [[-1, -2], [7, -2], [7, 5], [-1, 5]]
    return json.dumps(data)


def test_a_job_file_keeps_curves_and_islands_and_an_old_one_is_read_as_before() -> None:
    job = loads(PAD)
    assert job.bulges == () and job.islands == () and "bulges" not in dumps(job) and "islands" not in dumps(job)
    text = curved_pad(outline_m=[[0, 0], [6, 0], [6, 4], [0, 4]], bulges=[0.2, 0, 0, 0], islands=[
        {"kind": "tree pit", "name": "pear", "outline_m": [[2.5, 2], [1.5, 2]], "bulges": [1, 1]}])  # fmt: skip
    again = loads(dumps(loads(text)))
    assert again.ring == Ring(((0, 0), (6, 0), (6, 4), (0, 4)), (0.2, 0.0, 0.0, 0.0))
    assert again.islands == (Island("tree pit", "pear", Ring(((2.5, 2), (1.5, 2)), (1.0, 1.0))),)
    assert again.area.area == pytest.approx(again.ring.area - math.pi / 4)
    assert assess(again).surveys.ground


@pytest.mark.parametrize(("area", "path"), [
    ({"outline_m": [[0, 0], [6, 0], [6, 4], [0, 4]], "bulges": [0.2]}, "area.outline_m"),
    ({"outline_m": [[0, 0], [6, 0], [6, 4], [0, 4]], "bulges": [-1.2, 0, -1.2, 0]}, "area.outline_m"),
    ({"outline_m": [[0, 0], [6, 0], [6, 4], [0, 4]], "islands": [
        {"kind": "pond", "outline_m": [[5.9, 2], [6.5, 2]], "bulges": [1, 1]}]}, "area.islands"),
    ({"outline_m": [[0, 0], [6, 0], [6, 4], [0, 4]], "islands": [{"kind": "volcano", "outline_m": [[1, 1]] * 3}]},
     "area.islands[0].kind"),
])  # fmt: skip
def test_a_job_file_with_a_wrong_area_says_where(area, path: str) -> None:
    with pytest.raises(ValueError) as caught:
        loads(curved_pad(**area))
    assert str(caught.value).startswith(path)


def sheet_of(job, **typed) -> SiteSheet:
    """The brief of a job with some fields typed otherwise."""
    from django.http import QueryDict

    shown = SiteSheet(job.unit, job)
    data = QueryDict(mutable=True)
    for form in shown.every:
        for name in form.fields:
            value = form[name].value()
            if value not in (None, "", False):
                data[form.add_prefix(name)] = "on" if value is True else str(value)
    for prefix, rows in (("height", shown.heights), ("thing", shown.things), ("island", shown.insides)):
        data[f"{prefix}-count"] = str(len(rows))
    for key, value in typed.items():
        data[key.replace("__", "-")] = value
    return SiteSheet(job.unit, job, None, data)


def test_the_brief_curves_a_side_and_puts_a_tree_in() -> None:
    job = loads(PAD)
    sheet = sheet_of(job, area="0 0 rise 1\n6 0\n6 4\n0 4", area_as="corners", island__0__kind="tree pit",
                     island__0__name="pear", island__0__places="2 2", island__0__size="1.2")  # fmt: skip
    site = sheet.site
    assert site is not None, [form.errors for form in sheet.every if form.errors]
    assert site.ring.curves[0] == pytest.approx(1 / 3) and site.islands[0].name == "pear"
    assert sheet.square_metres == pytest.approx(site.ring.area - math.pi * 0.36)
    same = sheet_of(site)
    assert same.site is not None and (same.site.ring, same.site.islands) == (site.ring, site.islands)


@pytest.mark.parametrize(("typed", "field"), [
    ({"island__0__places": "5.9 2", "island__0__size": "0.6"}, "places"),
    ({"island__0__places": "2 2"}, "places"),
    ({"island__0__places": "nowhere", "island__0__size": "0.6"}, "places"),
])  # fmt: skip
def test_what_cannot_lie_there_is_said_beside_it(typed, field: str) -> None:
    sheet = sheet_of(loads(PAD), island__0__kind="column", island__0__name="post", **typed)
    assert sheet.site is None and sheet.insides[0].errors[field]
