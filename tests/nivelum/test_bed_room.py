"""The Bedding room: rails planned, set and told; the bed's thickness; the trial patch and what is taken from it."""

import uuid
from dataclasses import replace

import pytest
from tests.conftest import DRAINED_PAD, make_world

from groundwork.brief import Traffic
from groundwork.files import dumps, loads
from groundwork.measures import Unit
from groundwork.schools import schools
from nivelum.jobs.models import Entry

pytestmark = pytest.mark.django_db
FEET = {"board": "6", "longest": "10", "tube": "1"}
PLAN = {"way": "along", "board": "2", "tube": "25", "longest": "3"}


def sent(**fields) -> dict:
    return {"entry_id": str(uuid.uuid4()), **fields}


@pytest.fixture
def railed(world):
    """A level set up and rails planned."""
    world.set_up()
    answer = world.client("crew").post(f"/jobs/{world.job.id}/bed/plans/", sent(**PLAN))
    assert answer.status_code == 302
    return world


def post(world, at: str, role: str = "crew", /, **fields):
    return world.client(role).post(
        f"/jobs/{world.job.id}/bed/{at}/", sent(**fields), headers={"HX-Request": "true"}
    )  # fmt: skip


def shot(world, high_mm: float = 0.0, **more):
    bed = world.assessment().bedding
    rail, end = bed.next_end
    target = bed.target(rail, end, world.assessment().levels.present)
    typed = {"plan": bed.planned.id, "rail": rail, "end": end, "set_up": world.assessment().levels.set_up.id,
             "reading": f"{target * 1000 - high_mm:.0f}"}  # fmt: skip
    return rail, end, post(world, "rails", **typed | more)


def test_every_end_is_shown_with_what_should_be_read_and_what_to_do(railed) -> None:
    page = railed.client("viewer").get(f"/jobs/{railed.job.id}/bed/").content.decode()
    bed = railed.assessment().bedding
    assert all(f">{rail}" in page for rail in bed.plan.rails) and 'id="target"' not in page  # a viewer sets none
    rail, end, answer = shot(railed, 9)
    assert answer.status_code == 200 and f"{rail}, upper end: bed it down 9" in answer.content.decode()
    assert "rails off their level" in answer.content.decode()
    page = railed.client("crew").get(f"/jobs/{railed.job.id}/bed/?rail={rail}&end={end}").content.decode()
    assert f">{rail}</span></button>" in page and 'class="rail-off"' in page
    told = [e.kind for e in Entry.objects.filter(job=railed.job).order_by("number")][-2:]
    assert told == ["rails", "rail"]
    book = railed.client("lead").get(f"/jobs/{railed.job.id}/record/").content.decode()
    assert "Rail set" in book and "Rails planned" in book


@pytest.mark.parametrize(("where", "fields", "says"), [
    ("plans", PLAN | {"board": "9"}, "between"),
    ("plans", PLAN | {"tube": "long"}, "long"),
    ("plans", PLAN | {"way": "up"}, ""),
    ("rails", {"reading": "seven"}, "seven"),
    ("rails", {"rail": "R99"}, "R99"),
    ("rails", {"end": "middle"}, ""),
    ("strings", {"gap": "-4", "rail": "R1"}, ""),
    ("strings", {"gap": "4", "rail": "R77"}, "R77"),
])  # fmt: skip
def test_what_is_wrong_is_said_and_what_was_typed_is_still_there(railed, where, fields, says) -> None:
    plan = railed.assessment().bedding.planned.id
    before = Entry.objects.filter(job=railed.job).count()
    if where == "rails":
        _rail, _end, answer = shot(railed, **fields)
    else:
        answer = post(railed, where, **({} if where == "plans" else {"plan": plan}) | fields)
    assert answer.status_code == 422 and says in answer.content.decode()
    assert Entry.objects.filter(job=railed.job).count() == before


def test_who_may(railed) -> None:
    for where, fields in (("plans", PLAN), ("trial/units", {"where": "a", "before": "8", "after": "0"})):
        assert post(railed, where, "viewer", **fields).status_code == 403
    assert post(railed, "trial/take", "crew").status_code == 403
    stranger = make_world()
    assert stranger.client("lead").get(f"/jobs/{railed.job.id}/bed/").status_code == 404


