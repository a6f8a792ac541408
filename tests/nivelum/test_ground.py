"""Ground through its addresses: readings, fills, strikes, set-ups, and what is refused."""

import json
import re
import uuid

import pytest
from django.test import Client
from django.test.utils import CaptureQueriesContext
from tests.conftest import PAD, World, make_world

from groundwork.entries import Fill, Strike
from nivelum.jobs.models import Entry
from nivelum.recording import services

HTMX = {"HTTP_HX_REQUEST": "true"}


def url(world: World, rest: str = "") -> str:
    return f"/jobs/{world.job.id}/ground/{rest}"


def post_reading(world: World, client: Client, typed: str, station: str = "A1", **more):
    data = {
        "entry_id": uuid.uuid4(),
        "station": station,
        "set_up": world.assessment().levels.set_up.id,
        "reading": typed,
    }
    return client.post(url(world, "readings/"), data | more, **HTMX)


def test_a_reading_gets_its_action_and_the_next_station_is_chosen(world: World) -> None:
    world.set_up()
    target = world.assessment().targets.at("A1")
    page = post_reading(world, world.client("crew"), f"{(target - 0.034) * 1000:.0f}").content.decode()
    assert "A1: dig 34 mm" in page
    assert "At <strong>A2</strong> the rod should read" in page
    assert 'id="plan"' in page and 'hx-swap-oob="true"' in page


def test_what_somebody_writes_between_the_check_and_the_writing_is_checked_again(world: World, monkeypatch) -> None:
    set_up, held = world.set_up(), services.lock
    between: list = []

    def somebody_first(job) -> None:
        monkeypatch.setattr(services, "lock", held)
        if between:
            world.record(between.pop(), role="lead")
            monkeypatch.setattr(services, "lock", somebody_first)
        held(job)

    for fills in (1, services.TURNS, services.TURNS + 3):
        between[:] = [Fill(str(uuid.uuid4()), "A2", "stone") for _n in range(fills)]
        monkeypatch.setattr(services, "lock", somebody_first)
        before = Entry.objects.filter(job=world.job).count()
        world.shoot("A1")
        # Each turn lets one in before it, then the job is held.
        assert Entry.objects.filter(job=world.job).count() - before == 1 + min(fills, services.TURNS + 1)
    between[:] = [Strike(str(uuid.uuid4()), str(set_up.id), "tripod kicked")]
    monkeypatch.setattr(services, "lock", somebody_first)
    with pytest.raises(services.Refused, match="no longer counts"):
        world.shoot("A1")


def test_without_htmx_the_same_form_leads_to_the_same_verdict(world: World) -> None:
    world.set_up()
    data = {
        "entry_id": uuid.uuid4(),
        "station": "A1",
        "set_up": world.assessment().levels.set_up.id,
        "reading": "1770",
    }
    response = world.client("crew").post(url(world, "readings/"), data, follow=True)
    page = response.content.decode()
    assert response.redirect_chain[0][1] == 302
    assert re.search(r"A1: dig \d+ mm", page) and "At <strong>A2</strong>" in page


@pytest.mark.parametrize(
    "typed",
    ["abc", "", "1e9", "-3", "4' 13\"", "x" * 10_000, "7000", "wet\x01", "<script>alert(1)</script>", "½½"],
)
@pytest.mark.parametrize("headers", [HTMX, {}], ids=["htmx", "plain"])
def test_a_bad_reading_says_so_beside_the_field_keeps_it_and_stores_nothing(
    world: World, typed: str, headers: dict
) -> None:
    from django.utils.html import escape

    from groundwork.measures import cleaned

    world.set_up()
    before = Entry.objects.filter(job=world.job).count()
    data = {
        "entry_id": uuid.uuid4(),
        "station": "A1",
        "set_up": world.assessment().levels.set_up.id,
        "reading": typed,
    }
    response = world.client("crew").post(url(world, "readings/"), data, **headers)
    page = response.content.decode()
    assert response.status_code == 422
    field = re.search(r'<input id="entry"[^>]*>', page)[0]
    assert f'value="{escape(cleaned(typed))}"' in field
    assert 'aria-invalid="true"' in field and 'aria-describedby="target entry-wrong"' in field
    assert re.search(r'<p id="entry-wrong" class="wrong" role="alert">.+</p>', page)
    assert "At <strong>A1</strong>" in page
    assert Entry.objects.filter(job=world.job).count() == before


