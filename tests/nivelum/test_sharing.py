"""Links: what they show, to whom, for how long; and who gets where in all, by role, route and method."""

import hashlib
import re
import uuid
from dataclasses import replace
from datetime import timedelta

import pytest
from django.test import Client
from django.urls import reverse
from django.utils import timezone
from tests.conftest import DRAINED_PAD, World, made, make_world
from tests.nivelum.test_access import ROUTES, address
from tests.nivelum.test_proving import PIN, jpeg, post

from groundwork.job import site_data
from nivelum.crews.models import CrewRole
from nivelum.crews.pins import set_pin
from nivelum.crews.policy import MAY, Verb
from nivelum.jobs.models import Entry
from nivelum.jobs.services import Author, append
from nivelum.records.page import Part
from nivelum.sharing.models import For, Share
from nivelum.sharing.services import make_share

EVERY = tuple(Part)


def link(world: World, parts=EVERY, whom: For = For.CLIENT, days: int = 30, engineer=None) -> str:
    return make_share(world.visit("lead"), whom, "the client", parts, days, engineer)[1]


def test_a_lead_makes_a_link_that_is_shown_once_and_kept_only_as_a_hash(world: World) -> None:
    data = {"label": "The chandler", "whom": "client", "days": "14", "parts": ["stages", "handover"]}
    answer = world.client("lead").post(f"/jobs/{world.job.id}/shares/", data)
    token = re.search(r"/shared/([\w-]{20,})/", answer.content.decode())[1]
    share = Share.objects.get(job=world.job)
    assert share.token_hash == hashlib.sha256(token.encode()).hexdigest() and token not in str(vars(share))
    assert b"data:image/svg+xml" in answer.content
    page = world.client("lead").get(f"/jobs/{world.job.id}/shares/").content.decode()
    assert "The chandler" in page and token not in page
    seen = Client().get(f"/shared/{token}/")
    assert seen.status_code == 200 and "Brief and levels" in seen.content.decode()
    assert seen["Referrer-Policy"] == "same-origin" and "no-store" in seen["Cache-Control"]
    share.refresh_from_db()
    assert share.opened_at is not None


@pytest.mark.parametrize(
    "harm", [{"label": ""}, {"days": "0"}, {"days": "9999"}, {"parts": []}, {"parts": ["all"]}, {"whom": "king"},
             {"whom": "engineer"}, {"whom": "engineer", "engineer": "999999"}],
)  # fmt: skip
def test_a_link_asked_for_wrongly_is_not_made_and_nothing_typed_is_lost(world: World, harm: dict) -> None:
    data = {"label": "The chandler", "whom": "client", "days": "14", "parts": ["stages"]} | harm
    answer = world.client("lead").post(f"/jobs/{world.job.id}/shares/", data)
    assert answer.status_code == 422 and not Share.objects.exists()
    assert str(data["days"]) in answer.content.decode() and "wrong" in answer.content.decode()


def test_what_a_link_shows_is_what_was_chosen(world: World, settings, tmp_path) -> None:
    settings.MEDIA_ROOT = tmp_path
    world.shoot_all()
    world.sign("excavation")
    post(world, "photos", {"stage": "subgrade", "ask": "photo", "caption": "north corner", "photo": jpeg()})
    photo = world.assessment().stages.photos("subgrade")[0].photo
    number = Entry.objects.get(kind="sign_off", body__stage="excavation").number
    told = {
        Part.STAGES: "limit 20 mm above", Part.DEVIATIONS: "Nothing was accepted", Part.DIARY: "Diary",
        Part.HANDOVER: "Walk on it from", Part.PHOTOS: "north corner", Part.DRAWINGS: f"signed-{number}.svg",
    }  # fmt: skip
    for part in told:
        token = link(world, (part,))
        page = Client().get(f"/shared/{token}/").content.decode()
        shown = {p for p, w in told.items() if w in page}
        assert shown - ({Part.PHOTOS} if part is Part.DIARY else set()) == {part}  # the diary tells of photos too
        assert (Client().get(f"/shared/{token}/photos/{photo}/").status_code == 200) == (part is Part.PHOTOS)
        assert (Client().get(f"/shared/{token}/signed-{number}.svg").status_code == 200) == (part is Part.DRAWINGS)
        assert (Client().get(f"/shared/{token}/handover.ics").status_code == 200) == (part is Part.HANDOVER)
    assert made(Client(), f"/shared/{link(world, (Part.STAGES,))}/record.pdf").content.startswith(b"%PDF")


def test_a_link_ends_by_its_time_or_when_it_is_withdrawn(world: World) -> None:
    token = link(world)
    share = Share.objects.get()
    assert Client().get(f"/shared/{token}/").status_code == 200
    where = f"/jobs/{world.job.id}/shares/withdrawn/"
    assert world.client("crew").post(where, {"share": share.id}).status_code == 403
    assert make_world(name="Others").client("lead").post(where, {"share": share.id}).status_code == 404
    assert world.client("lead").post(where, {"share": "x"}).status_code == 404
    assert world.client("lead").post(where, {"share": share.id}).status_code == 302
    ended = Client().get(f"/shared/{token}/")
    assert ended.status_code == 410 and b"This link has ended" in ended.content and b"Test pad" not in ended.content
    late = link(world)
    Share.objects.exclude(id=share.id).update(expires_at=timezone.now() - timedelta(seconds=1))
    for leaf in ("", "record.pdf", "handover.ics", "signed-3.svg", f"photos/{'0' * 64}/"):
        assert Client().get(f"/shared/{late}/{leaf}").status_code == 410
    assert Client().get("/shared/made-up/").status_code == 404


