"""What people should not send, and do: letters that cannot stand, fields without end, clocks gone wrong, names of
other things. Each is refused or cleaned, and no page breaks on what was kept."""

import ast
import contextlib
import io
import re
import time
import uuid
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from django.db import transaction
from django.test import Client, RequestFactory
from django.utils import timezone
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree
from tests.conftest import PASSWORD, World, made, make_world
from tests.groundwork.test_entries import ALL
from tests.nivelum.test_access import address
from tests.nivelum.test_bases import keep, sheet_data, start, started
from tests.nivelum.test_instruments import url
from tests.nivelum.test_kinds_of_job import rooms_open
from tests.nivelum.test_proving import jpeg, post
from tests.nivelum.test_sharing import JOB_ROUTES, READS, link

from groundwork.kinds import STORED
from groundwork.measures import LONGEST_TEXT, Unit, letters, measure
from groundwork.plan import FEWEST_PLACES, outline
from groundwork.record import head_of
from groundwork.record.chain import (
    LONGEST_HEAD,
)
from groundwork.strength import cone
from nivelum.jobs.models import Entry
from nivelum.jobs.services import Author, append, snapshot, snapshot_at
from nivelum.posted import CleanPosted
from nivelum.records.telling import told_plainly

SOURCES = [*Path("src/nivelum").rglob("*.py")]
TYPED = {"CharField", "MeasuredField", "FallField"}


def calls(names: set[str]) -> list[tuple[str, ast.Call]]:
    """Every call of forms' fields by those names, with where it stands."""
    found = []
    for path in SOURCES:
        if "migrations" in path.parts:
            continue
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr in names:
                found.append((f"{path}:{node.lineno}", node))
    return found


def test_every_typed_field_has_a_length() -> None:
    fields = calls({"CharField"})
    assert len(fields) > 60
    for where, call in fields:
        assert "max_length" in {keyword.arg for keyword in call.keywords}, where


DIGITS = "1234567890" * 6000
HOSTILE = [
    DIGITS,
    " " * 60_000,
    "1" + " " * 60_000,
    "1 " * 30_000,
    "1/" * 30_000,
    "1'" * 30_000,
    "-" * 60_000,
    "1-" * 30_000,
    '"' * 60_000,
    "½" * 60_000,
    "1:" + " " * 60_000,
    "1 in " * 12_000,
    "'" * 60_000 + "x",
    "ft" * 30_000,
    ",1" * 30_000,
    ".1" * 30_000,
    "1." * 30_000,
    "mm/m" * 15_000,
    "1 1\n" * 15_000,
    "1 90\n" * 12_000,
    "\n" * 60_000,
    ";" * 60_000,
    "5 32\n" * 12_000,
    "x" * 60_000,
    "X1;" * 20_000,
    "side 1;" * 8000,
    "﷽" * 20_000,
    "\u0301" * 60_000,
    "nivelum-head/1 " * 4000,
    "\t" * 60_000 + "1",
    "1 / 2 " * 10_000,
    "1 mm per " * 6000,
]
SQUARE = ((0.0, 0.0), (6.0, 0.0), (6.0, 4.0), (0.0, 4.0))
PARSERS = {
    "length": (LONGEST_TEXT, lambda t: measure.parse_length(t, Unit.FEET_INCHES)),
    "rod": (LONGEST_TEXT, lambda t: measure.parse_rod(t, Unit.MILLIMETRES)),
    "signed": (LONGEST_TEXT, lambda t: measure.parse_signed(t, Unit.METRES)),
    "bar": (LONGEST_TEXT, lambda t: measure.parse_bar(t, Unit.FEET_INCHES)),
    "fall": (LONGEST_TEXT, measure.parse_fall),
    "layer": (LONGEST_TEXT, lambda t: measure.parse_layer(t, Unit.FEET_INCHES)),
    "corners": (20_000, lambda t: outline.from_coordinates(t, Unit.METRES)),
    "sides": (20_000, lambda t: outline.from_sides(t, Unit.FEET_INCHES)),
    "place": (2000, lambda t: outline.place(t, SQUARE, Unit.METRES)),
    "places": (2000, lambda t: outline.line(t, SQUARE, Unit.METRES)),
    "cone": (20_000, lambda t: cone.parse_log("c", t)),
    "head": (LONGEST_HEAD, head_of),
    "letters": (60_000, letters.cleaned),
}


