"""Who signs: PINs on a shared tablet, two people, taking back; what is looked at, photographed and measured."""

import io
import uuid
from datetime import timedelta

import pytest
from django.core.exceptions import ValidationError
from django.test import Client
from django.utils import timezone
from PIL import Image
from tests.conftest import PASSWORD, World, make_world
from tests.nivelum.test_record import shared_world, together  # noqa: F401 (a fixture)

from nivelum.crews.models import PinTry
from nivelum.crews.pins import NotProven, prove, set_pin
from nivelum.jobs.models import Entry

PIN = "2580"


@pytest.fixture
def pinned(world: World) -> World:
    for role in ("lead", "crew", "engineer"):
        set_pin(world.people[role], PIN)
    return world


def post(world: World, what: str, data: dict, role: str = "crew", client: Client | None = None):
    data = {"entry_id": uuid.uuid4(), "stage": "excavation"} | data
    return (client or world.client(role)).post(f"/jobs/{world.job.id}/sign-offs/{what}/", data)


def signing(world: World, stage: str = "excavation", **more) -> dict:
    return {"stage": stage, "seen": world.assessment().stages.evidence_hash(stage), "slot": "lead"} | more


def test_the_lead_signs_on_the_crews_tablet_with_a_pin(pinned: World) -> None:
    pinned.shoot_all()
    lead = pinned.people["lead"]
    assert post(pinned, "sign", signing(pinned, signer=lead.pk, pin=PIN)).status_code == 302
    entry = Entry.objects.get(job=pinned.job, kind="sign_off", body__stage="excavation")
    assert (entry.by, entry.body["proof"]["by"]) == (lead, "pin")
    assert entry.body["proof"]["on_the_session_of"] == pinned.people["crew"].pk
    assert pinned.people["lead"].pin.startswith("md5$") and PIN not in str(entry.body)


def test_a_wrong_pin_is_said_beside_the_field_and_what_was_chosen_stays(pinned: World) -> None:
    pinned.shoot_all()
    lead = pinned.people["lead"]
    answer = post(pinned, "sign", signing(pinned, signer=lead.pk, pin="0000"))
    assert answer.status_code == 422 and "Name and PIN do not fit" in answer.content.decode()
    assert f'value="{lead.pk}" selected' in answer.content.decode()
    assert pinned.assessment().stages.of("excavation").gate == "ready to sign"


def test_who_may_not_sign_does_not_by_a_right_pin(pinned: World) -> None:
    pinned.shoot_all()
    crew = pinned.people["crew"]
    assert post(pinned, "sign", signing(pinned, signer=crew.pk, pin=PIN), role="lead").status_code == 403
    assert post(pinned, "sign", signing(pinned), role="crew").status_code == 403
    assert post(pinned, "sign", signing(pinned), role="viewer").status_code == 403
    stranger = make_world(name="Others")
    set_pin(stranger.people["lead"], PIN)
    theirs = post(pinned, "sign", signing(pinned, signer=stranger.people["lead"].pk, pin=PIN))
    assert theirs.status_code == 422 and "Name and PIN do not fit" in theirs.content.decode()


def tried(world: World, person: str, device: str, pin: str = "0000") -> str:
    try:
        prove(world.crew, world.people[person].pk, pin, device)
    except NotProven as error:
        return str(error)
    return "in"


def test_guessing_is_locked_out_by_person_and_device_and_nobody_else_is(pinned: World) -> None:
    said = [tried(pinned, "lead", "tablet") for _ in range(6)]
    assert ["do not fit" in s for s in said] == [True] * 5 + [False] and "Too many" in said[5]
    assert "Too many" in tried(pinned, "lead", "tablet", PIN)  # the right one too, for a quarter of an hour
    assert tried(pinned, "crew", "tablet", PIN) == "in" and tried(pinned, "lead", "phone", PIN) == "in"
    for _ in range(5):
        tried(pinned, "crew", "tablet")
    assert "Too many" in tried(pinned, "engineer", "tablet", PIN)  # ten wrong ones on this device
    assert tried(pinned, "engineer", "phone", PIN) == "in"
    PinTry.objects.update(at=timezone.now() - timedelta(minutes=16))
    assert tried(pinned, "lead", "tablet", PIN) == "in"


