"""Surfaces through their addresses, and in and out of open formats."""

import csv
import io
import json
from pathlib import Path

import ezdxf
import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from hypothesis import given, settings
from hypothesis import strategies as st
from lxml import etree
from tests.conftest import DRAINED_PAD, World, made, make_world

from groundwork.assess import assess
from groundwork.built import AsBuilt
from groundwork.files import loads
from groundwork.measures import Unit
from groundwork.surfaces import NoSurface
from nivelum import demo
from nivelum.drawing.water import scene
from nivelum.exchange.files import UnreadableFile
from nivelum.exchange.surfaces import FoundSurface, Point3, read_surface, to_dxf, to_geojson, to_landxml

M = Unit.METRES
DEMO = Path(demo.__file__).parent / "jobs"
STATIONS = ("A1", "A2", "A3", "B1", "B2", "B3", "X1", "X2", "X3", "X4")


@pytest.fixture
def shot(db) -> World:
    """A formation with a dip, and the base's top on it with another."""
    world = make_world(job_file=DRAINED_PAD)
    world.set_up()
    for station in STATIONS:
        world.shoot(station, -12 if station == "A2" else 0)
        world.shoot(station, -52 if station == "B2" else 3, surface="base")
    return world


def page(world: World, rest: str, role: str = "crew", status: int = 200) -> str:
    response = world.client(role).get(f"/jobs/{world.job.id}/{rest}")
    assert response.status_code == status
    return response.content.decode()


def test_every_view_of_every_surface_is_drawn(shot: World) -> None:
    for surface in shot.assessment().surveys.levelled:
        for view in ("levels", "falls", "thickness", "coverage", "nonsense"):
            shown = page(shot, f"ground/surface/?surface={surface.key}&show={view}", "viewer")
            assert "<svg" in shown
            if surface.key not in ("formation", "base"):
                assert "Not shot yet" in shown


def test_a_crew_sees_its_own_limits_bands_and_layers(shot: World) -> None:
    levels = page(shot, "ground/surface/?surface=base")
    assert "more than 10 mm high" in levels and 'class="band deep-low"' in levels
    assert "heights × " in levels
    thick = page(shot, "ground/surface/?surface=base&show=thickness")
    assert "as specified: 150 mm" in thick
    # Least where the base is lowest on a formation at design: 150 − 52.
    assert "98 mm" in thick
    inches = make_world(rod="ft-in", job_file=DRAINED_PAD)
    inches.set_up()
    for station in STATIONS:
        inches.shoot(station)
    assert "more than 3/4″ high" in page(inches, "ground/surface/").replace("</tspan>", "").replace(
        '<tspan class="fraction-of">', ""
    )


def test_the_cut_is_where_it_is_asked_for_and_says_what_is_wrong(shot: World) -> None:
    assert "6.0 m from A to B" in page(shot, "ground/surface/?surface=base&start=X1&end=X2")
    assert "no side 9" in page(shot, "ground/surface/?start=side 9&end=X1")
    assert "The cut misses what was shot" in page(shot, "ground/surface/?start=20 20&end=21 20")
    assert 'value="rubbish"' in page(shot, "ground/surface/?start=rubbish&end=X1")


def test_water_in_every_state_of_every_surface(shot: World) -> None:
    for surface in shot.assessment().surveys.levelled:
        for of in ("built", "designed", "mended", ""):
            for beside in ("", "&beside=1"):
                page(shot, f"water/?surface={surface.key}&of={of}{beside}")


def test_water_lists_the_puddle_its_cure_and_the_work(shot: World) -> None:
    built = page(shot, "water/?surface=base")
    assert "too deep" in built and "deep at B2" in built and "Work out the least fix" in built
    mended = page(shot, "water/?surface=base&of=mended")
    assert "The least fix" in mended and ">B2</a>" in mended and "barrows" in mended
    assert "too deep" not in mended
    assert "as designed" in built
    assert "Nothing stands: it drains." in page(shot, "water/?surface=base&of=designed")


