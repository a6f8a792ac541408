"""The Edges room: what stands along each side, set joint by joint and told what to do."""

import uuid

import pytest
from tests.conftest import DRAINED_PAD, make_world

from groundwork.entries import SetUp
from groundwork.measures import Unit, parse_rod
from groundwork.tools import Instrument, Method
from nivelum.jobs.models import Entry

pytestmark = pytest.mark.django_db
KERB = {
    "side": "0",
    "what": "kerb",
    "upstand": "25",
    "length": "0.915",
    "joint": "3",
    "width": "125",
    "height": "150",
}


def post(world, at: str, role: str = "crew", /, **fields):
    where = f"/jobs/{world.job.id}/edges/{at}/"
    return world.client(role).post(where, {"entry_id": str(uuid.uuid4()), **fields}, headers={"HX-Request": "true"})


@pytest.fixture
def kerbed(world):
    world.set_up()
    assert post(world, "plans", **KERB).status_code == 200
    return world


def top(world, joint: int, high_mm: float = 0.0, more: dict | None = None):
    a = world.assessment()
    target = a.edges.target(0, joint, a.levels.present)
    typed = {"side": "0", "edge": a.edges.runs[0].plan.id, "joint": str(joint), "set_up": a.levels.set_up.id,
             "reading": f"{target * 1000 - high_mm:.0f}"}  # fmt: skip
    return post(world, "tops", **typed | (more or {}))


def test_a_run_is_set_joint_by_joint_and_what_is_off_is_said(kerbed) -> None:
    answer = top(kerbed, 2, 10).content.decode()
    assert "joint 2: tap it down 10 mm" in answer and "tops off their level at joint 2" in answer
    assert "reset 2 units from unit 2" in top(kerbed, 2, -12).content.decode()
    assert "out of line at joint 1" in post(
        kerbed, "lines", side="0", edge=kerbed.assessment().edges.runs[0].plan.id, joint="1", off="-14"
    ).content.decode()  # fmt: skip
    page = kerbed.client("viewer").get(f"/jobs/{kerbed.job.id}/edges/?side=0").content.decode()
    assert "Side 1 unrolled" in page and "bags of 25 kg" in page and 'id="target"' not in page
    told = kerbed.client("lead").get(f"/jobs/{kerbed.job.id}/record/").content.decode()
    assert "kerb along side 1" in told and "14 mm inside its line" in told
    stages = kerbed.assessment().stages
    assert any({f.rule for f in stages.of(key).findings} >= {"E01", "E03"}
               for key in ("early-edges", "late-edges") if key in stages.steps)  # fmt: skip


@pytest.mark.parametrize(("at", "fields", "says"), [
    ("plans", KERB | {"side": "40"}, "no such side"),
    ("plans", KERB | {"length": "9"}, "between"),
    ("plans", KERB | {"what": "hedge"}, "hedge"),
    ("tops", {"joint": "99"}, "joints, counted from 0"),
    ("tops", {"reading": "low"}, "low"),
    ("lines", {"joint": "1", "off": "5000"}, "between"),
])  # fmt: skip
def test_what_is_wrong_is_said_and_nothing_is_recorded(kerbed, at: str, fields: dict, says: str) -> None:
    before = Entry.objects.filter(job=kerbed.job).count()
    edge = kerbed.assessment().edges.runs[0].plan.id
    answer = top(kerbed, 1, more=fields) if at == "tops" else post(kerbed, at, **{"side": "0", "edge": edge} | fields)
    assert answer.status_code == 422 and says in answer.content.decode()
    assert Entry.objects.filter(job=kerbed.job).count() == before
    assert post(kerbed, at, "viewer", **fields).status_code == 403


@pytest.mark.parametrize("rod", ["mm", "m", "ft", "ft-in"])
def test_every_side_opens_in_every_rod(rod: str) -> None:
    world = make_world(rod=rod, job_file=DRAINED_PAD.replace('"units": "mm"', f'"units": "{rod}"'))
    world.set_up({"mm": "1300", "m": "1.3", "ft": "4.27", "ft-in": "4' 3 1/8\""}[rod])
    feet = {"upstand": "0.08" if rod == "ft" else "1", "length": "3", "joint": "0.01" if rod == "ft" else "0.125",
            "width": "0.33" if rod == "ft" else "4", "height": "0.5" if rod == "ft" else "6"}  # fmt: skip
    assert post(world, "plans", **KERB | ({} if Unit(rod).is_metric else feet)).status_code == 200
    for query in (
        "",
        "?side=1",
        "?side=0&joint=2",
        "?side=77",
        "?side=0&joint=x",
        "?side=²",
        f"?side={'9' * 5000}",
        "?joint=²",
    ):
        page = world.client("crew").get(f"/jobs/{world.job.id}/edges/{query}")
        assert page.status_code == 200