def test_the_thickness_says_what_is_least_and_then_where_to_mend(railed) -> None:
    client, where = railed.client("crew"), f"/jobs/{railed.job.id}/bed/thickness/"
    assert "The base was not shot" in client.get(where).content.decode()
    for n, station in enumerate(railed.assessment().job.stations):
        railed.shoot(station.name, -35.0 if n == 0 else 0.0, surface=railed.assessment().bedding.carrying)
    page = client.get(where).content.decode()
    first = railed.assessment().job.stations[0].name
    assert "Mend the base first" in page and f">{first}</strong>" in page and "bring it up with stone" in page
    today = client.get(where, {"people": "2", "hours": "1"}).content.decode()
    assert "8.0 m²:" in today and 'class="today' in today
    assert client.get(where, {"people": "0", "hours": "x"}).status_code == 422
    evidence = railed.assessment().stages.evidence_of("bedding")["bed"]
    assert evidence["thickness"]["greatest_mm"] > 50
    assert {f.rule for f in railed.assessment().stages.of("bedding").findings} >= {"K02"}


def test_a_trial_is_measured_and_taken_for_the_rest(railed) -> None:
    for n, high in enumerate(("8", "9", "8.5")):
        assert post(railed, "trial/units", where=f"unit {n}", before=high, after="0").status_code == 200
    page = railed.client("lead").get(f"/jobs/{railed.job.id}/bed/trial/").content.decode()
    assert "Seating takes off 8 mm" in page or "Seating takes off 9 mm" in page
    before = railed.assessment().job
    keep = {"version": before.version, "knows": "brief set-out"}
    answer = railed.client("lead").post(f"/jobs/{railed.job.id}/bed/trial/take/", sent(**keep), follow=True)
    after = railed.assessment().job
    assert answer.status_code == 200 and after.version == before.version + 1, answer.content.decode()[-900:]
    assert after.specification.settlement == pytest.approx(0.0085)
    assert after.specification.excavation_depth == pytest.approx(before.specification.excavation_depth)
    again = railed.assessment().bedding
    assert not again.findings and again.plan  # the plan follows the design


def test_a_job_without_rails_says_so(db) -> None:
    for school, says in (("rigid", "in mortar one by one"), ("cells", "drawn by hand")):
        world = make_world(job_file=DRAINED_PAD.replace('"dense"', f'"{school}"'), brief_signed=False)
        page = world.client("lead").get(f"/jobs/{world.job.id}/bed/")
        assert page.status_code == 200
        if not world.assessment().bedding.has_rails:
            assert says in page.content.decode() or not world.assessment().bedding.is_there


@pytest.mark.parametrize("rod", ["mm", "m", "ft", "ft-in"])
def test_in_every_rod(rod: str) -> None:
    world = make_world(rod=rod, job_file=DRAINED_PAD.replace('"units": "mm"', f'"units": "{rod}"'))
    unit = Unit(rod)
    world.set_up({"mm": "1300", "m": "1.3", "ft": "4.27", "ft-in": "4' 3 1/8\""}[rod])
    plan = (
        PLAN if unit.is_metric else PLAN | {"board": "6", "tube": "1" if rod == "ft-in" else "0.08", "longest": "10"}
    )
    assert world.client("crew").post(f"/jobs/{world.job.id}/bed/plans/", sent(**plan)).status_code == 302
    page = world.client("crew").get(f"/jobs/{world.job.id}/bed/")
    assert page.status_code == 200 and 'id="target"' in page.content.decode()


def bay_work(world, what: str, role: str = "crew", **fields):
    bed = world.assessment().bedding
    typed = {"plan": bed.planned.id, "bay": next(iter(bed.bays))} | fields
    return post(world, f"bays/{what}", role, **typed)


def test_a_bay_is_screeded_looked_at_and_laid_on(railed) -> None:
    page = railed.client("crew").get(f"/jobs/{railed.job.id}/bed/bays/").content.decode()
    assert "B1 is screeded" in page and "Not screeded yet" in page
    assert "Lay the straightedge" in bay_work(railed, "screeded").content.decode()
    low = bay_work(railed, "checked", along="2", across="9").content.decode()
    assert "Add 9 mm where it is low, screed again" in low and "K09" in low
    bay_work(railed, "screeded")
    assert "Level: lay on it" in bay_work(railed, "checked", along="2", across="3").content.decode()
    assert "Laid" in bay_work(railed, "closed", how="laid").content.decode()
    evidence = railed.assessment().stages.evidence_of("bedding")["bed"]["bays"][0]
    assert (evidence["gap_mm"], evidence["closed"], evidence["call"]) == (3.0, "laid", "good")
    told = railed.client("lead").get(f"/jobs/{railed.job.id}/record/").content.decode()
    assert "B1: 2 mm along, 9 mm across" in told and "B1: laid on" in told