@pytest.mark.parametrize("parser", PARSERS)
def test_no_parser_is_slow_on_anything_as_long_as_its_field_and_far_longer_is_refused(parser: str) -> None:
    longest, parse = PARSERS[parser]
    for text in HOSTILE:
        for given_ in (text[:longest], text):
            took = []
            for _try in range(3):
                began = time.process_time()
                with contextlib.suppress(ValueError):
                    parse(given_)
                took.append(time.process_time() - began)
            assert min(took) < 0.05, (parser, given_[:20], min(took))


@given(st.text(max_size=200))
def test_what_is_kept_of_a_text_can_stand_in_xml_and_in_the_database_and_is_kept_once(text: str) -> None:
    kept = letters.cleaned(text)
    assert letters.cleaned(kept) == kept and letters.first_that_cannot_stand({"a": [kept]}) is None
    element = etree.Element("t")
    element.text = kept  # lxml refuses what XML cannot hold
    assert (etree.fromstring(etree.tostring(element)).text or "") == kept
    assert "\x00" not in kept and kept.encode("utf-8").decode("utf-8") == kept


def test_marks_without_end_on_one_letter_are_not_put_in_order() -> None:
    # Ordered by class, a million of them take hours.
    assert len(letters.cleaned("a" + "\u0301\u0316" * 500_000)) <= 1 + letters.MOST_MARKS


def test_half_a_pair_in_the_bytes_of_a_form_is_no_letter_and_breaks_nothing(world: World) -> None:
    body = b"entry_id=%s&stage=brief&ask=&answer=yes&words=a%%ED%%A0%%80b" % str(uuid.uuid4()).encode()
    client = world.client("crew")
    kind = "application/x-www-form-urlencoded"
    assert client.post(url(world, "sign-offs/looks/"), body, content_type=kind).status_code in (302, 422)
    assert client.get(url(world, "record/")).status_code == 200


def test_of_ordinary_text_nothing_is_lost() -> None:
    for text in (
        "Søren’s “north” corner: 4′ 7 3/8″, ½ up\nsecond line",
        "مدخل البيت",
        "דלת",
        "門口",
        "🧱 pallet",
        "a\tb",
    ):
        assert letters.cleaned(text) == text
    assert letters.cleaned("e\u0301") == "é" and letters.cleaned("a\r\nb\rc") == "a\nb\nc"
    assert letters.cleaned("a\x00\x07\x1b\x7f\x85\ud800\ufffe\ufdd0\U0001ffff\u202eb") == "ab"


AWKWARD = [
    "bell\x07 and \x00 nul\r\n.\r\nLINE",
    "\u202etxet denrut\u202c ﷺ عربي",
    "🧱🧱 z\u200bero\u200d\u2060\ufeff\u2028 e\u0301\u0301",
    "a" * 10_000,
    "{fall} %(n)s %s {0} {{ \\ ]]>",
    "<script>alert(1)</script>'\"` &amp; &#0;",
    "=1+1",
    "  ",
]


def every_page(world: World, client: Client) -> None:
    """Opens every page, drawing, print and export of a job."""
    for name, names in JOB_ROUTES:
        if name in READS | {"shares"}:
            where = address(name, names, world)
            answer = client.get(where, follow=True)
            assert answer.status_code in (200, 404, 409), (name, answer.status_code)
    rooms_open(world, client)
    for ending in ("json", "csv", "zip"):
        assert client.get(url(world, f"record.{ending}")).status_code == 200, ending
    for ending in ("geojson", "dxf", "csv"):
        assert client.get(url(world, f"outline.{ending}")).status_code == 200, ending
    for where in (
        "/",
        "/now/",
        "/waiting/",
        "/jobs/new/",
        f"/crews/{world.crew.id}/",
        f"/crews/{world.crew.id}/heads.txt",
    ):
        assert client.get(where).status_code == 200, where


