"""Base: a design is tried, kept as a version, and tells what it overtakes."""

import uuid

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from tests.conftest import PAD, World, make_world

from groundwork.measures import Unit
from groundwork.shape import Ring
from nivelum.bases.forms import FallsForm, SpecificationForm
from nivelum.bases.sheet import SiteSheet
from nivelum.exchange.outlines import to_dxf
from nivelum.jobs.models import Entry, Job


def designs(world: World) -> int:
    return Entry.objects.filter(job=world.job, kind="design").count()


def specification(world: World, **changes) -> dict:
    """The section's form as the page shows it, with changes."""
    form = SpecificationForm(job=world.assessment().job)
    shown = {name: form.get_initial_for_field(field, name) for name, field in form.fields.items()}
    data = {name: value for name, value in shown.items() if value not in (None, False)}
    return data | {name.replace("__", "-"): value for name, value in changes.items()}


def keep(world: World, where: str, data: dict, role: str = "lead", knows: str = "brief excavation", **more):
    sent = {"entry_id": uuid.uuid4(), "version": world.assessment().job.version, "knows": knows} | data | more
    return world.client(role).post(f"/jobs/{world.job.id}/base/{where}", sent)


@pytest.fixture
def pad(world: World) -> World:
    return world


def test_a_thickness_is_tried_without_being_kept(pad: World) -> None:
    page = pad.client("lead").get(
        f"/jobs/{pad.job.id}/base/", specification(pad, base_0__thickness="140") | {"base-0-thickness": "140"},
        headers={"HX-Request": "true"},
    )  # fmt: skip
    text = page.content.decode()
    assert "245 mm" in text and "was 255 mm" in text
    assert "base 140 mm" in text and "at least 150 mm for this traffic" in text  # S12 with its limit
    assert "Overtakes Brief, signed by Lead Person" in text
    assert "<html" not in text and designs(pad) == 1


def test_kept_it_is_a_new_version_and_what_it_overtakes_is_overtaken(pad: World) -> None:
    pad.shoot_all()
    pad.sign("excavation")
    assert keep(pad, "keep/", specification(pad, **{"base-0-thickness": "200"})).status_code == 302
    assessment = pad.assessment()
    assert assessment.job.version == 2 and round(assessment.job.specification.excavation_depth * 1000) == 305
    assert [assessment.stages.of(s).gate for s in ("brief", "excavation")] == ["overtaken", "overtaken"]
    assert assessment.stages.of("brief").sign_off.evidence["version"] == 1
    body = Entry.objects.filter(job=pad.job, kind="design").last().body
    assert body["typed"]["base-0-thickness"] == "200"
    page = pad.client("viewer").get(f"/jobs/{pad.job.id}/sign-offs/?stage=brief").content.decode()
    assert "on version 1 of the design" in page and "The design has changed since" in page


def test_nobody_overtakes_a_sign_off_without_having_been_told(pad: World) -> None:
    refused = keep(pad, "keep/", specification(pad, **{"base-0-thickness": "200"}), knows="")
    assert refused.status_code == 422 and "overtakes what is signed: Brief" in refused.content.decode()
    assert 'value="200"' in refused.content.decode() and designs(pad) == 1


def test_a_design_made_on_an_older_version_is_not_kept(pad: World) -> None:
    keep(pad, "keep/", specification(pad, **{"base-0-thickness": "200"}))
    late = keep(pad, "keep/", specification(pad, **{"base-0-thickness": "180"}), version=1)
    assert late.status_code == 422 and "Someone has changed the design" in late.content.decode()
    assert designs(pad) == 2


def test_sent_twice_it_is_kept_once_and_unchanged_it_is_not_kept_at_all(pad: World) -> None:
    data = specification(pad, **{"base-0-thickness": "200"}) | {"entry_id": uuid.uuid4()}
    first_version = pad.assessment().job.version
    assert [keep(pad, "keep/", data, version=first_version).status_code for _ in range(2)] == [302, 302]
    assert designs(pad) == 2
    keep(pad, "keep/", specification(pad))
    assert designs(pad) == 2


