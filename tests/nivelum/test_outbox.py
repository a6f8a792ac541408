"""What a device is told of an entry it kept without a signal: written once, or refused plainly, with a way on."""

import uuid
from dataclasses import replace
from datetime import timedelta

import pytest
from django.test import Client
from django.utils import timezone
from tests.conftest import World

from groundwork.entries import Reading, Strike
from groundwork.job import Design
from groundwork.measures import Unit, parse_rod
from groundwork.record import first_fault
from nivelum.exchange.services import record_data
from nivelum.jobs.models import Entry
from nivelum.jobs.services import Author, append_value, snapshot

MADE_AT = (timezone.now() - timedelta(hours=3)).replace(second=0, microsecond=0)


def send(world: World, client: Client, path: str, **fields):
    """An entry as a device sends it from its outbox."""
    data = {"entry_id": str(uuid.uuid4()), "device_at": MADE_AT.isoformat()} | fields
    return client.post(f"/jobs/{world.job.id}/{path}", data, headers={"Accept": "application/json"})


def read(world: World, client: Client, station: str = "A1", high_mm: float = 0.0, **fields):
    target = world.assessment().targets.at(station, fields.get("surface", "formation"))
    sent = {
        "station": station,
        "set_up": world.assessment().levels.present.id,
        "reading": f"{(target * 1000 - high_mm):.0f}",
    }
    return send(world, client, "ground/readings/", **sent | fields)


def redesign(world: World, **changed) -> None:
    """The lead changes the base meanwhile: another version of the design."""
    job = world.assessment().job
    layers = list(job.specification.layers)
    layers[-1] = replace(layers[-1], **changed)
    new = replace(job, specification=replace(job.specification, layers=tuple(layers)))
    append_value(world.job, Design(str(uuid.uuid4()), new), Author(world.people["lead"]))


def test_an_entry_is_acknowledged_by_its_identifier_with_the_verdict_and_the_devices_time(world: World) -> None:
    world.set_up()
    client, name = world.client("crew"), str(uuid.uuid4())
    before = snapshot(world.job).number
    answer = read(world, client, high_mm=34, entry_id=name)
    assert answer.json() == {
        "written": name, "number": before + 1, "verdict": {"css": "dig", "says": "dig 34 mm"},
    }  # fmt: skip
    again = read(world, client, high_mm=34, entry_id=name)
    assert again.json()["number"] == before + 1
    (entry,) = Entry.objects.filter(id=name)
    assert entry.device_at == MADE_AT
    assert first_fault(record_data(world.job)["entries"]) is None


def test_a_page_that_fetches_the_pad_is_told_what_was_written_too(world: World) -> None:
    world.set_up()
    client, name = world.client("crew"), str(uuid.uuid4())
    sent = {"entry_id": name, "station": "A1", "set_up": world.assessment().levels.present.id, "reading": "1500"}
    answer = client.post(
        f"/jobs/{world.job.id}/ground/readings/", sent | {"sure": "1500"}, headers={"HX-Request": "true"}
    )
    assert answer["Nivelum-Written"] == name
    assert answer["Nivelum-Person"] == str(world.people["crew"].pk)
    refused = client.post(
        f"/jobs/{world.job.id}/ground/readings/", sent | {"reading": "wet"}, headers={"HX-Request": "true"}
    )
    assert refused.status_code == 422
    assert "Nivelum-Written" not in refused


def test_what_cannot_be_read_is_to_be_mended_where_it_was_typed(world: World) -> None:
    world.set_up()
    answer = read(world, world.client("crew"), reading="4 fathoms")
    assert answer.status_code == 422
    data = answer.json()
    assert data["refused"] == "wrong"
    assert "4 fathoms" in data["message"]
    assert [(way["does"], way["to"]) for way in data["ways"]] == [("mend", "reading")]


def test_a_reading_of_a_struck_set_up_can_be_sent_for_the_one_that_stands(world: World) -> None:
    first = world.set_up()
    client, name = world.client("crew"), str(uuid.uuid4())
    world.record(Strike(str(uuid.uuid4()), str(first.id)))
    second = world.set_up("1310")
    sent = {"entry_id": name, "set_up": str(first.id), "reading": "1560", "sure": "1560"}
    answer = read(world, client, **sent)
    assert answer.json()["refused"] == "set-up"
    ways = {way["does"]: way for way in answer.json()["ways"]}
    assert ways["again"]["sets"] == {"set_up": str(second.id)}
    assert f"/jobs/{world.job.id}/ground/?surface=formation&station=A1" in ways["go"]["to"]
    assert not Entry.objects.filter(id=name).exists()
    assert read(world, client, **sent | ways["again"]["sets"]).json()["written"] == name