@pytest.mark.parametrize("text", AWKWARD, ids=range(len(AWKWARD)))
def test_no_awkward_text_breaks_a_page(world: World, text: str) -> None:
    """Typed into every text of a new job, its crew, its links, its stages and lifts, as far as it is taken at all."""
    name = text[:60]
    typed = {
        "name": name, "engineer": name, "level_access": text[:300], "height-0-name": f"{name[:50]} 0",
        "side-0-along": "building", "side-0-name": name, "side-1-along": "drain", "side-1-name": name,
        "outlet_name": name, "outlet_at": "X3", "outlet_run": "4", "outlet_level": "9",
        "thing-count": "1", "thing-0-kind": "drain", "thing-0-name": name, "thing-0-places": "3 2",
    }  # fmt: skip
    lead = world.client("lead")
    lead.raise_request_exception = False
    assert start(world, **typed).status_code in (302, 422)
    if begun := started(world):
        (world.job,) = begun
    sent = [
        (f"/crews/{world.crew.id}/", {"name": name, "rod": "mm", "region": "en-gb"}),
        (f"/crews/{world.crew.id}/tools/new/", {"name": name[:40], "method": "tape", "reading_u": "3", "rate": "0"}),
        (url(world, "shares/"), {"label": name, "whom": "client", "days": "3", "parts": ["stages", "diary"]}),
        (url(world, "set-out/services/"), {"ticket": name, "by": name, "found": text[:300], "scheme": name,
                                           "days": "14", "located": str(timezone.localdate())}),
        (url(world, "lifts/weather/"), {"words": text[:200], "lift": "base.1"}),
        (url(world, "lifts/machine/"), {"name": name[:40], "kind": "plate", "mass": "120", "width": "450"}),
        (url(world, "lifts/delivered/"), {"ticket": name[:40], "note": text[:200], "material": "dense-graded",
                                          "mass": "8"}),
        (url(world, "lifts/competent/"), {"by": name, "role": "engineer", "words": text[:400]}),
        (url(world, "lifts/soft_spot/"), {"name": name[:40], "corners": "1 1\n2 1\n2 2", "depth": "200"}),
        (url(world, "lifts/proof_roll/"), {"vehicle": name, "deflection": "3"}),
        (url(world, "sign-offs/looks/"), {"stage": "brief", "ask": "", "answer": "yes", "words": text[:400]}),
        (url(world, "sign-offs/photos/"), {"stage": "excavation", "caption": text[:200] or "x", "photo": jpeg()}),
        (url(world, "ground/knocks/"), {"point": name}),
        (url(world, "sign-offs/accept/"), {"stage": "brief", "finding": name, "reason": text[:300]}),
        ("/sign-in/", {"login": name, "password": text[:200]}),
    ]  # fmt: skip
    for where, data in sent:
        data |= {"entry_id": str(uuid.uuid4())}
        answer = (Client() if where == "/sign-in/" else lead).post(where, data)
        assert answer.status_code in (200, 302, 403, 404, 409, 422, 429), (where, answer.status_code)
    every_page(world, lead)
    shared = Client().get(f"/shared/{link(world)}/")
    assert shared.status_code == 200
    for entry in Entry.objects.filter(job=world.job):
        assert letters.first_that_cannot_stand(entry.body) is None


def test_text_kept_before_it_was_cleaned_breaks_no_page_either(world: World, monkeypatch) -> None:
    monkeypatch.setattr("nivelum.jobs.services.first_that_cannot_stand", lambda body: None)
    body = dict(world.job.entries.get(number=1).body)
    bad = "bell\x07\x1b\u202e"
    body |= {"name": bad, "marks": [mark | {"name": f"{mark['name']}{bad}"} for mark in body["marks"]]}
    body["features"] = [feature | {"name": bad} for feature in body["features"]]
    append(world.job, "design", body, Author(world.people["lead"]))
    type(world.job).objects.filter(id=world.job.id).update(name=bad)
    every_page(world, world.client("lead"))
    assert made(world.client("lead"), url(world, "record.pdf")).content.startswith(b"%PDF")


@pytest.mark.parametrize("text", AWKWARD, ids=range(len(AWKWARD)))
def test_every_kind_of_entry_is_told_whatever_its_words(text: str) -> None:
    for value in ALL:
        body = {
            key: text if isinstance(each, str) and key in WORDS else each for key, each in STORED.body(value).items()
        }
        assert told_plainly(Entry(kind=value.KIND, body=body), Unit.MILLIMETRES)


WORDS = {
    "words",
    "by",
    "ticket",
    "note",
    "reason",
    "found",
    "name",
    "caption",
    "where",
    "vehicle",
    "scheme",
    "mark",
    "point",
}


def test_a_name_of_a_field_that_comes_from_no_form_is_refused(world: World) -> None:
    client = world.client("lead")
    for key in ("na\x00me", "\x07", "a\ufffe"):
        assert client.post("/jobs/new/", {key: "x"}).status_code == 400
        assert client.get("/", {key: "x"}).status_code == 400