@pytest.mark.parametrize("rod", ["mm", "m", "ft", "ft-in"])
def test_what_nobody_touched_stays_to_the_last_digit(db, rod: str) -> None:
    world = make_world(rod=rod)
    job = world.assessment().job
    form = SpecificationForm(specification(world), job=job)
    assert form.is_valid(), form.errors
    assert form.specification == job.specification
    assert designs(world) == 1


@pytest.mark.parametrize(
    ("field", "typed", "says"),
    [
        ("base-0-thickness", "a hand", "is not a measurement"),
        ("paving-0-thickness", "", "Nothing typed"),
        ("base-0-thickness", "3000", "between 1 and 2000 mm"),
        ("base-0-thickness", "-20", "between 1 and 2000 mm"),
        ("settlement", "40", "cannot settle by as much"),
        ("joint_width", "4000", "Between 0 and 3 m"),
        ("maker_most", "5", "Give both"),
        ("concrete_joints", "0", "Between 0 and 100 m"),
        ("base-0-material", "wattle", "Select a valid choice"),
    ],
)
def test_what_cannot_be_built_says_so_beside_its_field_and_loses_nothing(pad: World, field, typed, says) -> None:
    data = specification(pad) | {field: typed}
    refused = keep(pad, "keep/", data)
    text = refused.content.decode()
    assert refused.status_code == 422 and designs(pad) == 1
    assert says in text.split(f'id="wrong-{field}"')[1].split("</p>")[0]
    assert f'value="{typed}"' in text or typed in ("", "wattle")
    tried = pad.client("lead").get(f"/jobs/{pad.job.id}/base/", data, headers={"HX-Request": "true"})
    assert tried.status_code == 200 and says in tried.content.decode()


@pytest.mark.parametrize(
    "query", ["at=X9", "at=nowhere", "start=X1&end=X1", "start=90 90&end=95 95", "at=1e9 5", "station=B1"]
)
def test_any_place_can_be_asked_for(pad: World, query: str) -> None:
    assert pad.client("viewer").get(f"/jobs/{pad.job.id}/base/?{query}").status_code == 200


@pytest.mark.parametrize("where", ["keep/", "falls/keep/", "schools/take/", "ground/keep/", "ground/drop/", "brief/"])
def test_only_those_who_may_change_the_design(pad: World, where: str) -> None:
    for role in ("crew", "viewer"):
        assert keep(pad, where, {"school": "open"}, role=role).status_code == 403
    assert designs(pad) == 1


def test_a_school_is_taken_with_the_jobs_own_pavers(pad: World) -> None:
    assert keep(pad, "schools/take/", {"school": "open"}).status_code == 302
    taken = pad.assessment().job.specification
    assert taken.school == "open" and taken.layers[0].material == "concrete-block"
    assert keep(pad, "schools/take/", {"school": "wattle"}).status_code == 404
    page = pad.client("viewer").get(f"/jobs/{pad.job.id}/base/schools/?one=dense&other=slab").content.decode()
    assert "Side by side" in page and "concrete thickness" in page and "7 days" in page
    assert page.count("<h3") >= 9 + 2