HEAVY = DRAINED_PAD.replace('"traffic": "drive"', '"traffic": "heavy", "engineer": "M. Voss"')


@pytest.fixture
def heavy(db) -> World:
    world = make_world(job_file=HEAVY, brief_signed=False)
    set_pin(world.people["engineer"], PIN)
    world.look("brief")
    return world


def test_an_engineer_signs_through_their_link_with_their_pin_beside_the_lead(heavy: World) -> None:
    for stop in heavy.assessment().stages.of("brief").stops:
        post(heavy, "accept", {"stage": "brief", "finding": stop.identity, "reason": "by my own design"}, "engineer")
    heavy.sign("brief")
    assert [str(s) for s in heavy.assessment().stages.of("brief").awaits] == ["engineer"]
    token = link(heavy, (Part.STAGES,), For.ENGINEER, engineer=heavy.people["engineer"])
    client = Client(enforce_csrf_checks=False)
    page = client.get(f"/shared/{token}/").content.decode()
    assert "What waits for Engineer Person" in page and "Lead Person has signed" in page
    seen = heavy.assessment().stages.evidence_hash("brief")
    data = {"entry_id": uuid.uuid4(), "stage": "brief", "seen": seen, "slot": "engineer", "pin": "0000"}
    wrong = client.post(f"/shared/{token}/sign/", data)
    assert wrong.status_code == 422 and "Name and PIN do not fit" in wrong.content.decode()
    assert client.post(f"/shared/{token}/sign/", data | {"pin": PIN}).status_code == 302
    assert heavy.assessment().stages.of("brief").gate.is_signed
    entry = Entry.objects.get(kind="sign_off", body__slot="engineer")
    assert entry.by == heavy.people["engineer"] and entry.body["proof"]["by"] == "link"
    plain = link(heavy)
    assert client.post(f"/shared/{plain}/sign/", data | {"pin": PIN}).status_code == 404


def test_an_engineer_accepts_a_structural_stop_through_their_link_and_no_longer_once_they_have_left(heavy) -> None:
    thin = replace(heavy.assessment().job.specification, layers=tuple(
        replace(x, thickness=0.08) if x.role == "base" else x for x in heavy.assessment().job.specification.layers
    ))  # fmt: skip
    changed = replace(heavy.assessment().job, specification=thin)
    append(heavy.job, "design", site_data(changed), Author(heavy.people["lead"]))
    (stop,) = [f for f in heavy.assessment().stages.of("brief").stops if f.structural]
    token = link(heavy, (Part.STAGES,), For.ENGINEER, engineer=heavy.people["engineer"])
    data = {"entry_id": uuid.uuid4(), "stage": "brief", "pin": PIN, "reason": "checked by calculation"}
    data["finding"] = stop.identity
    assert Client().post(f"/shared/{token}/accept/", data | {"reason": "ok"}).status_code == 422
    assert Client().post(f"/shared/{token}/accept/", data).status_code == 302
    assert heavy.assessment().stages.of("brief").acceptances[0].role == "engineer"
    heavy.crew.memberships.filter(person=heavy.people["engineer"]).delete()
    gone = Client().post(f"/shared/{token}/accept/", data | {"entry_id": uuid.uuid4()})
    assert gone.status_code == 422 and "Name and PIN do not fit" in gone.content.decode()
    assert "What waits" in Client().get(f"/shared/{token}/").content.decode()