def test_a_reading_made_by_another_design_waits_until_its_maker_says_that_it_stands(world: World) -> None:
    world.set_up()
    client, name = world.client("crew"), str(uuid.uuid4())
    version = world.assessment().job.version
    typed = {"entry_id": name, "reading": "1740", "sure": "1740", "answered_version": str(version)}
    redesign(world, thickness=0.2)
    answer = read(world, client, **typed).json()
    assert answer["refused"] == "design"
    assert "At A1 the design lies 50 mm lower now" in answer["message"]
    again = next(way for way in answer["ways"] if way["does"] == "again")
    assert again["sets"] == {"still": str(version + 1)}
    assert read(world, client, **typed | again["sets"]).json()["written"] == name
    # what the change does not touch goes in without a question
    untouched = read(world, client, surface="finished", answered_version=str(version))
    assert "written" in untouched.json()


def test_a_design_changed_twice_is_asked_about_twice(world: World) -> None:
    world.set_up()
    version = world.assessment().job.version
    redesign(world, thickness=0.2)
    redesign(world, thickness=0.25)
    stale = read(world, world.client("crew"), answered_version=str(version), still=str(version + 1))
    assert stale.json()["refused"] == "design"


@pytest.mark.parametrize(
    ("left", "status", "code"), [(False, 403, "role"), (True, 404, "left")], ids=["role withdrawn", "left the crew"]
)
def test_who_may_not_any_more_keeps_what_they_made(world: World, left: bool, status: int, code: str) -> None:
    world.set_up()
    client = world.client("crew")
    membership = world.crew.memberships.get(person=world.people["crew"])
    if left:
        membership.delete()
    else:
        membership.role = "viewer"
        membership.save()
    answer = read(world, client)
    assert (answer.status_code, answer.json()["refused"]) == (status, code)
    assert [way["does"] for way in answer.json()["ways"]] == ["again"]


def test_what_was_written_before_is_acknowledged_though_its_place_is_gone(world: World) -> None:
    world.set_up()
    client, name = world.client("crew"), str(uuid.uuid4())
    sent = {
        "entry_id": name,
        "station": "A3",
        "set_up": world.assessment().levels.present.id,
        "reading": "1700",
        "sure": "1700",
    }
    assert "written" in send(world, client, "ground/readings/", **sent).json()
    new = replace(world.assessment().job, station_spacing=3.5)
    append_value(world.job, Design(str(uuid.uuid4()), new), Author(world.people["lead"]))
    assert "A3" not in world.assessment().surveys.ground
    again = send(world, client, "ground/readings/", **sent).json()
    assert (again["written"], again["verdict"]) == (name, None)


def test_what_was_made_on_a_stage_that_is_no_more_is_said_so(world: World) -> None:
    answer = send(world, world.client("crew"), "sign-offs/looks/", stage="no-such", ask="clean", answer="yes")
    assert (answer.status_code, answer.json()["refused"]) == (422, "gone")


def test_nobody_sends_what_another_made(world: World) -> None:
    world.set_up()
    before = snapshot(world.job).number
    hers = {"Accept": "application/json", "Nivelum-Person": str(world.people["crew"].pk)}
    sent = {
        "entry_id": str(uuid.uuid4()),
        "station": "A1",
        "reading": "1500",
        "set_up": world.assessment().levels.present.id,
    }
    for accepts in (hers, {**hers, "Accept": "text/html", "HX-Request": "true"}):
        answer = world.client("lead").post(f"/jobs/{world.job.id}/ground/readings/", sent, headers=accepts)
        assert (answer.status_code, answer.json()["refused"]) == (409, "person")
    assert snapshot(world.job).number == before


def test_a_device_that_is_signed_out_is_told_so_and_not_led_to_a_page(world: World) -> None:
    for headers in ({"Accept": "application/json"}, {"HX-Request": "true"}):
        assert Client().post(f"/jobs/{world.job.id}/ground/readings/", {}, headers=headers).status_code == 401
    assert Client().get(f"/jobs/{world.job.id}/ground/").status_code == 302