def test_what_looks_misread_is_asked_about_and_kept_once_it_is_sure(kerbed) -> None:
    asked = top(kerbed, 2, 100)
    page = asked.content.decode()
    assert asked.status_code == 422 and 'id="doubt"' in page and "out by 100 mm" in page
    assert not kerbed.assessment().edges.joints(0)[2].shot and 'name="joint" value="2"' in page
    typed = page.split('name="sure" value="')[1].split('"')[0]
    assert top(kerbed, 2, 100, {"sure": "17"}).status_code == 422  # sure of something else
    kept = top(kerbed, 2, 100, {"sure": typed})
    assert kept.status_code == 200 and "bed it 100 mm lower" in kept.content.decode()
    assert Entry.objects.filter(job=kerbed.job, kind="edge_top").get().body["sure"] is True


def test_a_doubt_from_where_there_is_no_signal_goes_back_to_whoever_read_it(kerbed) -> None:
    a = kerbed.assessment()
    target = a.edges.target(0, 2, a.levels.present)
    typed = {"entry_id": str(uuid.uuid4()), "side": "0", "edge": a.edges.runs[0].plan.id, "joint": "2",
             "set_up": a.levels.set_up.id, "reading": f"{target * 1000 + 1000:.0f}"}  # fmt: skip
    where = f"/jobs/{kerbed.job.id}/edges/tops/"
    headers = {"Accept": "application/json", "Nivelum-Person": str(kerbed.people["crew"].pk)}
    answer = kerbed.client("crew").post(where, typed, headers=headers)
    assert answer.json()["refused"] == "doubt" and "out by a metre" in answer.json()["message"]
    again, mend, go = answer.json()["ways"]
    assert (again["does"], mend["does"], go["to"]) == (
        "again",
        "mend",
        f"/jobs/{kerbed.job.id}/edges/?side=0&joint=2",
    )
    sure = kerbed.client("crew").post(where, typed | again["sets"], headers=headers)
    assert sure.json()["written"] == typed["entry_id"]


def test_a_tool_that_is_not_sure_enough_is_refused(kerbed) -> None:
    rough = Instrument(Method.LASER, "", 0.009)
    mark = kerbed.assessment().site.marks[0].name
    kerbed.record(SetUp(str(uuid.uuid4()), mark, parse_rod("1300", Unit.MILLIMETRES), rough))
    page = kerbed.client("crew").get(f"/jobs/{kerbed.job.id}/edges/?side=0").content.decode()
    assert "not sure enough for 6 mm: take a laser or an optical level" in page and 'id="target"' not in page
    answer = top(kerbed, 2)
    assert answer.status_code == 422 and not kerbed.assessment().edges.joints(0)[2].shot


def test_all_round_plans_every_side_but_walls_and_once(world) -> None:
    world.set_up()
    sent = {"entry_id": str(uuid.uuid4()), **KERB, "round": "true"}
    for _turn in range(2):
        assert world.client("crew").post(f"/jobs/{world.job.id}/edges/plans/", sent).status_code == 302
    there = world.assessment().edges
    sides = range(len(world.assessment().site.outline))
    # The side one chose it for gets what one chose, wherever it stands.
    walls = [side for side in sides if side and str(there.options(side)[0].kind) == "wall that is there"]
    expected = {side: "wall that is there" if side in walls else "kerb" for side in sides}
    assert {side: str(run.plan.what) for side, run in there.runs.items()} == expected and "kerb" in expected.values()
    assert Entry.objects.filter(job=world.job, kind="edge").count() == len(sides)
    wrong = post(world, "plans", **KERB | {"length": "9", "round": "true"})
    assert wrong.status_code == 422 and "Side 1: between" in wrong.content.decode()
    assert Entry.objects.filter(job=world.job, kind="edge").count() == len(sides)
    page = world.client("crew").get(f"/jobs/{world.job.id}/edges/?side=0&plan=1").content.decode()
    assert "holds under wheels" in page and "reason-for" in page