@pytest.mark.parametrize(("what", "fields", "says"), [
    ("checked", {"along": "x", "across": "1"}, "x"),
    ("checked", {"along": "500", "across": "1"}, "etween"),
    ("closed", {"how": "eaten"}, "eaten"),
    ("screeded", {"bay": "B99"}, "B99"),
    ("screeded", {"at": "noon"}, "noon"),
])  # fmt: skip
def test_what_a_bay_cannot_have_is_said(railed, what: str, fields: dict, says: str) -> None:
    before = Entry.objects.filter(job=railed.job).count()
    answer = bay_work(railed, what, **fields)
    assert answer.status_code == 422 and Entry.objects.filter(job=railed.job).count() == before
    assert says in answer.content.decode() or fields.get("bay") == "B99"
    assert bay_work(railed, what, "viewer", **fields).status_code == 403
    assert bay_work(railed, "danced").status_code == 404


def test_what_lay_open_overnight_is_flagged(railed) -> None:
    page = bay_work(railed, "screeded", at="2026-03-05T15:30").content.decode()
    assert "left open overnight: B1" in page
    assert "left open overnight" not in bay_work(railed, "closed", how="raked off").content.decode()


@pytest.mark.parametrize("rod", ["mm", "ft-in"])
def test_mortar_has_its_time_and_flags_are_lifted(rod: str) -> None:
    job = loads(DRAINED_PAD.replace('"units": "mm"', f'"units": "{rod}"'))
    flags = schools()["rigid"].specification(Traffic.FOOT, job.unit)
    foot = replace(job.brief, traffic=Traffic.FOOT)
    world = make_world(rod=rod, job_file=dumps(replace(job, brief=foot, specification=flags)))
    at = f"/jobs/{world.job.id}/bed/mortar/"
    page = world.client("crew").get(at).content.decode()
    assert "None is mixed yet" in page and "One weighs" in page
    warm, hot = ("20", "30") if rod == "mm" else ("68", "86")
    typed = {"amount": "80" if rod == "mm" else "3", "parts": "4"}
    old = post(world, "mortar/batches", **typed, at="2026-03-05T10:15", degrees=warm).content.decode()
    assert "past 5 Mar, 11:45: throw away" in old and "K07" in old
    assert (
        "past 5 Mar, 11:00"
        in post(world, "mortar/batches", **typed, at="2026-03-05T10:15", degrees=hot).content.decode()
    )
    assert "good until" in post(world, "mortar/batches", **typed, at="", degrees=warm).content.decode()
    # 80 litres are 0.1 m³ loose, a fifth of it cement at 1440: 28.8 kg, 1.2 bags; 3 ft³ 30.6 kg, 0.7 bags of 94 lb.
    assert ("1.2 bags of 25 kg" if rod == "mm" else "0.7 bags of 94 lb") in old
    for batch in world.assessment().bedding.batches:
        post(world, "mortar/batches", batch=batch.mixed.id, how="used up")
    assert all(b.ended for b in world.assessment().bedding.batches)
    hollow = post(world, "mortar/flags", where="row 3", contact="90").content.decode()
    assert "hollow under row 3" in hollow
    for fields, where in (({"amount": "x"}, "batches"), ({"parts": "0"}, "batches"), ({"contact": "120"}, "flags")):
        more = typed | {"degrees": warm, "where": "a"} | fields
        assert post(world, f"mortar/{where}", **more).status_code == 422
    for query in ("?long=600&wide=300", "?long=x&wide=", "?long=0&wide=600"):
        assert world.client("crew").get(at + query).status_code == 200


def test_a_bed_without_rails_or_mortar_says_so(world) -> None:
    assert "not laid in mortar" in world.client("crew").get(f"/jobs/{world.job.id}/bed/mortar/").content.decode()
    assert "Bays lie between rails" in world.client("crew").get(f"/jobs/{world.job.id}/bed/bays/").content.decode()


def test_a_rail_misread_is_asked_about(railed) -> None:
    rail, end, asked = shot(railed, 100)
    page = asked.content.decode()
    assert (
        asked.status_code == 422 and 'id="doubt"' in page and railed.assessment().bedding.ends[rail, end].shot is None
    )
    typed = page.split('name="sure" value="')[1].split('"')[0]
    assert shot(railed, 100, sure=typed)[2].status_code == 200