def test_a_doubtful_reading_is_kept_once_whoever_read_it_says_so(world: World) -> None:
    world.set_up()
    for station in ("A2", "A3", "B1", "B2"):
        world.shoot(station)
    client, name = world.client("crew"), str(uuid.uuid4())
    typed = {"entry_id": name, "reading": f"{world.assessment().targets.at('A1') * 1000 + 100:.0f}"}
    answer = read(world, client, **typed).json()
    assert answer["refused"] == "doubt"
    assert [way["does"] for way in answer["ways"]] == ["again", "mend", "go"]
    assert read(world, client, **typed | answer["ways"][0]["sets"]).json()["written"] == name


@pytest.fixture
def dug(world: World) -> World:
    world.shoot_all()
    return world


def sign(world: World, role: str = "lead", *, seen: str, number: int):
    fields = {"stage": "excavation", "slot": "lead", "seen": seen, "answered_number": str(number)}
    return send(world, world.client(role), "sign-offs/sign/", **fields)


def again(world: World, role: str, low: float = 0.003) -> None:
    """Somebody reads A1 once more, good as it was."""
    assessment = world.assessment()
    typed = parse_rod(f"{assessment.targets.at('A1') + low:.4f}", Unit.METRES)
    world.record(Reading(str(uuid.uuid4()), "A1", assessment.levels.set_up.id, typed), role)


def test_what_a_signer_recorded_since_they_looked_is_known_to_them(dug: World) -> None:
    seen, number = dug.assessment().stages.evidence_hash("excavation"), snapshot(dug.job).number
    again(dug, "lead")
    assert dug.assessment().stages.evidence_hash("excavation") != seen
    answer = sign(dug, seen=seen, number=number)
    assert "written" in answer.json(), answer.json()
    assert Entry.objects.get(id=answer.json()["written"]).body["seen_at"] == number


def test_what_others_recorded_since_is_not(dug: World) -> None:
    seen, number = dug.assessment().stages.evidence_hash("excavation"), snapshot(dug.job).number
    again(dug, "lead")
    again(dug, "crew", 0.005)
    answer = sign(dug, seen=seen, number=number).json()
    assert answer["refused"] == "overtaken"
    assert answer["ways"][0]["to"] == f"/jobs/{dug.job.id}/sign-offs/?stage=excavation"


@pytest.mark.parametrize("number", [0, 1, 10**6])
def test_a_signature_that_lies_about_what_was_seen_is_refused(dug: World, number: int) -> None:
    seen = dug.assessment().stages.evidence_hash("excavation")
    again(dug, "lead")
    assert sign(dug, seen=seen, number=number).json()["refused"] in ("overtaken", "wrong")


def test_a_stage_signed_by_someone_else_meanwhile_is_not_signed_again(dug: World) -> None:
    seen, number = dug.assessment().stages.evidence_hash("excavation"), snapshot(dug.job).number
    dug.sign("excavation", "engineer")
    answer = sign(dug, seen=seen, number=number).json()
    assert answer["refused"] == "signed"
    assert "Engineer Person has signed this stage already." in answer["message"]


def test_a_stage_that_something_holds_is_not_signed(dug: World) -> None:
    seen, number = dug.assessment().stages.evidence_hash("excavation"), snapshot(dug.job).number
    dug.shoot("A1", 60)
    assert sign(dug, seen=seen, number=number).json()["refused"] == "held"


def test_the_worker_and_what_a_phone_installs_are_there_for_anyone(db) -> None:
    client = Client()
    worker = client.get("/worker.js")
    assert worker["Content-Type"].startswith("text/javascript")
    files = worker.content.decode().split(";\n", 1)[0]
    assert "built" in files
    assert "archivo" in files
    manifest = client.get("/app.webmanifest").json()
    assert {icon["sizes"] for icon in manifest["icons"]} == {"192x192", "512x512"}
    assert (client.get("/signal/").status_code, client.get("/signal/")["Nivelum-Signal"]) == (204, "yes")


def test_every_address_taken_along_opens(world: World) -> None:
    client = world.client("crew")
    lists = client.get(f"/jobs/{world.job.id}/rooms.json").json()
    assert not set(lists["rooms"]) & set(lists["all"])
    assert set(lists["also"]) < set(lists["rooms"])
    for address in [*lists["rooms"], *lists["also"].values(), *lists["all"]]:
        assert client.get(address).status_code == 200, address


def test_the_diary_says_when_something_that_came_late_was_made(world: World) -> None:
    world.set_up()
    client = world.client("crew")
    read(world, client)
    page = client.get(f"/jobs/{world.job.id}/record/").content.decode()
    assert page.count(f"made at {MADE_AT:%-d %b, %H:%M} by their device’s clock") == 1
