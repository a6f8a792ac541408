"""The site as a whole: settings, demo, exports, drawings."""

import json
import os
import re
import subprocess
import sys
from itertools import pairwise

import pytest
from django.core.management import call_command
from django.db import connection
from django.test import Client
from lxml import etree
from tests.conftest import World

from groundwork.assess import assess
from groundwork.files import loads
from groundwork.record import first_fault
from groundwork.verdict import Standing
from nivelum.crews.models import Person
from nivelum.drawing.glyphs import lone_glyph
from nivelum.drawing.stake import Label, spread
from nivelum.jobs.models import Entry, Job
from nivelum.jobs.services import snapshot


def test_production_settings_pass_djangos_own_deployment_check() -> None:
    env = {k: v for k, v in os.environ.items() if not k.startswith("NIVELUM_") and k != "DJANGO_ALLOW_ASYNC_UNSAFE"}
    env |= {"NIVELUM_SECRET_KEY": "k3-" + "abcdefghij0123456789" * 3, "NIVELUM_HOSTS": "site.example"}
    command = [sys.executable, "-m", "nivelum.manage", "check", "--deploy", "--fail-level", "WARNING"]
    done = subprocess.run(command, env=env, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_without_a_secret_it_does_not_start() -> None:
    env = {k: v for k, v in os.environ.items() if k != "NIVELUM_SECRET_KEY"}
    done = subprocess.run(
        [sys.executable, "-m", "nivelum.manage", "check"],
        env=env,
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode != 0 and "NIVELUM_SECRET_KEY" in done.stderr


@pytest.fixture
def emptied(db) -> None:
    """Nobody is there, as far as one test sees: taken back with its transaction."""
    with connection.cursor() as cursor:
        guards = (("jobs_entry", "append_only"), ("crews_crewline", "only_grows"))
        for table, guard in guards:
            cursor.execute(f"ALTER TABLE {table} DISABLE TRIGGER {guard}")
        cursor.execute("TRUNCATE crews_crew, crews_person CASCADE")
        for table, guard in guards:
            cursor.execute(f"ALTER TABLE {table} ENABLE ALWAYS TRIGGER {guard}")


def test_the_demo_is_loaded_once_and_shows_the_dig_at_different_points(emptied, capsys) -> None:
    call_command("load_demo")
    before = Entry.objects.count()
    call_command("load_demo")
    assert Entry.objects.count() == before
    assert "ines" in capsys.readouterr().out
    client = Client()
    client.force_login(Person.objects.get(username="ines"), backend="django.contrib.auth.backends.ModelBackend")
    page = client.get("/").content.decode()
    gates = ["signed, but changed since: sign again", "ready for the lead to sign", "to clear"]
    places = [page.index(gate) for gate in gates]
    assert places == sorted(places)
    assert "Pump house" not in page
    for job in Job.objects.filter(crew__name="Tarn & Ostler"):
        for room in (
            "base/",
            "base/falls/",
            "base/schools/",
            "base/ground/",
            "base/brief/",
            "ground/",
            "ground/book/",
            "ground/targets/",
            "set-out/",
            "set-out/services/",
            "set-out/strings/",
            "set-out/square/",
            "sign-offs/",
            "record/",
        ):
            assert client.get(f"/jobs/{job.id}/{room}").status_code == 200
    built = Job.objects.get(name__startswith="Turning")
    line = snapshot(built).assessment.stages.line
    assert [a.gate.is_signed for a in line] == [True] * 12 + [False] and not line[-1].unshot
    assert len({entry.at.date() for entry in built.entries.all()}) > 10
    assert client.get(f"/jobs/{Job.objects.get(name__startswith='Pump').id}/ground/").status_code == 404


def test_a_job_comes_out_as_a_job_file_and_its_record_verifies(world: World) -> None:
    world.shoot_all()
    client = world.client("viewer")
    job = loads(client.get(f"/jobs/{world.job.id}/job.json").content.decode())
    ours = world.assessment()
    assert ours.stages.of("excavation").gate == "ready to sign"
    assert [f.rule for f in assess(job).stages.of("excavation").stops] == ["G01"]  # sign-offs stay with the record
    assert [a.judgement.deviation for a in assess(job).surveys.ground.values()] == pytest.approx(
        [a.judgement.deviation for a in ours.surveys.ground.values()]
    )
    record = json.loads(client.get(f"/jobs/{world.job.id}/record.json").content)
    assert first_fault(record["entries"], record["head"]) is None


def test_the_plan_marks_every_station_with_its_verdict_in_words(world: World) -> None:
    world.set_up()
    world.shoot("A1", high_mm=34)
    page = world.client("viewer").get(f"/jobs/{world.job.id}/ground/?station=B1").content.decode()
    plan = etree.fromstring(re.search(r'<svg [^>]*class="plan".*?</svg>', page, re.S)[0])
    labels = {a.get("data-station"): a.get("aria-label") for a in plan.iter("{*}a")}
    assert labels["A1"] == "A1 34 mm, dig"
    assert labels["B1"] == "B1, not shot"
    assert len(labels) == len(world.assessment().job.stations)


def test_each_verdict_has_a_mark_of_its_own() -> None:
    # High is to be dug or taken off alike, low filled or made up: they share theirs, and differ in their words.
    marks = {re.sub(r"v-\w+", "", str(lone_glyph(standing, ""))) for standing in Standing}
    assert len(marks) == len(Standing) - 2


def test_the_stake_is_to_scale(world: World) -> None:
    page = world.client("viewer").get(f"/jobs/{world.job.id}/ground/").content.decode()
    stake = etree.fromstring(re.search(r'<svg [^>]*class="stake".*?</svg>', page, re.S)[0])
    heights = [float(r.get("height")) for r in stake.iter("{*}rect") if r.get("class") == "layer"]
    # Paver 80, bedding 30 less 5 it settles, base 150.
    assert [h / sum(heights) for h in heights] == pytest.approx([80 / 255, 25 / 255, 150 / 255], abs=2e-3)


def test_labels_make_way_for_each_other() -> None:
    labels = [Label(y, (("text", ""),)) for y in (10, 11, 12, 200, 201)]
    spread(labels, 0, 220)
    tops = [label.placed for label in labels]
    assert all(b - a >= 17 for a, b in pairwise(tops))
    assert tops[0] >= 0 and tops[-1] + 17 <= 220