def test_a_pin_rests_after_twenty_wrong_tries_a_day_on_ever_new_devices_and_the_password_still_opens(pinned) -> None:
    for n in range(20):
        tried(pinned, "lead", f"device {n}")
    assert "Too many" in tried(pinned, "lead", "yet another", PIN)
    name = pinned.people["lead"].username
    assert Client().post("/sign-in/", {"login": name, "password": PASSWORD}).status_code == 302
    assert tried(pinned, "crew", "yet another", PIN) == "in"


def test_right_pins_do_not_add_up_to_a_lock(pinned: World) -> None:
    assert {tried(pinned, "lead", "tablet", PIN) for _ in range(12)} == {"in"}
    assert not PinTry.objects.exists()


def test_many_guesses_at_once_are_no_more_than_many_in_a_row(shared_world: World) -> None:  # noqa: F811
    set_pin(shared_world.people["lead"], PIN)
    said = together(*(lambda: tried(shared_world, "lead", "tablet") for _ in range(12)))
    assert sum("do not fit" in str(s) for s in said) == 5 and sum("Too many" in str(s) for s in said) == 7, said


def test_neither_words_nor_work_tell_whether_there_is_such_a_person(pinned: World, settings) -> None:
    """Hashing is what takes the time: each try does as many rounds of it, whoever is named."""
    from django.contrib.auth.hashers import PBKDF2PasswordHasher

    from nivelum.crews import pins

    rounds = []

    class Counted(PBKDF2PasswordHasher):
        iterations = 1_500

        def encode(self, password, salt, iterations=None):
            rounds.append(iterations or self.iterations)
            return super().encode(password, salt, iterations)

    hasher = f"{__name__}.Counted"
    globals()["Counted"] = Counted
    settings.PASSWORD_HASHERS = [hasher, "django.contrib.auth.hashers.MD5PasswordHasher"]
    pins._nobodys.cache_clear()
    set_pin(pinned.people["lead"], PIN)
    nobody = max(p.pk for p in pinned.people.values()) + 10_000
    people = [pinned.people["lead"].pk, nobody, pinned.people["viewer"].pk]
    worked, words = {who: [] for who in people}, set()
    for n in range(3):
        for who in people:
            rounds.clear()
            with pytest.raises(NotProven) as error:
                prove(pinned.crew, who, "0000", f"{who} {n}")
            worked[who].append(sum(rounds))
            words.add(str(error.value))
    pins._nobodys.cache_clear()
    assert len(words) == 1
    assert [each[1:] for each in worked.values()] == [[1_500, 1_500]] * 3  # the first may make what nobody has


@pytest.mark.parametrize("pin", ["", "12", "123456789", "12ab", "1234", "9876", "7777", "²³45"])
def test_a_poor_pin_is_refused(world: World, pin: str) -> None:
    with pytest.raises(ValidationError):
        set_pin(world.people["lead"], pin)


def test_one_sets_ones_own_pin_on_ones_own_page(world: World) -> None:
    client, where = world.client("crew"), "/you/pin/"
    wrong = client.post(where, {"pin": "2580", "again": "2581"})
    assert wrong.status_code == 422 and "That is another one" in wrong.content.decode()
    assert client.post(where, {"pin": "1111", "again": "1111"}).status_code == 422
    assert client.post(where, {"pin": "2580", "again": "2580"}).status_code == 302
    assert tried(world, "crew", "x", "2580") == "in"


def proved(world: World) -> None:
    """Everything up to the base proof signed, and the base shot."""
    for stage in ("excavation", "subgrade", "base-lifts"):
        world.make(stage)
        world.sign(stage)
    world.make("base-proof")
    world.look("base-proof")