def test_what_nobody_asked_for_is_not_kept_in_the_record(world: World) -> None:
    assert start(world, name="Plain").status_code == 302
    (world.job,) = started(world)
    sent = sheet_data(world) | {
        "name": "Renamed",
        "smuggled": "x",
        "side-99-name": "x",
        "csrfmiddlewaretoken": "secret",
    }
    assert keep(world, "brief/", sent).status_code == 302
    typed = Entry.objects.filter(job=world.job, kind="design").last().body["typed"]
    assert typed["name"] == "Renamed" and not {"smuggled", "side-99-name", "csrfmiddlewaretoken"} & typed.keys()


@pytest.mark.parametrize("query", ["version=²", "version=" + "9" * 5000, "version=-1", "version=", "version=x\x00"])
def test_a_version_that_is_no_number_is_no_fault_of_ours(world: World, query: str) -> None:
    assert world.client("lead").get(url(world, f"base/news/?{query}")).status_code in (200, 400, 422)


@pytest.mark.parametrize("number", ["²", "9" * 5000, "-1", "1e9", "0x1"])
def test_numbers_in_forms_that_are_none_are_refused(world: World, number: str) -> None:
    world.set_up()
    sent = a_reading(world)
    answer = world.client("crew").post(url(world, "ground/readings/"), sent | {"answered_version": number})
    assert answer.status_code in (400, 422)
    assert (
        world.client("lead").post(url(world, "lifts/number/"), {"role": "base", "number": number}).status_code == 404
    )


def a_reading(world: World) -> dict[str, str]:
    """One of A1 at design, as a form sends it."""
    target = world.assessment().targets.at("A1", "formation")
    return {"entry_id": str(uuid.uuid4()), "station": "A1", "set_up": world.assessment().levels.present.id,
            "reading": f"{target * 1000:.0f}"}  # fmt: skip


def test_a_version_that_never_was_is_refused(world: World) -> None:
    world.set_up()
    sent = a_reading(world)
    answer = world.client("crew").post(
        url(world, "ground/readings/"), sent | {"answered_version": "7"}, headers={"Accept": "application/json"}
    )
    assert answer.status_code == 422 and "never had that version" in answer.json()["message"]
    assert not Entry.objects.filter(id=sent["entry_id"]).exists()


def test_an_identifier_used_for_another_thing_is_refused_everywhere(world: World) -> None:
    world.shoot_all()
    used = str(Entry.objects.filter(job=world.job, kind="reading").first().id)
    before = Entry.objects.filter(job=world.job).count()
    signing = {"stage": "excavation", "seen": world.assessment().stages.evidence_hash("excavation"), "slot": "lead"}
    for path, data in (
        ("sign-offs/sign/", signing),
        ("sign-offs/take-back/", {"stage": "excavation", "withdraws": used, "reason": "it was not so"}),
        ("sign-offs/accept/", {"stage": "excavation", "finding": "x", "reason": "it was not so"}),
        ("ground/fills/", {"station": "A1", "material": "stone", "lifts": "1"}),
        ("sign-offs/looks/", {"stage": "excavation", "answer": "yes", "ask": "", "words": "seen"}),
    ):
        for headers in ({}, {"Accept": "application/json"}):
            answer = world.client("lead").post(url(world, path), data | {"entry_id": used}, headers=headers)
            assert answer.status_code in (409, 422), (path, answer.status_code)
    assert start(world, entry_id=used).status_code == 422
    assert Entry.objects.filter(job=world.job).count() == before


def test_a_viewers_entry_from_an_outbox_is_refused_in_a_way_its_device_understands(world: World) -> None:
    world.set_up()
    sent = a_reading(world)
    answer = world.client("viewer").post(url(world, "ground/readings/"), sent, headers={"Accept": "application/json"})
    assert answer.status_code == 403 and answer.json()["refused"] == "role"


CLOCKS = ["0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-12:00", "1970-01-01T00:00:00Z", "2099-01-01T00:00:00Z"]


@pytest.mark.parametrize("zone", ["UTC", "Pacific/Kiritimati", "Etc/GMT+12", "Asia/Kathmandu"])
@pytest.mark.parametrize("clock", CLOCKS)
def test_a_device_whose_clock_is_wrong_keeps_its_entry_and_breaks_no_page(world, clock: str, zone: str) -> None:
    world.crew.time_zone = zone
    world.crew.save()
    world.set_up()
    sent = a_reading(world) | {"device_at": clock}
    client = world.client("crew")
    for _twice in range(2):
        answer = client.post(url(world, "ground/readings/"), sent, headers={"Accept": "application/json"})
        assert answer.status_code == 200, answer.content
    entry = Entry.objects.get(id=sent["entry_id"])
    assert entry.device_at is None and entry.body["device_clock_wrong"].startswith(clock[:10])
    page = client.get(url(world, "record/"))
    assert page.status_code == 200 and f"device clock wrong: it said {clock[:10]}" in page.content.decode()
    assert client.get(url(world, "record.csv")).status_code == client.get("/").status_code == 200