def test_falls_are_kept_as_they_were_shown(pad: World) -> None:
    asked = {"layout": "valley", "where": "side 4; side 2", "least": "1:60", "most": "1:40"}
    with_height = sheet_data(pad) | {"height-0-kind": "threshold", "height-0-name": "door", "height-0-at": "3 4",
                                     "height-0-level": "10.000"}  # fmt: skip
    assert keep(pad, "brief/", with_height).status_code == 302
    form = FallsForm(asked, job=pad.assessment().job)
    assert form.is_valid()
    shown = pad.client("lead").get(f"/jobs/{pad.job.id}/base/falls/", asked)
    facets = shown.context["plan"].facets
    assert len(facets) == 2 and designs(pad) == 2
    assert keep(pad, "falls/keep/", asked).status_code == 302
    kept = pad.assessment().job.facets
    assert [(f.name, pytest.approx(f.level), pytest.approx(f.fall)) for f in facets] == [
        (f.name, f.level, f.fall) for f in kept
    ]


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        ({"layout": "gully", "where": "50 50"}, "does not lie in the area"),
        ({"layout": "ridge", "where": "X1"}, "two ends of the line"),
        ({"layout": "ridge", "where": ""}, "no place given"),
        ({"least": "steep"}, "is not a fall"),
        ({"least": "1:20", "most": "1:60"}, "at most the greatest"),
        ({"layout": "spiral"}, "Select a valid choice"),
    ],
)
def test_falls_that_cannot_be_asked_for_say_why(pad: World, asked: dict, says: str) -> None:
    asked = {"layout": "one", "where": "", "least": "1:60", "most": "1:20"} | asked
    page = pad.client("lead").get(f"/jobs/{pad.job.id}/base/falls/", asked)
    assert page.status_code == 200 and says in page.content.decode()
    assert keep(pad, "falls/keep/", asked).status_code == 422


def test_a_cone_log_is_kept_judged_and_left_out(pad: World) -> None:
    log = "0 10\n2 130\n2 250\n2 370\n2 490\n"
    assert keep(pad, "ground/keep/", {"name": "CP1", "log": log}).status_code == 302
    assert pad.assessment().case.bearing_ratio == pytest.approx(292 / 60**1.12, rel=1e-3)
    page = pad.client("viewer").get(f"/jobs/{pad.job.id}/base/").content.decode()
    assert "150 mm of stone on ground of CBR 3" in page
    wrong = keep(pad, "ground/keep/", {"name": "CP2", "log": "5 20\n5 10\n5 40"})
    assert wrong.status_code == 422 and "line 2: the cone is no deeper" in wrong.content.decode()
    assert "5 20\n5 10\n5 40" in wrong.content.decode()
    csv = SimpleUploadedFile("cp2.csv", b"blows,depth_mm\n0,10\n5,60\n5,110\n5,160\n")
    assert keep(pad, "ground/keep/", {"name": "CP2", "file": csv}).status_code == 302
    for bad in (b"\xff\xfe\x00", b"x" * 200_000):
        assert keep(pad, "ground/keep/", {"name": "CP3", "file": SimpleUploadedFile("c.csv", bad)}).status_code == 422
    keep(pad, "ground/drop/", {"name": "CP1"})
    assert [log.name for log in pad.assessment().job.cone_logs] == ["CP2"]
    sized = pad.client("viewer").get(
        f"/jobs/{pad.job.id}/base/ground/?axles=1e5&reliability=80&deviation=.45&loss=1.9"
    )
    assert "the traffic asks" in sized.content.decode()
    for query in ("axles=-1&reliability=80", "axles=1e99&reliability=0&deviation=x&loss=5"):
        assert pad.client("viewer").get(f"/jobs/{pad.job.id}/base/ground/?{query}").status_code == 200


def sheet_data(world: World) -> dict:
    """The brief's sheet as the page shows it."""
    sheet = SiteSheet(world.assessment().job.unit, world.assessment().job)
    data = {"height-count": len(sheet.heights), "thing-count": len(sheet.things), "island-count": len(sheet.insides)}
    for form in (sheet.brief, *sheet.sides, *sheet.heights, *sheet.things, *sheet.insides):
        for name, field in form.fields.items():
            value = form.get_initial_for_field(field, name)
            if value not in (None, False):
                data[form.add_prefix(name)] = value
    return data


@pytest.mark.parametrize("rod", ["mm", "ft-in"])
def test_a_brief_nobody_touched_changes_nothing(db, rod: str) -> None:
    from pathlib import Path

    import nivelum.demo

    for file in sorted((Path(nivelum.demo.__file__).parent / "jobs").glob("*.json")):
        world = make_world(rod=rod, job_file=file.read_text(encoding="utf-8"), brief_signed=False)
        assert keep(world, "brief/", sheet_data(world)).status_code == 302, file
        assert designs(world) == 1, file


