"""Health, metrics, the log, and the commands that begin a server."""

import io
import json
import logging
import re

import pytest
from django.core.management import CommandError, call_command
from django.db import DatabaseError
from django.test import Client
from tests.conftest import World

from nivelum.crews.models import Crew
from nivelum.watch import health


def test_it_says_that_it_is_there_and_whether_it_can_work(db, monkeypatch) -> None:
    assert Client().get("/health/live").status_code == 200
    ready = Client().get("/health/ready")
    assert ready.status_code == 200 and ready.json() == {"TheDatabase": "OK", "Photos": "OK"}

    def waits(_executor, _targets) -> list[int]:
        return [1, 2]

    monkeypatch.setattr(health.MigrationExecutor, "migration_plan", waits)
    late = Client().get("/health/ready")
    assert late.status_code == 503 and "2 migrations wait" in late.json()["TheDatabase"]

    def broken(*_arguments) -> None:
        raise DatabaseError("password of nobody's business")

    monkeypatch.setattr(health.MigrationExecutor, "migration_plan", broken)
    gone = Client().get("/health/ready")
    assert gone.status_code == 503 and "does not answer" in gone.json()["TheDatabase"]
    assert "business" not in gone.content.decode()


def test_metrics_are_for_whoever_has_the_token(db, settings) -> None:
    assert Client().get("/metrics").status_code == 404
    settings.METRICS_TOKEN = "counted"
    for said in ("", "Bearer", "Bearer other", "counted"):
        assert Client().get("/metrics", headers={"Authorization": said}).status_code == 404
    found = Client().get("/metrics", headers={"Authorization": "Bearer counted"})
    assert found.status_code == 200 and b"# HELP" in found.content


def test_a_line_of_the_log_is_json_with_the_job_it_is_of(world: World, monkeypatch) -> None:
    import structlog

    from nivelum.watch.log import _name_the_job, formatter

    out = io.StringIO()
    handler = logging.StreamHandler(out)
    handler.setFormatter(formatter())
    logger = logging.getLogger("nivelum.test")
    logger.addHandler(handler)

    class Asked:
        path = f"/jobs/{world.job.id}/ground/"

    with structlog.contextvars.bound_contextvars(request_id="r1"):
        _name_the_job(Asked(), logger)
        logger.warning("the rod said %s", 1406)
        logger.warning("Not Found: /password/s3cret-token_0/ and /join/another/ and /shared/third/record.pdf")
        structlog.contextvars.unbind_contextvars("job")
    logger.removeHandler(handler)
    line, other = map(json.loads, out.getvalue().splitlines())
    assert other["event"] == "Not Found: /password/…/ and /join/…/ and /shared/…/record.pdf"
    assert line["event"] == "the rod said 1406" and line["job"] == str(world.job.id)
    assert (line["request_id"], line["level"]) == ("r1", "warning")


def test_the_first_crew_by_a_command(db, capsys) -> None:
    call_command(
        "first_crew", "Sand & Setting", "Brann Quarrie", "--username", "brann", "--time-zone", "Europe/Dublin"
    )
    way = re.search(r"/password/[\w-]+/", capsys.readouterr().out)[0]
    client = Client()
    assert client.post(way, {"password": "wheel-and-barrow"}).status_code == 302
    crew = Crew.objects.get(name="Sand & Setting")
    assert crew.time_zone == "Europe/Dublin" and "Got it" in client.get("/").content.decode()
    with pytest.raises(CommandError, match="already"):
        call_command("first_crew", "Another", "Brann", "--username", "BRANN")
    call_command("password_link", "brann")
    again = re.search(r"/password/[\w-]+/", capsys.readouterr().out)[0]
    assert Client().get(again).status_code == 200
    with pytest.raises(CommandError, match="nobody"):
        call_command("password_link", "nobody")
    assert list(crew.lines.order_by("id").values_list("deed", flat=True)) == ["founded", "link", "password", "link"]