def scene_of(shown: str) -> dict:
    return json.loads(shown.split('<script type="application/json">')[1].split("</script>", maxsplit=1)[0])


def test_the_animation_is_the_answer_frame_by_frame(shot: World) -> None:
    """Each frame's water, laid out from the triangles and levels it sends, is what the page says stands."""
    scene = scene_of(page(shot, "water/?surface=base&rain=30&minutes=20"))
    assert len(scene["frames"]) == 61
    scale = None
    for frame in scene["frames"]:
        volume = 0.0
        for hollow, level in frame["levels"].items():
            for place in scene["hollows"][hollow]:
                x1, y1, z1, x2, y2, z2, x3, y3, z3 = scene["triangles"][place]
                area = abs((x2 - x1) * (y3 - y1) - (x3 - x1) * (y2 - y1)) / 2
                # Depths at a fine set of shares of the triangle's corners.
                a, b = np.meshgrid(np.linspace(0, 1, 41), np.linspace(0, 1, 41))
                inside = a + b <= 1
                depth = level - (z1 + a * (z2 - z1) + b * (z3 - z1))
                volume += area * np.clip(depth[inside], 0, None).mean()
        said = float(frame["standing"].split(" ")[0].replace(",", ""))
        if said > 1:
            scale = scale or volume / said
            assert volume / said == pytest.approx(scale, rel=0.12)
    fallen = [float(f["fallen"].split(" ")[0].replace(",", "")) for f in scene["frames"]]
    ran = [float(f["run_off"].split(" ")[0].replace(",", "")) for f in scene["frames"]]
    stands = [float(f["standing"].split(" ")[0].replace(",", "")) for f in scene["frames"]]
    assert fallen[-1] == pytest.approx(24 * 30 / 1000 * 20 / 60 * 1000)
    assert all(abs(f - r - s) <= 1.1 for f, r, s in zip(fallen, ran, stands, strict=True))


@pytest.mark.parametrize(("rain", "minutes", "says"), [
    ("0", "60", "More than nothing"), ("9999", "60", "No rain falls so hard"), ("wet", "60", "A number, like 20"),
    ("20", "1e9", "At most two days"), ("20", "long", "Minutes as a number"), ("nan", "60", "A number"),
])  # fmt: skip
def test_rain_that_cannot_be_says_so_and_keeps_what_was_typed(
    shot: World, rain: str, minutes: str, says: str
) -> None:
    shown = page(shot, f"water/?surface=base&rain={rain}&minutes={minutes}")
    assert says in shown and f'value="{rain}"' in shown


def test_an_open_base_is_seen_beside_its_formation(db) -> None:
    stones = DRAINED_PAD.replace("dense-graded", "clean-stone").replace("concrete-sand", "chip")
    world = make_world(job_file=stones.replace('"school": "dense"', '"school": "open"'), brief_signed=False)
    shown = page(world, "water/?surface=base")
    assert "lets water through" in shown
    both = page(world, "water/?surface=base&beside=1")
    assert both.count("data-scene") == 2


def test_without_a_way_out_it_says_where_to_name_one(world: World) -> None:
    world.set_up()
    for station in STATIONS:
        world.shoot(station, surface="base")
    assert "Water has no way off this surface" in page(world, "water/?surface=base")
    assert "no drain or free edge is named" in page(world, "water/?surface=base&of=mended")


def test_pages_make_a_fixed_number_of_queries(shot: World, django_assert_max_num_queries) -> None:
    client = shot.client("crew")
    for rest in ("water/?surface=base", "ground/surface/?surface=base"):
        client.get(f"/jobs/{shot.job.id}/{rest}")
        with django_assert_max_num_queries(6):
            client.get(f"/jobs/{shot.job.id}/{rest}")