# What each role may do at each address, for reading and for sending; a stranger is told that nothing is there.
READS = {
    "job", "base", "base-news", "falls", "schools", "strength", "brief", "ground", "ground-now", "surface", "book",
    "targets", "water", "lifts", "lifts-now", "spread-targets", "lift-tests", "subgrade", "pour",
    "deliveries", "set-out", "set-out-now", "services", "strings", "square", "sign-offs", "sign-offs-now", "photo",
    "record-page", "record", "signed-drawing", "handover-calendar", "company", "job-file", "surface-file", "outline",
    "rooms", "field-sheet", "rails", "rails-now", "bed-thickness", "trial", "edges", "edges-now",
    "bays", "bays-now", "mortar", "layout", "layout-now", "layout-best", "courses", "courses-now", "cuts", "cuts-now",
    "packs", "layout-file", "lessons", "seating", "seating-now", "units", "units-now", "filling", "filling-now",
    "order", "order-now", "order-csv", "orders", "orders-now", "order-sheet", "orders-calendar", "hours", "hours-now",
    "days", "days-now", "programme", "programme-now", "programme-why", "programme-tried", "programme-calendar",
    "setting", "setting-now", "forecasts",
}  # fmt: skip
PAID = {"costs", "costs-now", "compare", "estimate-pdf"}
"""Where money is shown."""
MEASURED = {"level", "probe", "lifts-more"}
SENDS = {
    "set-up": Verb.MEASURE, "reading": Verb.MEASURE, "fill": Verb.MEASURE, "strike": Verb.MEASURE,
    "hold": Verb.MEASURE, "sight": Verb.MEASURE, "fall": Verb.MEASURE, "correct": Verb.MEASURE,
    "disturb": Verb.MEASURE,
    "strike-work": Verb.MEASURE, "work": Verb.MEASURE, "length": Verb.MEASURE, "drop-length": Verb.MEASURE,
    "peg-move": Verb.MEASURE, "margin": Verb.MEASURE, "sign": Verb.MEASURE, "accept": Verb.MEASURE,
    "take-back": Verb.MEASURE, "look": Verb.MEASURE, "picture": Verb.MEASURE,
    "choose-lifts": Verb.DESIGN, "keep-base": Verb.DESIGN, "keep-falls": Verb.DESIGN, "take-school": Verb.DESIGN,
    "plan-rails": Verb.MEASURE, "rail-shot": Verb.MEASURE, "rail-dip": Verb.MEASURE, "trial-unit": Verb.MEASURE,
    "plan-edge": Verb.MEASURE, "edge-top": Verb.MEASURE, "edge-line": Verb.MEASURE, "take-trial": Verb.DESIGN,
    "edge-string": Verb.MEASURE, "edge-bedded": Verb.MEASURE, "edge-board": Verb.MEASURE,
    "side-work": Verb.MEASURE, "laid-high": Verb.MEASURE, "seat-pass": Verb.MEASURE,
    "unit-work": Verb.MEASURE, "fill-work": Verb.MEASURE, "spares-left": Verb.MEASURE,
    "keep-lessons": Verb.DESIGN, "bay-work": Verb.MEASURE,
    "batch": Verb.MEASURE, "flag": Verb.MEASURE, "choose-layout": Verb.MEASURE, "share-pieces": Verb.MEASURE,
    "tape-course": Verb.MEASURE, "course-work": Verb.MEASURE, "piece-cut": Verb.MEASURE,
    "pack-opened": Verb.MEASURE, "pack-emptied": Verb.MEASURE,
    "make-order": Verb.MEASURE, "order-come": Verb.MEASURE, "order-moved": Verb.MEASURE,
    "ask-forecast": Verb.SEE, "say-programme": Verb.MEASURE, "record-warmth": Verb.MEASURE,
    "bring-forecast": Verb.MEASURE, "type-forecast": Verb.MEASURE,
    "record-hours": Verb.MEASURE, "keep-estimate": Verb.SEE_MONEY,
    "pattern": Verb.DESIGN, "keep-cone": Verb.DESIGN, "drop-cone": Verb.DESIGN, "withdraw-share": Verb.SHARE,
}  # fmt: skip
JOB_ROUTES = [(name, names) for name, names in ROUTES if "job_id" in names]


@pytest.mark.parametrize("method", ["get", "post", "put", "patch", "delete"])
def test_every_address_of_a_job_by_role_and_method(world: World, method: str) -> None:
    stranger, through_a_link = make_world(name="Others").client("lead"), Client()
    through_a_link.get(f"/shared/{link(world)}/")
    clients = {role: world.client(role) for role in CrewRole.values}
    for name, names in JOB_ROUTES:
        where = address(name, names, world)
        assert name in READS | PAID | MEASURED | set(SENDS) | {"shares"}, f"{name}: a new address wants its row here"
        for who, client in {"anonymous": Client(), "link": through_a_link, "other crew": stranger}.items():
            answer = getattr(client, method)(where)
            allowed = (404, 405) if who == "other crew" else (302, 405)
            assert answer.status_code in allowed, (name, who, answer.status_code)
            assert b"Test pad" not in answer.content and b"Flint" not in answer.content, (name, who)
            if answer.status_code == 302:
                assert answer["Location"].startswith("/sign-in/"), (name, who)
        for role, client in clients.items():
            status = getattr(client, method)(where).status_code
            may = MAY[CrewRole(role)]
            told = (name, role, status)
            assert status < 500, told
            if method == "get" and name in READS:
                assert status in (200, 302, 404, 409), told
            elif method == "get" and name in PAID:
                assert (status == 403) == (Verb.SEE_MONEY not in may), told
            elif method == "get" and name in MEASURED:
                assert (status == 403) == (Verb.MEASURE not in may), told
            elif name == "shares" and method in ("get", "post"):
                assert (status == 403) == (Verb.SHARE not in may), told
            elif method == "post" and name in SENDS:
                assert (status == 403) == (SENDS[name] not in may), told
            elif method in ("put", "patch", "delete"):
                assert status in (403, 405), told


def test_a_link_opens_no_other_address(world: World) -> None:
    client = Client()
    client.get(f"/shared/{link(world)}/")
    for name in ("yard", "new-job"):
        assert client.get(reverse(name)).status_code == 302
    assert client.get(f"/crews/{world.crew.id}/").status_code == 302
    assert client.get("/live/?known=0").status_code == 302