def test_a_run_is_taped_from_a_string_over_both_ends(kerbed) -> None:
    last = kerbed.assessment().edges.runs[0].last
    page = kerbed.client("crew").get(f"/jobs/{kerbed.job.id}/edges/?side=0&over=100").content.decode()
    assert "set the first joint and the last by level" in page and 'id="target"' not in page
    top(kerbed, 0), top(kerbed, last)
    page = kerbed.client("crew").get(f"/jobs/{kerbed.job.id}/edges/?side=0&over=100").content.decode()
    assert 'name="over" value="100"' in page and 'name="joint" value="1"' in page
    target = kerbed.assessment().edges.string(0, 0.1).target(1)
    edge = kerbed.assessment().edges.runs[0].plan.id
    low = post(kerbed, "strings", side="0", edge=edge, joint="1", over="100", reading=f"{target * 1000 + 12:.0f}")
    assert "joint 1: lift it, bed it 12 mm higher" in low.content.decode()
    for fields, says in (({"joint": "0"}, "tied there"), ({"over": "900"}, "between"), ({"reading": "x"}, "x")):
        typed = {"side": "0", "edge": edge, "joint": "1", "over": "100", "reading": "100"} | fields
        answer = post(kerbed, "strings", **typed)
        assert answer.status_code == 422 and says in answer.content.decode(), fields
    for odd in ("over=x", "over=-5", "over=99999", f"over={'9' * 400}"):
        assert kerbed.client("crew").get(f"/jobs/{kerbed.job.id}/edges/?side=0&{odd}").status_code == 200


def test_what_has_to_set_and_the_board_that_is_out_are_said(kerbed) -> None:
    edge = kerbed.assessment().edges.runs[0].plan.id
    answer = post(kerbed, "beds", side="0", edge=edge, at="2026-03-05T15:30", degrees="20").content.decode()
    # Cars: 2 160 °C·h at 20 °C and a datum of −10 are 72 hours; a day to lay against it.
    assert "Bed and haunch made 5 Mar, 15:30" in answer and "Lay against it from 6 Mar, 15:30" in answer
    assert "the plate comes near from 8 Mar, 15:30" in answer
    frost = post(kerbed, "beds", side="0", edge=edge, at="", degrees="-2").content.decode()
    assert "In frost it does not set" in frost
    assert post(kerbed, "beds", side="0", edge=edge, at="yesterday", degrees="20").status_code == 422
    assert post(kerbed, "beds", side="0", edge=edge, at="0001-01-01T00:00", degrees="20").status_code == 422
    ahead = post(kerbed, "beds", side="0", edge=edge, at="2126-03-05T15:30", degrees="20")
    assert ahead.status_code == 422 and "That is still to come" in ahead.content.decode()
    post(kerbed, "plans", **KERB | {"side": "1", "what": "form", "length": "2.4", "joint": "0"})
    form = kerbed.assessment().edges.runs[1].plan.id
    assert "Board 1 is out" in post(kerbed, "boards", side="1", edge=form, board="1", out="true").content.decode()
    second = post(kerbed, "boards", side="1", edge=form, board="2", out="true")
    assert second.status_code == 422 and "One board at a time" in second.content.decode()
    assert "Every board is in" in post(kerbed, "boards", side="1", edge=form, board="1").content.decode()
    told = kerbed.client("lead").get(f"/jobs/{kerbed.job.id}/record/").content.decode()
    assert "board 1 left out" in told and "about 20 °C" in told


def test_the_width_is_said_before_the_edge_is_fixed(world) -> None:
    at = f"/jobs/{world.job.id}/edges/?side=0"
    page = world.client("crew").get(at).content.decode()
    assert "whole units" in page
    asked = f"{at}&across=100&along=200&usual=2&least=2&most=5"
    assert "For joints of 2 mm the edge moves" in world.client("crew").get(asked).content.decode()
    for odd in ("across=0", "across=x", "least=9&most=2", "across="):
        answer = world.client("crew").get(f"{at}&across=100&along=200&usual=2&least=2&most=5&{odd}")
        assert answer.status_code == 200


def test_all_round_arrives_from_where_there_was_no_signal(world) -> None:
    sent = {"entry_id": str(uuid.uuid4()), **KERB, "round": "true"}
    headers = {"Accept": "application/json", "Nivelum-Person": str(world.people["crew"].pk)}
    where = f"/jobs/{world.job.id}/edges/plans/"
    for _turn in range(2):
        answer = world.client("crew").post(where, sent, headers=headers).json()
        assert answer["written"] == sent["entry_id"]
    sides = len(world.assessment().site.outline)
    assert Entry.objects.filter(job=world.job, kind="edge").count() == sides
    refused = world.client("crew").post(where, sent | {"entry_id": str(uuid.uuid4()), "length": "9"}, headers=headers)
    assert refused.json()["refused"] == "wrong" and "Side 1" in refused.json()["message"]