@pytest.mark.parametrize("ending", ["csv", "geojson", "dxf", "xml", "svg"])
def test_a_surface_goes_out_in_every_format(shot: World, ending: str) -> None:
    response = shot.client("viewer").get(f"/jobs/{shot.job.id}/surface.{ending}?surface=base")
    assert response.status_code == 200
    assert "attachment" in response["Content-Disposition"]
    text = response.content.decode()
    if ending == "svg":
        root = etree.fromstring(text.encode())
        assert "Test pad: Base" in text and "near design" in text
        assert root.tag.endswith("svg") and "var(--" not in text and "<script" not in text
        return
    found = read_surface(f"a.{ending}", text.encode(), M)
    levels = {p.name: p.level for p in found.points}
    design = {n: a.design for n, a in shot.assessment().surveys.of("base").answers.items()}
    for station in STATIONS:
        assert levels[station] == pytest.approx(design[station] + (-0.052 if station == "B2" else 0.003), abs=2e-4)
    if ending != "csv":
        assert len(found.triangles) == len(shot.assessment().surfaces.built("base").mesh.triangles)


def test_what_is_not_there_does_not_go_out(shot: World) -> None:
    for rest, status in (
        ("surface.exe", 404), ("surface.csv?surface=roof", 404), ("surface.svg?show=magic", 404),
        ("surface.csv?surface=finished", 409),
    ):  # fmt: skip
        assert shot.client("crew").get(f"/jobs/{shot.job.id}/{rest}").status_code == status


def test_the_csv_carries_design_and_deviation(shot: World) -> None:
    text = shot.client("crew").get(f"/jobs/{shot.job.id}/surface.csv?surface=base").content.decode()
    rows = {row["point"]: row for row in csv.DictReader(io.StringIO(text))}
    assert float(rows["B2"]["deviation_mm"]) == pytest.approx(-52, abs=0.1)
    assert float(rows["B2"]["standard_uncertainty_mm"]) > 1


named = st.text("ABCX123", min_size=1, max_size=4)
coordinate = st.integers(-500_000, 500_000).map(lambda n: n / 1000)


@settings(max_examples=40)
@given(st.lists(st.tuples(coordinate, coordinate, coordinate), min_size=3, max_size=25, unique_by=lambda p: p[:2]),
       st.data())  # fmt: skip
def test_points_and_triangles_come_back_as_they_went(places: list[tuple[float, float, float]], data) -> None:
    points = tuple(Point3(f"P{n}", *place) for n, place in enumerate(places))
    corner = st.integers(0, len(points) - 1)
    triangles = tuple(data.draw(st.lists(
        st.tuples(corner, corner, corner).filter(lambda t: len(set(t)) == 3), max_size=8)))  # fmt: skip
    surface = FoundSurface(points, triangles)
    for name, text in (
        ("a.geojson", to_geojson("s", surface)), ("a.dxf", to_dxf(surface)), ("a.xml", to_landxml("s", surface)),
    ):  # fmt: skip
        found = read_surface(name, text.encode(), M)
        back = {p.name: np.array((p.east, p.north, p.level)) for p in found.points}
        assert back.keys() == {p.name for p in points}
        assert all(np.allclose(back[p.name], (p.east, p.north, p.level), atol=1e-4) for p in points), name
        assert len(found.triangles) == len(triangles)
        for got, sent in zip(found.triangles, triangles, strict=True):
            there = sorted(tuple(back[found.points[n].name].round(3) + 0.0) for n in got)
            assert there == sorted((points[n].east, points[n].north, points[n].level) for n in sent)


def test_landxml_in_feet_and_with_hidden_faces() -> None:
    """US survey foot: 1200/3937 m exactly (US Metric Law of 1866)."""
    text = """<LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2">
    <Units><Imperial linearUnit="USSurveyFoot"/></Units>
    <Surfaces><Surface name="g"><Definition surfType="TIN"><Pnts><P id="1">0 0 10</P><P id="2">0 3937 10</P>
    <P id="7">3937 0 20</P></Pnts><Faces><F>1 2 7</F><F i="1">1 2 7</F></Faces></Definition></Surface></Surfaces>
    </LandXML>"""
    found = read_surface("site.xml", text.encode(), M)
    assert [(p.east, p.north) for p in found.points] == [(0, 0), (pytest.approx(1200), 0), (0, pytest.approx(1200))]
    assert found.triangles == ((0, 1, 2),)