def test_a_second_look_is_somebody_elses_and_both_stand_on_the_same_evidence(pinned: World) -> None:
    proved(pinned)
    lead, crew = pinned.people["lead"], pinned.people["crew"]
    stage = {"stage": "base-proof"}
    assert post(pinned, "sign", stage | signing(pinned, "base-proof", signer=lead.pk, pin=PIN)).status_code == 302
    half = pinned.assessment().stages.of("base-proof")
    assert (half.gate, [str(s) for s in half.awaits]) == ("ready to sign", ["second look"])
    second = stage | signing(pinned, "base-proof", slot="second look")
    again = post(pinned, "sign", second | {"signer": lead.pk, "pin": PIN})
    assert again.status_code == 422 and "somebody else signs this" in again.content.decode()
    assert post(pinned, "sign", second | {"slot": "engineer"}, role="engineer").status_code == 422
    assert post(pinned, "sign", second).status_code == 302
    whole = pinned.assessment().stages.of("base-proof")
    assert whole.gate == "signed" and {s.by for s in whole.signed.values()} == {lead.name, crew.name}
    first, other = Entry.objects.filter(job=pinned.job, kind="sign_off", body__stage="base-proof")
    assert other.body["joins"] == str(first.id) and other.body["evidence"] == first.body["evidence"]


def test_a_signature_is_taken_back_by_its_signer_or_lead_with_a_reason_and_stays_in_the_record(pinned: World) -> None:
    pinned.shoot_all()
    signed = pinned.sign("excavation", "engineer")
    back = {"withdraws": str(signed.id), "reason": "signed the wrong one"}
    assert post(pinned, "take-back", back, role="crew").status_code == 403
    short = post(pinned, "take-back", back | {"reason": "no"}, role="engineer")
    assert short.status_code == 422 and "at least 8 characters" in short.content.decode()
    assert post(pinned, "take-back", back, role="lead").status_code == 302
    assert pinned.assessment().stages.of("excavation").gate == "ready to sign"
    page = pinned.client("viewer").get(f"/jobs/{pinned.job.id}/sign-offs/?stage=excavation").content.decode()
    assert "took the sign-off back" in page and "signed the wrong one" in page
    again = post(pinned, "take-back", back, role="lead")
    assert again.status_code == 422 and "taken back already" in again.content.decode()
    assert Entry.objects.filter(job=pinned.job, id=signed.id).exists()
    assert post(pinned, "take-back", back | {"withdraws": "x"}, role="lead").status_code == 422
    assert post(pinned, "take-back", back | {"withdraws": str(uuid.uuid4())}, role="lead").status_code == 422


def test_an_acceptance_by_pin_and_taken_back(pinned: World) -> None:
    pinned.shoot_all()
    pinned.shoot("A1", high_mm=40)
    (stop,) = [f for f in pinned.assessment().stages.of("excavation").stops if f.rule == "D02"]
    lead = pinned.people["lead"]
    taken = {"finding": stop.identity, "reason": "rock, left as it is", "signer": lead.pk, "pin": PIN}
    assert post(pinned, "accept", taken | {"signer": "", "pin": ""}, role="crew").status_code == 403
    assert post(pinned, "accept", taken).status_code == 302
    assert pinned.assessment().stages.of("excavation").gate == "ready to sign"
    pinned.sign("excavation")
    signed = pinned.assessment().stages.of("excavation")
    assert signed.gate == "signed with acceptances" and signed.acceptances[0].by == lead.name
    accepted = Entry.objects.get(job=pinned.job, kind="acceptance")
    back = {"withdraws": str(accepted.id), "reason": "it was broken out"}
    assert post(pinned, "take-back", back, role="lead").status_code == 302
    assert "D02" in {f.rule for f in pinned.assessment().stages.of("excavation").stops}


def test_what_nobody_may_accept_is_refused(pinned: World) -> None:
    pinned.set_up()
    pinned.shoot("A1")
    stop = next(f for f in pinned.assessment().stages.of("excavation").stops if f.rule == "G06")
    refused = post(pinned, "accept", {"finding": stop.identity, "reason": "no time to look"}, role="lead")
    assert refused.status_code == 422 and "Nobody may accept that" in refused.content.decode()


