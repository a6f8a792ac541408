"""A crew's whole data out of one server and into another: every record whole, nobody's secrets, and nothing brought
where anything is wrong."""

import io
import json
import zipfile
from datetime import date
from decimal import Decimal
from pathlib import Path

import pytest
from django.core.management import call_command
from django.core.management.base import CommandError
from django.test import Client
from tests.conftest import World, make_world
from tests.nivelum.test_photos import picture, send

from groundwork.record import first_fault
from nivelum.crews.models import Crew, Person
from nivelum.days.models import KeptProgramme, WeekSaid
from nivelum.jobs.models import Entry, Job, Taught
from nivelum.jobs.services import head, snapshot
from nivelum.money.models import KeptEstimate, MoneyTerms, PriceSet
from nivelum.people.archive import take_crew
from nivelum.weather.models import DayOff, KeptForecast, WeatherTerms


def flushed() -> None:
    """An empty server."""
    call_command("flush", verbosity=0, interactive=False)


@pytest.fixture
def taken(flushable, transactional_db, settings, tmp_path) -> tuple[World, Path]:
    """A crew with a job and a photo, and the archive a lead took of it."""
    settings.MEDIA_ROOT = tmp_path / "photos"
    world = make_world()
    world.set_up()
    world.shoot("A1", high_mm=12)
    assert send(world, picture()).status_code == 302
    MoneyTerms.objects.create(crew=world.crew, currency="GBP", tax=Decimal("0.2"), works_on=[0, 1, 2])
    price = {"thing": "material|kerb|piece", "amount": "7.85", "since": "2026-01-01"}
    assert world.client("lead").post(f"/crews/{world.crew.id}/prices/", price).status_code == 302
    keep = {"begins": "2026-12-07", "name": "first"}
    assert world.client("lead").post(f"/jobs/{world.job.id}/order/costs/keep/", keep).status_code == 302
    WeatherTerms.objects.create(crew=world.crew, place="Marrow Lock", limits={"fines-rain": 1.0}, machines={"saw": 2})
    DayOff.objects.create(crew=world.crew, person=world.people["crew"], on=date(2026, 12, 24), why="away")
    told = {"text": "time,temperature_c,rain_mm\n2026-12-08T07:00,4,1.5\n"}
    assert world.client("lead").post(f"/jobs/{world.job.id}/days/forecasts/brought/", told).status_code == 302
    assert world.client("lead").get(f"/jobs/{world.job.id}/days/programme/").status_code == 200  # kept as it stands
    WeekSaid.objects.create(crew=world.crew, job=world.job, task="laying", person=world.people["crew"], said_by="x")
    WeekSaid.objects.create(crew=world.crew, job=world.job, task="dig", on=date(2026, 12, 9), half=1, said_by="x")
    hours = {"kind": "hours", "material": "laying", "value": 1.5, "spread": 0.0, "number": 1, "kept_by": "x"}
    Taught.objects.create(job=world.job, **hours)
    answer = world.client("lead").post(f"/crews/{world.crew.id}/all.zip")
    assert answer.status_code == 200
    file = tmp_path / "crew.zip"
    file.write_bytes(b"".join(answer.streaming_content))
    return world, file


def test_only_a_lead_takes_it(world: World) -> None:
    for role in ("crew", "engineer", "viewer"):
        assert world.client(role).post(f"/crews/{world.crew.id}/all.zip").status_code == 403
    assert make_world(name="Others").client("lead").post(f"/crews/{world.crew.id}/all.zip").status_code == 404


def test_it_holds_every_record_and_nobodys_secrets(taken: tuple[World, Path]) -> None:
    world, file = taken
    with zipfile.ZipFile(file) as archive:
        text = archive.read("crew.json").decode()
        record = archive.read(f"jobs/{world.job.id}.json").decode()
        assert sum(name.startswith("photos/") for name in archive.namelist()) == 1
    assert json.loads(record)["head"] == head(world.job)
    data = json.loads(text)
    assert {each["role"] for each in data["people"]} == {"lead", "crew", "engineer", "viewer"}
    for person in world.people.values():
        assert Person.objects.get(id=person.id).password not in text
    assert data["log"][-1]["deed"] == "taken" and len(data["tools"]) == world.crew.tools.count()