def test_dxf_in_millimetres_with_a_four_cornered_face() -> None:
    drawing, text = ezdxf.new(units=ezdxf.units.MM), io.StringIO()
    drawing.modelspace().add_3dface([(0, 0, 1000), (4000, 0, 1000), (4000, 4000, 1100), (0, 4000, 1100)])
    drawing.write(text)
    found = read_surface("a.dxf", text.getvalue().encode(), M)
    assert len(found.points) == 4 and len(found.triangles) == 2
    assert max(p.level for p in found.points) == pytest.approx(1.1)


XML_BOMB = (
    b'<!DOCTYPE l [<!ENTITY a "ha"><!ENTITY b "&a;&a;&a;">]><LandXML><CgPoint name="&b;">1 2 3</CgPoint></LandXML>'
)
OUTSIDE = (
    b'<!DOCTYPE l [<!ENTITY x SYSTEM "file:///etc/passwd">]><LandXML><CgPoint name="&x;">1 2 3</CgPoint></LandXML>'
)
METRIC = '<LandXML><Units><Metric linearUnit="meter"/></Units>{}</LandXML>'


@pytest.mark.parametrize(
    ("name", "data", "says"),
    [
        ("a.xml", XML_BOMB, "document type"),
        ("a.xml", OUTSIDE, "document type"),
        ("a.xml", b"<svg/>", "not LandXML"),
        ("a.xml", b"<LandXML>", "Not XML"),
        ("a.xml", b"<LandXML/>", "no unit"),
        ("a.xml", b'<LandXML><Units><Metric linearUnit="cubit"/></Units></LandXML>', "cubit"),
        ("a.xml", METRIC.format("").encode(), "No point"),
        ("a.xml", METRIC.format("<P id='1'>1 2</P>").encode(), "no level"),
        ("a.xml", METRIC.format("<P id='1'>1 2 x</P>").encode(), "Not read"),
        ("a.xml", METRIC.format("<P id='1'>1 2 nan</P>").encode(), "no number"),
        ("a.xml", METRIC.format("<P id='1'>1 2 1e99</P>").encode(), "lies nowhere"),
        ("a.xml", METRIC.format("<P id='1'>1 2 3</P><F>1 2 9</F>").encode(), "not there"),
        ("a.geojson", b'{"type": "Polygon"}', "not GeoJSON"),
        ("a.geojson", b'{"type": "Feature", "geometry": {"type": "Point", "coordinates": [1, 2]}}', "no level"),
        (
            "a.geojson",
            b'{"type": "Feature", "geometry": {"type": "Point", "coordinates": [6.1, 51.2, 3]}}',
            "longitude",
        ),
        ("a.geojson", b"[1]", "not GeoJSON"),
        ("a.geojson", b'{"type": "FeatureCollection", "features": 4}', "Not read"),
        ("a.csv", b"left,right,up\n1,2,3", "must name"),
        ("a.csv", b"1,2\n3,4", "Line 1"),
        ("a.csv", b"east,north,level\n1,2,deep", "Line 2"),
        ("a.csv", b"", "empty"),
        ("a.csv", b"x" * 6_000_000, "MB"),
        ("a.dxf", b"rubbish", "Not"),
        ("a.step", b"rubbish", "is not read here"),
    ],
)
def test_hostile_files_are_refused_with_a_reason(name: str, data: bytes, says: str) -> None:
    with pytest.raises(UnreadableFile, match=says):
        read_surface(name, data, M)


@given(st.binary(max_size=300), st.sampled_from(["a.csv", "a.geojson", "a.dxf", "a.xml"]))
def test_rubbish_is_refused_and_never_an_error(data: bytes, name: str) -> None:
    try:
        read_surface(name, data, M)
    except UnreadableFile as error:
        assert str(error)