def test_the_area_stays_under_what_was_shot_and_marks_under_set_ups(pad: World) -> None:
    pad.shoot_all()
    moved = keep(pad, "brief/", sheet_data(pad) | {"area": "0 0\n7 0\n7 4\n0 4"})
    assert moved.status_code == 422 and "they stay" in moved.content.decode()
    renamed = keep(pad, "brief/", sheet_data(pad) | {"height-0-name": "another sill"})
    assert renamed.status_code == 422 and "set up on “sill”" in renamed.content.decode()
    assert designs(pad) == 1


NEW = {
    "name": "Gauge hut path", "traffic": "foot", "soil": "sand", "season": "dry", "neighbour": "none", "storm": "50",
    "dust_control": "water", "cutting": "on", "area_as": "sides", "area": "6\n4\n6", "spacing": "2",
    "height-count": "3", "height-0-kind": "threshold", "height-0-name": "door", "height-0-at": "side 3",
    "height-0-level": "10.000", "height-1-kind": "drain", "height-2-kind": "mark", "thing-count": "1",
    "thing-0-kind": "drain", "side-2-along": "building", "side-2-name": "hut", "outlet_fall": "1:100",
}  # fmt: skip


def start(world: World, role: str = "lead", **changes):
    rain = {} if world.crew.unit.is_metric else {"storm": "2"}
    data = {"entry_id": str(uuid.uuid4())} | NEW | rain | {name.replace("__", "-"): v for name, v in changes.items()}
    return world.client(role).post("/jobs/new/", data)


def started(world: World) -> list[Job]:
    return list(Job.objects.filter(crew=world.crew).exclude(id=world.job.id))


def test_a_job_is_started_from_nothing(world: World) -> None:
    assert start(world).status_code == 302
    (job,) = started(world)
    world.job = job
    assessment = world.assessment()
    assert assessment.job.area.area == pytest.approx(24)
    assert assessment.job.facets[0].steepest[1] == pytest.approx(180)  # away from the hut on its north side
    assert float(assessment.job.design.level_at([3], [4])[0]) == pytest.approx(10.0)
    assert [m.name for m in assessment.job.marks] == ["door"]
    assert {f.rule for f in assessment.stages.of("brief").stops} == {"G06"}
    assert keep(world, "brief/", sheet_data(world)).status_code == 302 and designs(world) == 1


def test_sent_twice_one_job_is_started(world: World) -> None:
    same = str(uuid.uuid4())
    assert {start(world, entry_id=same).status_code for _ in range(2)} == {302}
    assert len(started(world)) == 1


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"name": ""}, "This field is required"),
        ({"area": ""}, "nothing typed"),
        ({"area": "6\nfour\n6"}, "line 2"),
        ({"area_as": "corners", "area": "0 0\n4 4\n4 0\n0 4"}, "crosses or touches itself"),
        ({"height-0-at": "X9"}, "there is no corner 9"),
        ({"height-0-level": "ten"}, "is not a measurement"),
        ({"height-0-level": ""}, "This is wanted too"),
        ({"height-0-name": "", "height-0-at": "", "height-0-level": ""}, "at least one known level"),
        ({"height-1-name": "door", "height-1-at": "X1", "height-1-level": "9.9"}, "two have the same name"),
        ({"spacing": "0.01"}, "Between 0.5 and 50 m"),
        ({"storm": "lots"}, "Enter a number"),
        ({"thing-0-name": "gully", "thing-0-places": "somewhere"}, "is no place"),
        ({"outlet_name": "ditch"}, "An outlet wants this too"),
        ({"outlet_name": "ditch", "outlet_at": "X7", "outlet_run": "4", "outlet_level": "9"}, "there is no corner 7"),
        ({"ground": "X1 ten"}, "line 1: a place and a level"),
        ({"traffic": "tanks"}, "Select a valid choice"),
        ({"entry_id": "x"}, "did not arrive whole"),
    ],
)
def test_a_start_with_something_wrong_says_so_and_keeps_all_that_was_typed(world: World, changes, says) -> None:
    sent = NEW | {"soil": "silt", "side-1-name": "hedge"} | changes
    page = start(world, **sent)
    text = page.content.decode()
    assert page.status_code == 422 and not started(world)
    assert says in text
    for name, typed in sent.items():
        if name in ("area", "ground", "entry_id") or (name.startswith("side-") and "area" in changes):
            continue
        kept = f'value="{typed}"' in text or f">{typed}</textarea>" in text or typed in ("on", "tanks", "")
        assert kept, name