def test_another_server_takes_it_in_with_the_same_heads(taken: tuple[World, Path], tmp_path, capsys) -> None:
    world, file = taken
    kept = KeptEstimate.objects.get(job=world.job)
    estimate = (kept.data, kept.begins, kept.number, kept.name)
    before, said = head(world.job), snapshot(world.job).assessment.surveys.ground["A1"].judgement
    name = world.crew.name
    stood = KeptProgramme.objects.get(job=world.job)
    was = (stood.on, stood.at_entry, stood.data, stood.forecast.digest)
    flushed()
    stranger = Person.objects.create_user("first", name="First here")  # numbers run differently there
    Person.objects.create_user(world.people["lead"].username, name="Of the same name")
    call_command("bring_crew", str(file))
    job = Job.objects.select_related("crew").get()
    assert (job.crew.name, head(job)) == (name, before)
    brought, terms = KeptEstimate.objects.get(job=job), MoneyTerms.objects.get(crew=job.crew)
    assert (brought.data, brought.begins, brought.number, brought.name) == estimate
    assert (terms.currency, terms.tax, terms.works_on) == ("GBP", Decimal("0.2"), [0, 1, 2])
    price = PriceSet.objects.get(crew=job.crew)
    assert (price.what, price.amount, price.since) == ("kerb", Decimal("7.85"), date(2026, 1, 1))
    assert Taught.objects.get(job=job, kind="hours").value == 1.5
    weather = WeatherTerms.objects.get(crew=job.crew)
    assert (weather.place, weather.limits, weather.count("saw")) == ("Marrow Lock", {"fines-rain": 1.0}, 2)
    assert KeptForecast.objects.get(crew=job.crew).forecast.hours[0].rain == 1.5
    off = DayOff.objects.get(crew=job.crew)
    assert (off.person.name, off.on, off.why) == (world.people["crew"].name, date(2026, 12, 24), "away")
    stands = KeptProgramme.objects.get(job=job)
    assert (stands.on, stands.at_entry, stands.data, stands.forecast.digest) == was
    at, on = WeekSaid.objects.filter(crew=job.crew)
    assert (at.person.name, at.task, at.on) == (world.people["crew"].name, "laying", None)
    assert (on.person, on.task, on.on, on.half) == (None, "dig", date(2026, 12, 9), 1)
    now = snapshot(job).assessment.surveys.ground["A1"].judgement
    assert now.deviation == pytest.approx(said.deviation) and now.standing is said.standing
    assert not Entry.objects.filter(by=stranger).exists()
    lead = job.crew.memberships.get(role="lead").person
    assert lead.username.endswith("-2") and not lead.has_usable_password()
    way = capsys.readouterr().out.split("/password/")[1].split("/")[0]
    client = Client()
    assert client.post(f"/password/{way}/", {"password": "wheel-and-barrow"}).status_code == 302
    for page in ("ground/?station=A1", "record/", "sign-offs/"):
        assert client.get(f"/jobs/{job.id}/{page}").status_code == 200
    photo = Entry.objects.get(kind="delivered").body["photo"]
    assert client.get(f"/jobs/{job.id}/photos/{photo}/").status_code == 200
    # What is recorded now goes on with the same chain, and goes out again with it.
    out = io.BytesIO()
    take_crew(job.crew, None, out)
    with zipfile.ZipFile(out) as archive:
        record = json.loads(archive.read(f"jobs/{job.id}.json"))
    assert record["head"] == before and first_fault(record["entries"], before) is None
    with pytest.raises(CommandError, match="is here already"):
        call_command("bring_crew", str(file))
    assert Crew.objects.count() == 1, "the second was brought in no part"


@pytest.mark.parametrize(
    "harm",
    [
        "an entry",
        "a photo",
        "a stranger's file",
        "no crew",
        "a number for a name",
        "words",
        "a forecast of nowhere",
        "a programme of no entry",
        "nought of a machine",
    ],
)
def test_an_archive_with_anything_wrong_brings_nothing(taken: tuple[World, Path], tmp_path, harm: str) -> None:
    world, file = taken
    job = world.job.id
    flushed()
    bad = tmp_path / "bad.zip"
    with zipfile.ZipFile(file) as archive, zipfile.ZipFile(bad, "w") as other:
        for name in archive.namelist():
            content = archive.read(name)
            if harm == "an entry" and name == f"jobs/{job}.json":
                content = content.replace(b'"number": 3', b'"number": 4', 1)
            if harm == "a photo" and name.startswith("photos/"):
                content = picture(size=(300, 200))
            if name == "crew.json":
                if harm == "no crew":
                    continue
                data = json.loads(content)
                if harm == "a forecast of nowhere":
                    data["programmes"][0]["forecast"] = 99
                if harm == "a programme of no entry":
                    data["programmes"][0]["at_entry"] = 999
                if harm == "nought of a machine":
                    data["weather"]["machines"] = {"saw": 0}
                content = json.dumps(data).encode()
                if harm == "a number for a name":
                    content = json.dumps(json.loads(content) | {"rod": 7}).encode()
            other.writestr(name, content)
        if harm == "a stranger's file":
            other.writestr("../../etc/cron.d/x", b"x")
    if harm == "words":
        bad.write_bytes(b"not a zip")
    with pytest.raises(CommandError):
        call_command("bring_crew", str(bad))
    assert not Crew.objects.exists() and not Job.objects.exists() and not Person.objects.exists()