def test_a_device_a_little_off_is_believed(world: World) -> None:
    world.set_up()
    for off in (timedelta(hours=-23), timedelta(hours=23)):
        sent = a_reading(world) | {"device_at": (timezone.now() + off).isoformat()}
        assert world.client("crew").post(url(world, "ground/readings/"), sent).status_code == 302
        assert Entry.objects.get(id=sent["entry_id"]).device_at is not None


def test_a_servers_clock_put_back_runs_no_record_backwards(world: World, monkeypatch) -> None:
    world.set_up()
    last = world.job.entries.last().at
    monkeypatch.setattr(timezone, "now", lambda: datetime(2020, 1, 1, tzinfo=UTC))
    world.look("brief")
    assert world.job.entries.last().at == last


def test_a_kept_answer_is_known_by_its_hash_and_not_by_its_number(flushable, transactional_db) -> None:
    world = make_world()
    world.set_up()
    world.shoot("A1", high_mm=0.3)
    number = snapshot(world.job).number
    first = snapshot_at(world.job, number)
    # Behind this process a backup is put in the record's place: another entry under the same number.
    from django.db import connection

    with connection.cursor() as cursor:
        cursor.execute("ALTER TABLE jobs_entry DISABLE TRIGGER append_only")
        cursor.execute("DELETE FROM jobs_entry WHERE job_id = %s AND number = %s", [world.job.id, number])
        cursor.execute("ALTER TABLE jobs_entry ENABLE ALWAYS TRIGGER append_only")
    world.shoot("A1", high_mm=60)
    second = snapshot_at(world.job, number)
    off = [
        round(s.assessment.surveys.of("formation").answers["A1"].judgement.deviation * 1000) for s in (first, second)
    ]
    assert off == [0, 60]


@pytest.mark.parametrize("kind", FEWEST_PLACES)
def test_what_lies_at_one_place_is_drawn_as_a_point_or_refused_beside_its_field(world: World, kind: str) -> None:
    typed = {
        "thing-count": "1",
        "thing-0-kind": kind,
        "thing-0-name": "it",
        "thing-0-places": "3 2",
        "side-2-along": "free edge",
    }
    answer = start(world, **typed)
    if FEWEST_PLACES[kind] > 1:
        assert answer.status_code == 422 and "places" in answer.content.decode() and not started(world)
        return
    assert answer.status_code == 302
    (world.job,) = started(world)
    every_page(world, world.client("lead"))


def test_nothing_private_is_kept_on_the_way(world: World) -> None:
    world.set_up()
    client = world.client("lead")
    for name, names in JOB_ROUTES:
        if name in READS:
            answer = client.get(address(name, names, world))
            if answer.status_code == 200:
                assert "no-store" in answer["Cache-Control"] or answer["Cache-Control"] == "private, no-cache", name
                assert "camera=()" in answer["Permissions-Policy"]


def test_an_address_in_a_header_is_believed_of_so_many_proxies_and_no_more(rf: RequestFactory, settings) -> None:
    from nivelum.crews.tries import address as seen

    request = rf.get("/", headers={"X-Forwarded-For": "6.6.6.6, 10.0.0.2"}, REMOTE_ADDR="192.0.2.1")
    assert seen(request) == "192.0.2.1"
    settings.PROXIES = 1
    assert seen(request) == "10.0.0.2"
    settings.PROXIES = 2
    assert seen(request) == "6.6.6.6"
    settings.PROXIES = 3
    assert seen(request) == "192.0.2.1"


def tried(name: str, password: str, client: Client | None = None, **more) -> str:
    answer = (client or Client()).post("/sign-in/", {"login": name, "password": password}, **more)
    return "in" if answer.status_code == 302 else answer.content.decode()


def test_a_forged_address_evades_no_lock(world: World) -> None:
    name = world.people["lead"].username
    for n in range(6):
        tried(name, "wrong", headers={"X-Forwarded-For": f"10.0.0.{n}"})
    assert "Too many tries" in tried(name, PASSWORD, headers={"X-Forwarded-For": "10.9.9.9"})