@pytest.mark.parametrize(
    "harm",
    [{"station": "Z9"}, {"station": ""}, {"set_up": str(uuid.uuid4())}, {"set_up": "x"}, {"entry_id": "x"},
     {"entry_id": ""}, {"device_at": "yesterday"}],
)  # fmt: skip
def test_a_request_made_up_by_hand_is_refused_not_broken(world: World, harm: dict) -> None:
    world.set_up()
    before = Entry.objects.filter(job=world.job).count()
    response = post_reading(world, world.client("crew"), "1700", **harm)
    assert response.status_code == 422
    assert 'class="wrong"' in response.content.decode()
    assert Entry.objects.filter(job=world.job).count() == before


@pytest.mark.parametrize("query", ["station=nowhere", "last=nowhere", "struck=x", "set-up=1&station=%00"])
def test_odd_queries_do_no_harm(world: World, query: str) -> None:
    world.set_up()
    assert world.client("viewer").get(url(world) + "?" + query).status_code == 200


def test_undo_strikes_the_reading_out_and_hands_back_what_was_typed(world: World) -> None:
    world.set_up()
    client = world.client("crew")
    post_reading(world, client, "1850")
    entry = Entry.objects.get(job=world.job, kind="reading")
    data = {"entry_id": uuid.uuid4(), "strikes": entry.id, "station": "A1"}
    page = client.post(url(world, "strikes/"), data, **HTMX).content.decode()
    assert 'value="1850"' in page
    assert world.assessment().surveys.formation.shot_count == 0
    assert Entry.objects.filter(id=entry.id).exists()
    again = client.post(url(world, "strikes/"), data | {"entry_id": uuid.uuid4()}, **HTMX)
    assert again.status_code == 422


def test_only_lead_and_engineer_strike_out_what_another_read(world: World) -> None:
    world.set_up()
    entry = world.shoot("A1", role="lead")
    data = {"entry_id": uuid.uuid4(), "strikes": entry.id, "station": "A1"}
    assert world.client("crew").post(url(world, "strikes/"), data, **HTMX).status_code == 403
    pads = [world.client(role).get(url(world) + "?station=A1").content.decode().split("<template")[0]
            for role in ("crew", "engineer")]  # fmt: skip
    assert ["Undo" in pad for pad in pads] == [False, True]
    assert world.client("engineer").post(url(world, "strikes/"), data, **HTMX).status_code == 200


def test_an_over_dig_is_cured_by_a_logged_fill_of_stone(world: World) -> None:
    world.set_up()
    world.shoot("A1", high_mm=-48)
    client = world.client("crew")
    data = {"entry_id": uuid.uuid4(), "station": "A1", "material": "stone", "lifts": "none"}
    refused = client.post(url(world, "fills/"), data, **HTMX)
    assert refused.status_code == 422 and 'value="none"' in refused.content.decode()
    page = client.post(url(world, "fills/"), data | {"lifts": "1"}, **HTMX).content.decode()
    assert "filled: shoot again" in page and "At <strong>A1</strong>" in page
    world.shoot("A1")
    assert world.assessment().surveys.ground["A1"].judgement.standing == "made good"


def test_a_reading_from_a_struck_set_up_is_refused_with_what_was_typed(world: World) -> None:
    set_up = world.set_up()
    client = world.client("lead")
    form = {"entry_id": uuid.uuid4(), "station": "A1", "set_up": set_up.id, "reading": "1712"}
    strike = {"entry_id": uuid.uuid4(), "strikes": set_up.id, "station": "A1"}
    client.post(url(world, "strikes/"), strike, **HTMX)
    page = client.get(url(world)).content.decode()
    assert "Set up the level" in page
    world.set_up("1290")
    response = client.post(url(world, "readings/"), form, **HTMX)
    assert response.status_code == 422
    assert 'value="1712"' in response.content.decode() and "no longer counts" in response.content.decode()


