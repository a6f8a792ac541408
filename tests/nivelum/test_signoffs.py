"""Signing the dig."""

import uuid

import pytest
from tests.conftest import World

from nivelum.jobs.models import Entry


def sign(world: World, role: str = "lead", **more):
    seen = world.assessment().stages.evidence_hash("excavation")
    data = {"entry_id": uuid.uuid4(), "stage": "excavation", "seen": seen} | more
    return world.client(role).post(f"/jobs/{world.job.id}/sign-offs/sign/", data)


def count(world: World) -> int:
    return Entry.objects.filter(job=world.job, kind="sign_off", body__stage="excavation").count()


def test_a_sound_dig_is_signed_with_its_evidence_frozen(world: World) -> None:
    world.shoot_all()
    assert sign(world).status_code == 302
    body = Entry.objects.get(job=world.job, kind="sign_off", body__stage="excavation").body
    assert body["evidence"] == world.assessment().stages.evidence_of("excavation")
    assert len(body["evidence"]["stations"]) == len(world.assessment().job.stations)
    page = world.client("viewer").get(f"/jobs/{world.job.id}/sign-offs/?stage=excavation").content.decode()
    assert "Lead Person" in page and "Signed. Go on." in page


def test_one_station_too_high_blocks_the_sign_off_until_it_is_dug(world: World) -> None:
    world.shoot_all()
    world.shoot("A1", high_mm=30)
    response = sign(world)
    assert response.status_code == 422 and "Something holds this stage" in response.content.decode()
    assert count(world) == 0
    world.shoot("A1")
    assert sign(world).status_code == 302


def test_what_is_signed_is_what_was_on_the_screen(world: World) -> None:
    world.shoot_all()
    on_screen = world.assessment().stages.evidence_hash("excavation")
    world.shoot("A1", high_mm=5)
    response = sign(world, seen=on_screen)
    assert response.status_code == 422 and "Look again" in response.content.decode()
    assert count(world) == 0


def test_a_later_reading_overtakes_and_a_new_sign_off_supersedes(world: World) -> None:
    world.shoot_all()
    sign(world)
    world.shoot("A1", high_mm=30)
    assert world.assessment().stages.of("excavation").gate == "overtaken"
    assert sign(world).status_code == 422
    world.shoot("A1")
    world.shoot("A2", high_mm=-50)
    world.record(_stone("A2"))
    world.shoot("A2")
    assert world.assessment().stages.of("excavation").gate == "overtaken"
    assert sign(world, "engineer").status_code == 302
    first, second = Entry.objects.filter(job=world.job, kind="sign_off", body__stage="excavation")
    assert second.body["supersedes"] == str(first.id) and first.body["supersedes"] is None
    assert world.assessment().stages.of("excavation").gate == "signed"


def _stone(station: str):
    from groundwork.entries import Fill

    return Fill(str(uuid.uuid4()), station, "stone")


def test_the_same_sign_off_sent_twice_is_written_once(world: World) -> None:
    world.shoot_all()
    same = {"entry_id": uuid.uuid4(), "seen": world.assessment().stages.evidence_hash("excavation")}
    assert [sign(world, **same).status_code, sign(world, **same).status_code] == [302, 302]
    again = sign(world)
    assert again.status_code == 422 and "Lead Person has signed" in again.content.decode()
    assert count(world) == 1


@pytest.mark.parametrize("harm", [{"entry_id": "x"}, {"seen": ""}, {"seen": "y" * 100}, {"seen": "0" * 64}])
def test_a_sign_off_made_up_by_hand_is_refused(world: World, harm: dict) -> None:
    world.shoot_all()
    assert sign(world, **harm).status_code == 422
    assert count(world) == 0