def test_the_existing_ground_comes_from_a_file_and_is_kept(shot: World) -> None:
    client = shot.client("lead")
    shown = client.get(f"/jobs/{shot.job.id}/base/brief/")
    sheet = shown.context["sheet"]
    sent = {"version": shot.assessment().job.version}
    for form in (sheet.brief, *sheet.sides, *sheet.heights, *sheet.things):
        sent |= {form.add_prefix(n): form[n].value() for n in form.fields if form[n].value() not in (None, False)}
    ground = b"point,east_m,north_m,level_m\nG1,-1,-1,10.1\nG2,7,-1,10.1\nG3,7,5,10.2\nG4,-1,5,10.2\n"
    looked = client.post(
        f"/jobs/{shot.job.id}/base/brief/",
        sent | {"add": "ground", "ground_file": SimpleUploadedFile("g.csv", ground)},
    ).content.decode()
    assert "4 points read" in looked and "-1 -1 10.1" in looked
    bad = client.post(
        f"/jobs/{shot.job.id}/base/brief/",
        sent | {"add": "ground", "ground_file": SimpleUploadedFile("g.xml", XML_BOMB)},
    ).content.decode()
    assert "document type" in bad


@pytest.mark.parametrize("station", STATIONS)
def test_the_plan_rings_the_station_that_was_chosen_and_no_other(shot: World, station: str) -> None:
    shown = page(shot, f"ground/?surface=finished&station={station}")
    plan = etree.fromstring(
        shown[shown.index("<svg", shown.index('id="plan"')) :].split("</svg>")[0].encode() + b"</svg>"
    )
    chosen = [link for link in plan.iter("{*}a") if "chosen" in link.get("class", "").split()]
    assert [link.get("data-station") for link in chosen] == [station]
    assert [p.getparent() for p in plan.iter("{*}path") if p.get("class") == "sight"] == chosen


def test_pages_are_compressed_and_news_is_not(shot: World) -> None:
    client = shot.client("crew")
    whole = client.get(f"/jobs/{shot.job.id}/water/?surface=base")
    small = client.get(f"/jobs/{shot.job.id}/water/?surface=base", headers={"Accept-Encoding": "gzip"})
    assert small["Content-Encoding"] == "gzip"
    assert len(small.content) < len(whole.content) / 2
    # A repeated view of a page stays under 30 kB.
    assert len(small.content) < 30_000
    made(client, f"/jobs/{shot.job.id}/record.pdf")
    made_ = client.get(f"/jobs/{shot.job.id}/record.pdf", headers={"Accept-Encoding": "gzip"})
    assert made_["Content-Type"] == "application/pdf" and "Content-Encoding" not in made_
    news = client.get("/live/?known=0", headers={"Accept-Encoding": "gzip"})
    assert "Content-Encoding" not in news


def test_the_rain_asked_for_is_shown_in_place(shot: World) -> None:
    response = shot.client("crew").get(
        f"/jobs/{shot.job.id}/water/?surface=base&rain=55&minutes=10", headers={"HX-Request": "true"}
    )
    shown = response.content.decode()
    assert shown.lstrip().startswith('<div id="rain"') and 'value="55"' in shown
    assert scene_of(shown)["duration"] == 600


@pytest.mark.parametrize("job", sorted(path.stem for path in DEMO.glob("*.json")))
def test_every_demo_job_has_an_answer_for_every_surface(job: str) -> None:
    assessment = assess(loads((DEMO / f"{job}.json").read_text(encoding="utf-8")))
    for surface in assessment.surveys.levelled:
        designed = assessment.surfaces.designed(surface.key)
        assert isinstance(designed, AsBuilt)
        # What was designed drains: nothing deeper than may stand, wherever a way out is named.
        if designed.puddle_limit is not None and not designed.water.trapped:
            assert all(p.depth <= designed.puddle_limit for p in designed.water.puddles), surface.key
        assert scene(designed, assessment.job.unit, 20 / 3.6e6, 3600)
        assert (assessment.surfaces.fix(surface.key) is None) == isinstance(
            assessment.surfaces.built(surface.key), NoSurface
        )