def jpeg(exif: Image.Exif | None = None) -> io.BytesIO:
    out = io.BytesIO()
    Image.new("RGB", (40, 30), "tan").save(out, "JPEG", **({"exif": exif} if exif else {}))
    out.seek(0)
    out.name = "ground.jpg"
    return out


def placed() -> Image.Exif:
    exif = Image.Exif()
    gps = exif.get_ifd(0x8825)
    gps.update({1: "N", 2: (52.0, 15.0, 30.0), 3: "W", 4: (1.0, 30.0, 0.0)})
    exif[0x8825] = gps
    return exif


def test_questions_are_answered_one_by_one_and_a_no_or_not_here_wants_words(world: World) -> None:
    ask = {"ask": "clean", "answer": "no"}
    silent = post(world, "looks", ask)
    assert silent.status_code == 422 and "Say what you saw" in silent.content.decode()
    kept = post(world, "looks", ask | {"words": "x"})
    assert kept.status_code == 422 and ">x</textarea>" in kept.content.decode()
    assert post(world, "looks", ask | {"words": "a root by the gate"}).status_code == 302
    assert [f.rule for f in world.assessment().stages.of("excavation").stops if f.rule[0] == "G"] == ["G06", "G07"]
    page = world.client("lead").get(f"/jobs/{world.job.id}/sign-offs/?stage=excavation").content.decode()
    no = next(f for f in world.assessment().stages.of("excavation").stops if f.rule == "G07")
    assert page.count("a root by the gate") >= 2 and "Accept it, with a reason" in page
    accepted = {"finding": no.identity, "reason": "it is dead and dry"}
    assert post(world, "accept", accepted, role="lead").status_code == 302
    assert "G07" not in {f.rule for f in world.assessment().stages.of("excavation").stops}
    assert post(world, "looks", {"ask": "clean", "answer": "yes"}).status_code == 302
    assert post(world, "looks", {"ask": "clean", "answer": "maybe"}).status_code == 422
    assert post(world, "looks", {"ask": "nothing", "answer": "yes"}).status_code == 422
    assert post(world, "looks", {"ask": "clean", "answer": "yes", "stage": "nowhere"}).status_code == 404
    assert post(world, "looks", {"ask": "clean", "answer": "yes"}, role="viewer").status_code == 403
    page = world.client("viewer").get(f"/jobs/{world.job.id}/sign-offs/?stage=excavation").content.decode()
    assert "Crew Person" in page and "what wrong looks like" in page


def test_a_photo_answers_its_question_small_upright_and_without_its_place(world: World, settings, tmp_path) -> None:
    settings.MEDIA_ROOT = tmp_path
    sent = {"stage": "subgrade", "ask": "photo", "caption": "north corner", "photo": jpeg(placed())}
    assert post(world, "photos", sent).status_code == 302
    (photo,) = world.assessment().stages.photos("subgrade")
    assert (photo.caption, photo.latitude) == ("north corner", None)
    assert world.assessment().stages.asked("subgrade")[-1].answer == "yes"
    got = world.client("viewer").get(f"/jobs/{world.job.id}/photos/{photo.photo}/")
    assert got.status_code == 200
    assert not Image.open(io.BytesIO(b"".join(got.streaming_content))).getexif()
    world.crew.keeps_places = True
    world.crew.save()
    post(world, "photos", sent | {"photo": jpeg(placed()), "ask": ""})
    second = world.assessment().stages.photos("subgrade")[-1]
    assert (second.latitude, second.longitude) == pytest.approx((52.258333, -1.5))
    for bad, says in (
        ({"photo": io.BytesIO(b"no picture")}, "That is no photo"),
        ({"photo": jpeg(), "caption": ""}, "required"),
        ({"photo": ""}, "required"),
    ):
        refused = post(world, "photos", sent | bad)
        assert refused.status_code == 422 and says in refused.content.decode()
    assert "north corner" in refused.content.decode()