def test_a_file_is_read_into_the_sheet_and_a_bad_one_refused_with_nothing_lost(world: World) -> None:
    client = world.client("lead")
    drawing = SimpleUploadedFile("plan.dxf", to_dxf(Ring(((0, 0), (8, 0), (8, 3), (0, 3)))).encode())
    page = client.post("/jobs/new/", NEW | {"area_file": drawing, "look": "1"}).content.decode()
    assert "8 3\n" in page.replace("\r", "") and "24.0 m²" in page and 'value="Gauge hut path"' in page
    bomb = SimpleUploadedFile("plan.geojson", b"<!DOCTYPE lolz>")
    page = client.post("/jobs/new/", NEW | {"area_file": bomb, "look": "1"}).content.decode()
    assert "XML" in page and "6\n4\n6" in page
    added = client.post("/jobs/new/", NEW | {"add": "height"}).content.decode()
    assert 'name="height-3-kind"' in added and 'value="door"' in added
    assert not started(world)


@pytest.mark.parametrize("rod", ["mm", "ft-in"])
@pytest.mark.parametrize("ending", ["geojson", "dxf", "csv"])
def test_an_outline_comes_in_through_the_sheet_and_goes_out_again_to_a_tenth_of_a_millimetre(db, rod, ending) -> None:
    from nivelum.exchange.outlines import read_outline, to_csv, to_geojson

    world = make_world(rod=rod)
    outline = ((0.0, 0.0), (6.12345, 0.00021), (6.54321, 4.98765), (0.00049, 5.00551))
    writers = {
        "geojson": lambda o: to_geojson("x", Ring(tuple(o))), "dxf": lambda o: to_dxf(Ring(tuple(o))),
        "csv": lambda o: to_csv(Ring(tuple(o))),
    }  # fmt: skip
    file = SimpleUploadedFile(f"plan.{ending}", writers[ending](outline).encode())
    level = {"height-0-level": "10 m"}
    assert start(world, area_file=file, keep="1", **level).status_code == 302
    (world.job,) = started(world)
    sent = world.client("viewer").get(f"/jobs/{world.job.id}/outline.{ending}")
    back = read_outline(f"a.{ending}", sent.content, Unit.METRES).ring.corners
    assert (
        max(abs(a - b) for one, other in zip(back, outline, strict=True) for a, b in zip(one, other, strict=True))
        < 1e-4
    )
    crlf = {name: str(value).replace("\n", "\r\n") for name, value in sheet_data(world).items()}
    assert keep(world, "brief/", crlf).status_code == 302 and designs(world) == 1


def test_only_those_who_may_design_start_jobs(world: World) -> None:
    for role in ("crew", "viewer"):
        assert start(world, role).status_code == 403
        assert world.client(role).get("/jobs/new/").status_code == 403
    assert Client().get("/jobs/new/").status_code == 302
    assert start(world, "engineer").status_code == 302
    stranger = make_world(name="Others")
    assert start(stranger, crew=str(world.crew.id)).status_code == 302
    assert len(started(world)) == 1 and len(started(stranger)) == 1


DUSTY = PAD.replace('"dust_control": "water"', '"dust_control": "none"')


def accept(world: World, role: str, reason: str = "all cutting is done off the site", **more):
    stops = world.assessment().stages.of("brief").stops
    data = {
        "entry_id": uuid.uuid4(),
        "stage": "brief",
        "finding": stops[0].identity if stops else "",
        "reason": reason,
    }
    return world.client(role).post(f"/jobs/{world.job.id}/sign-offs/accept/", data | more)