def test_a_name_tried_from_everywhere_is_answered_slowly_and_its_owner_still_gets_in(
    world: World, monkeypatch
) -> None:
    name = world.people["lead"].username
    own = Client()
    assert tried(name, PASSWORD, own) == "in"
    own.post("/sign-out/")
    waits = []
    for n in range(20):
        said = tried(name, "wrong", REMOTE_ADDR=f"10.0.{n}.1")
        waits += [int(found[1])] if (found := re.search(r"wait (\d+) seconds", said)) else []
    assert waits, "nobody was asked to wait"
    assert max(waits) <= 60
    assert "wait" in tried(name, PASSWORD, REMOTE_ADDR="10.1.1.1")  # the right one too, where nobody knows the device
    assert tried(name, PASSWORD, own) == "in"  # on their own device at once
    now = timezone.now()
    monkeypatch.setattr(timezone, "now", lambda: now + timedelta(seconds=61))
    assert tried(name, PASSWORD, REMOTE_ADDR="10.1.1.1") == "in"  # and anywhere within a minute


def test_the_waits_grow_and_end(world: World, monkeypatch) -> None:
    from axes.models import AccessAttempt

    from nivelum.crews.tries import seconds_to_wait

    now = timezone.now()
    monkeypatch.setattr(timezone, "now", lambda: now)
    request = RequestFactory().get("/")
    found = []
    for wrong in (11, 12, 13, 15, 17, 30, 900):
        AccessAttempt.objects.all().delete()
        AccessAttempt.objects.create(
            username="ines", ip_address="10.0.0.1", failures_since_start=wrong, attempt_time=now
        )
        AccessAttempt.objects.update(attempt_time=now)
        found.append(seconds_to_wait(request, "Ines"))
    assert found == [0, 1, 2, 8, 32, 60, 60]


def test_a_pin_that_rests_says_for_how_long(world: World) -> None:
    from nivelum.crews.models import PinTry
    from nivelum.crews.pins import NotProven, prove, set_pin

    lead = world.people["lead"]
    set_pin(lead, "2580")

    def said(device: str) -> str:
        with pytest.raises(NotProven) as refused:
            prove(world.crew, lead.pk, "0000", device)
        return str(refused.value)

    for _n in range(5):
        said("tablet")
    assert "Wait 15 minutes" in said("tablet")
    PinTry.objects.update(at=timezone.now() - timedelta(minutes=11))
    assert "Wait 4 minutes" in said("tablet")
    for n in range(15):
        said(f"device {n}")
    PinTry.objects.filter(device="tablet").delete()
    for n in range(5):
        said(f"more {n}")
    assert "Wait 24 hours" in said("another")


def test_cleaning_asks_nothing_of_a_request_that_brings_nothing(rf: RequestFactory) -> None:
    clean = CleanPosted(lambda request: None)
    request = rf.get("/?a=b%00c&d=e%CC%81")
    assert clean.process_request(request) is None
    assert request.GET["a"] == "bc" and request.GET["d"] == "é"
    sent = rf.post("/", {"a": ["x\x07", "y"], "file": io.BytesIO(b"z")})
    assert clean.process_request(sent) is None and sent.POST.getlist("a") == ["x", "y"]


def test_pictures_of_a_stage_keep_what_they_show(world: World) -> None:
    assert (
        post(world, "photos", {"stage": "excavation", "caption": "north\x07 corner", "photo": jpeg()}).status_code
        == 302
    )
    assert Entry.objects.get(job=world.job, kind="pictured").body["caption"] == "north corner"


def test_other_crews_stay_other_crews(world: World) -> None:
    other = make_world(name="Others")
    assert other.client("lead").get(url(world, "record/")).status_code == 404


def test_what_was_taken_back_with_its_transaction_is_forgotten_and_kept_no_longer(world: World) -> None:
    before = snapshot(world.job)
    with pytest.raises(ZeroDivisionError), transaction.atomic():
        world.set_up()
        assert snapshot(world.job).number == before.number + 1
        raise ZeroDivisionError
    after = snapshot(world.job)
    assert (after.number, after.head) == (before.number, before.head) and not after.assessment.levels.references
    assert snapshot(world.job) is after
    world.set_up("1350")
    assert [s.backsight.raw for s in snapshot(world.job).assessment.logbook.set_ups.values()] == ["1350"]