@pytest.mark.parametrize(
    "harm",
    [{"backsight": ""}, {"backsight": "4' 13\""}, {"mark": "moon"}, {"east": "1", "north": ""}, {"east": "far"},
     {"east": "nan", "north": "1"}, {"east": "1e400", "north": "1"}],
)  # fmt: skip
def test_a_set_up_that_cannot_be_is_refused_and_keeps_what_was_typed(world: World, harm: dict) -> None:
    data = {
        "entry_id": uuid.uuid4(),
        "mark": "sill",
        "instrument": "laser",
        "backsight": "1300",
        "station": "A1",
    }
    response = world.client("crew").post(url(world, "set-up/"), data | harm, **HTMX)
    page = response.content.decode()
    assert response.status_code == 422 and 'class="wrong"' in page
    assert not Entry.objects.filter(job=world.job, kind="set_up").exists()
    for name in {"backsight", "east"} & set(harm):
        if harm[name]:
            from django.utils.html import escape

            assert f'value="{escape(harm[name])}"' in page


def test_ground_with_two_hundred_stations_takes_as_many_queries_as_with_ten(world: World) -> None:
    from django.db import connection

    def queries(of: World, shots: int) -> int:
        of.set_up()
        for station in of.assessment().job.stations[:shots]:
            of.shoot(station.name)
        client = of.client("lead")
        client.get(url(of))
        with CaptureQueriesContext(
            connection,
        ) as captured:
            assert client.get(url(of)).status_code == 200
        return len(captured)

    large = json.loads(PAD)
    large["area"]["outline_m"] = large["facets"][0]["outline_m"] = [[0, 0], [30, 0], [30, 26], [0, 26]]
    many = make_world(job_file=json.dumps(large))
    assert len(many.assessment().job.stations) >= 199
    assert queries(many, 40) == queries(world, 2) <= 7


def test_every_screen_follows_the_crews_rod(world: World) -> None:
    world.set_up()
    lead = world.client("lead")
    assert "dig 34 mm" in post_reading(world, lead, str(world.assessment().targets.at("A1") - 0.034)).content.decode()
    crew_page = f"/crews/{world.crew.id}/"
    assert lead.post(crew_page, {"name": "Flint & Fall", "rod": "cubits", "region": "en-gb"}).status_code == 422
    assert (
        lead.post(crew_page, {"name": "Flint & Fall", "rod": "ft-in", "region": "en-gb", "time_zone": ""}).status_code
        == 302
    )
    page = lead.get(url(world) + "?station=A1").content.decode()
    assert 'aria-label=" 5/16"' in page and " mm" not in re.sub(r"<svg.*?</svg>", "", page, flags=re.S)
    assert " mm" not in page
    assert world.client("crew").post(crew_page, {"name": "x", "rod": "m"}).status_code == 403


def sheet_of(world: World, has: str = "") -> dict:
    return world.client("crew").get(f"/jobs/{world.job.id}/ground/sheet.json", {"has": has}).json()


def test_a_device_is_sent_only_what_it_has_not_of_the_sheet(world: World) -> None:
    """After a reading: what came together with what was here is the whole sheet, nothing of another surface is sent
    again, and nothing at all where nothing changed."""
    world.set_up()
    first = sheet_of(world)
    assert sheet_of(world, ",".join(first["pieces"]))["pieces"] == {}
    world.shoot("A2", 34)
    rest, whole = sheet_of(world, ",".join(first["pieces"])), sheet_of(world)
    assert {tag: text for tag, text in (first["pieces"] | rest["pieces"]).items() if tag in whole["pieces"]} == (
        whole["pieces"]
    )
    assert {**rest, "pieces": {}} == {**whole, "pieces": {}}
    here, before = whole["stands"][0]["surfaces"], first["stands"][0]["surfaces"]
    assert here["formation"] in rest["pieces"] and {k: v for k, v in here.items() if k != "formation"} == {
        k: v for k, v in before.items() if k != "formation"
    }
    assert [whole["pieces"][surface["shot"]] for surface in whole["surfaces"][:2]] == [["A2"], []]
    assert len(rest["pieces"]) < len(whole["pieces"]) / 2


@pytest.mark.parametrize("has", ["", ",", "nothing,of,ours", "\x00,é", "x" * 3000])
def test_whatever_a_device_says_it_has_it_is_sent_the_rest(world: World, has: str) -> None:
    world.set_up()
    assert sheet_of(world, has) == sheet_of(world)