def test_a_stop_is_accepted_by_someone_entitled_with_a_reason_that_stays(db) -> None:
    world = make_world(job_file=DUSTY, brief_signed=False)
    world.look("brief")
    assert world.assessment().stages.of("brief").gate == "held"
    assert accept(world, "crew").status_code == 403
    short = accept(world, "lead", reason="ok")
    assert short.status_code == 422 and "at least 8 characters" in short.content.decode()
    assert accept(world, "lead").status_code == 302
    assert world.assessment().stages.of("brief").gate == "ready to sign"
    page = world.client("viewer").get(f"/jobs/{world.job.id}/sign-offs/").content.decode()
    assert "all cutting is done off the site" in page and "Lead Person, lead" in page
    world.sign("brief")
    frozen = world.assessment().stages.of("brief").sign_off.evidence["findings"]
    assert frozen[0]["accepted"] == {
        "by": "Lead Person",
        "role": "lead",
        "reason": "all cutting is done off the site",
    }
    assert Entry.objects.get(job=world.job, kind="acceptance").body["rule"] == "S17"
    assert accept(world, "lead", finding="S17: something else").status_code == 422


def test_what_bears_on_the_structure_only_the_engineer_accepts(db) -> None:
    thin = PAD.replace('"thickness_mm": 150', '"thickness_mm": 120')
    world = make_world(job_file=thin, brief_signed=False)
    assert world.assessment().stages.of("brief").stops[0].rule == "S12"
    assert accept(world, "lead").status_code == 403
    assert accept(world, "engineer").status_code == 302
    # An acceptance covers what was seen, not what it becomes.
    keep(world, "keep/", specification(world, **{"base-0-thickness": "110"}))
    assert world.assessment().stages.of("brief").gate == "held"


def test_the_outline_goes_out_in_open_formats(pad: World) -> None:
    from nivelum.exchange.outlines import read_outline

    for ending in ("geojson", "dxf", "csv"):
        sent = pad.client("viewer").get(f"/jobs/{pad.job.id}/outline.{ending}")
        assert "attachment" in sent["Content-Disposition"]
        assert read_outline(f"a.{ending}", sent.content, Unit.METRES).ring.corners == ((0, 0), (6, 0), (6, 4), (0, 4))
    assert pad.client("viewer").get(f"/jobs/{pad.job.id}/outline.exe").status_code == 404


def test_a_section_page_costs_a_fixed_few_queries(pad: World, django_assert_max_num_queries) -> None:
    pad.shoot_all()
    client = pad.client("lead")
    data = specification(pad, **{"base-0-thickness": "180"})
    with django_assert_max_num_queries(6):
        client.get(f"/jobs/{pad.job.id}/base/", data, headers={"HX-Request": "true"})


def test_a_crew_reads_its_own_regions_words(db) -> None:
    world = make_world()
    place = f"/jobs/{world.job.id}/base/falls/?layout=one&where=&least=1:90&most=1:20"
    ours = world.client("viewer").get(place).content.decode()
    assert "Least fall" in ours and "all falls 1:50" not in ours
    world.crew.region = "en-us"
    world.crew.save()
    theirs = world.client("viewer").get(place).content.decode()
    assert "Least slope" in theirs and "Slopes" in theirs and "Least fall" not in theirs
    # The record is in nobody's words: what was found is named by the core's own phrase.
    assert "subgrade" in world.client("viewer").get(f"/jobs/{world.job.id}/base/").content.decode()
    assert "formation" not in world.client("viewer").get(f"/jobs/{world.job.id}/base/?at=X1").content.decode().split(
        'id="base-answers"'
    )[1].split("What it takes")[0]  # fmt: skip


def test_catalogues_only_hold_phrases_that_are_shown() -> None:
    """A phrase changed in the code and not in its catalogue would silently lose its words."""
    from pathlib import Path

    from babel.messages.pofile import read_po

    import groundwork
    import nivelum

    shown = ""
    for root in (Path(groundwork.__file__).parent, Path(nivelum.__file__).parent):
        for ending in ("py", "html", "toml"):
            shown += "".join(file.read_text(encoding="utf-8") for file in root.rglob(f"*.{ending}"))
    shown = shown.replace('\\"', '"')
    for words in (Path(nivelum.__file__).parent / "locale").glob("*/LC_MESSAGES/django.po"):
        with words.open("rb") as file:
            for message in read_po(file):
                if message.id and "%(" not in str(message.id):
                    assert str(message.id) in shown, (words.parts[-3], message.id)


def test_everything_the_sheet_asks_is_in_the_job_that_comes_of_it(world: World) -> None:
    full = {
        "side-2-along": "drained",
        "side-2-name": "hut",
        "side-0-along": "free edge",
        "side-1-along": "kerb",
        "height-0-down": "15",
        "height-0-up": "3",
        "height-1-name": "hut damp-proof course",
        "height-1-kind": "damp-proof course",
        "height-1-at": "X4",
        "height-1-level": "10.2",
        "height-2-name": "nail",
        "height-2-at": "-1.5 2",
        "height-2-level": "10.05",
        "thing-0-name": "gully",
        "thing-0-places": "3 1",
        "outlet_name": "ditch",
        "outlet_at": "side 1",
        "outlet_run": "12",
        "outlet_level": "9.4",
        "outlet_cover": "60",
        "ground": "X1 10.1\nX2, 10.1\r\n6 4 10.2\n0;4;10.2",
        "infiltration": "36",
        "axles": "50000",
        "storm": "60",
        "frost": "on",
        "raised": "on",
        "engineer": "M. Voss",
        "level_access": "slot drain, agreed",
        "season": "wet",
        "spacing": "1.5",
    }
    assert start(world, **full).status_code == 302
    (world.job,) = started(world)
    job = world.assessment().job
    assert [(f.kind, f.name, f.side) for f in job.features] == [
        ("free edge", "", 0),
        ("kerb", "", 1),
        ("building", "hut", 2),
        ("drain", "drain", 2),
        ("drain", "gully", None),
    ]
    assert [(h.name, h.at, h.level, h.down, h.up) for h in job.heights] == [
        ("door", (3, 4), 10.0, 0.015, 0.003),
        ("hut damp-proof course", (0, 4), 10.2, 0, 0),
    ]
    assert [(m.name, m.at, m.level) for m in job.marks] == [("nail", (-1.5, 2), 10.05)]
    assert (job.outlet.at, job.outlet.run, job.outlet.level, job.outlet.fall) == ((3, 0), 12, 9.4, 0.01)
    assert job.outlet.cover == pytest.approx(0.06)
    assert [(s.at, s.level) for s in job.spots] == [((0, 0), 10.1), ((6, 0), 10.1), ((6, 4), 10.2), ((0, 4), 10.2)]
    assert job.brief.axles == 50_000
    assert job.brief.infiltration == pytest.approx(1e-5) and job.brief.storm == pytest.approx(0.06)
    assert (job.brief.frost, job.brief.raised, job.brief.engineer, job.brief.season) == (True, True, "M. Voss", "wet")
    assert job.station_spacing == 1.5 and {f.rule for f in world.assessment().stages.of("brief").stops} == {"G06"}
    # The drain along the hut lets the surface fall to it; without it, that would be a stop.
    assert all(edge.drained for edge in job.building_edges)
    # A larger area: what stands along its sides goes with them, and the plane is found anew.
    wider = sheet_data(world) | {"area": "0 0\n9 0\n9 4\n0 4"}
    assert keep(world, "brief/", wider).status_code == 302
    moved = world.assessment().job
    assert moved.area.area == pytest.approx(36)
    assert next(f for f in moved.features if f.kind == "kerb").points == ((9, 0), (9, 4))
    assert moved.features[-1].points == ((3, 1),) and moved.facets[0].outline == moved.outline
