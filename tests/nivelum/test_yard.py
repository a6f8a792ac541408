"""The Yard: what it keeps of a job is what reading the job afresh says, at the same cost however many there are."""

from datetime import timedelta

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from tests.conftest import PAD, World

from groundwork.files import loads
from nivelum.exchange.services import import_job
from nivelum.jobs import services, summaries
from nivelum.jobs.models import Job, Summary
from nivelum.jobs.services import snapshot

pytestmark = pytest.mark.django_db


def more_jobs(world: World, *names: str) -> list[Job]:
    people = [world.people["lead"]]
    return [import_job(world.crew, loads(PAD.replace("Test pad", name)), people) for name in names]


def names(world: World, **asked: str) -> list[str]:
    lead, page = world.people["lead"], asked.get("page", "1")
    found = summaries.yard(lead, page, asked.get("q", ""), finished="which" in asked)
    return [job.name for job in found.page]


def the_only_row(world: World) -> dict:
    [job] = summaries.yard(world.people["lead"], "1", "", finished=False).page
    return summaries.row(job)


def test_what_it_shows_follows_the_record(world: World) -> None:
    before = the_only_row(world)
    assert (before["shot"], before["stations"]) == (0, len(world.assessment().job.stations))
    world.set_up()
    world.shoot("A1")
    after = the_only_row(world)
    step = world.assessment().stages.in_hand
    assert (after["shot"], after["title"], after["gate"], after["holding"]) == (
        1, step.stage.title, step.gate, step.holding)  # fmt: skip
    assert after["by"] == "Crew Person" and after["thumbnail"].count("<circle") == 1
    assert [each["gate"] for each in after["line"]] == [each.gate for each in world.assessment().stages.line]


def test_who_needs_someone_comes_first_as_reading_every_job_says(world: World) -> None:
    for job in more_jobs(world, "b", "a", "c"):
        if job.name != "a":
            World(world.crew, world.people, job).set_up()
            World(world.crew, world.people, job).shoot("A1")
    every = Job.objects.filter(crew=world.crew).select_related("crew")
    order = summaries.WANTS_SOMEONE.index
    by_hand = sorted(every, key=lambda job: (order(snapshot(job).assessment.stages.in_hand.gate), job.name))
    assert names(world) == [job.name for job in by_hand]


def test_it_costs_the_same_however_many_jobs_there_are(world: World) -> None:
    client = world.client("lead")
    costs = []
    for count in (2, 12):
        more_jobs(world, *(f"{count} {n}" for n in range(count)))
        client.get("/")
        services._newest.clear()  # nothing is known in this process
        with CaptureQueriesContext(
            connection,
        ) as queries:
            assert client.get("/").status_code == 200
        costs.append(len(queries))
    assert costs[0] == costs[1] <= 10


def test_pages_find_and_the_archive(world: World, monkeypatch) -> None:
    monkeypatch.setattr(summaries, "ON_A_PAGE", 3)
    more_jobs(world, "Lower court", "Upper court", "Slip", "Ramp")
    first, second = names(world), names(world, page="2")
    assert len(first) == 3 and len(second) == 2 and not set(first) & set(second)
    assert names(world, page="moon") == first and names(world, page="99") == second
    assert sorted(names(world, q="COURT")) == ["Lower court", "Upper court"] and names(world, q="nowhere") == []
    assert len(names(world, q=world.crew.name[:4])) == 3
    done = Job.objects.get(name="Slip", crew=world.crew)
    Summary.objects.filter(job=done).update(is_finished=True)
    assert names(world, which="finished") == ["Slip"] and "Slip" not in names(world) + names(world, page="2")
    assert names(world, q="slip") == ["Slip"]
    page = world.client("lead").get("/", {"q": "court", "page": "1"}).content.decode()
    assert "Lower court" in page and "Ramp" not in page and "Finished: 1" in page and 'value="court"' in page
    assert "“moon”" in world.client("lead").get("/", {"q": "moon"}).content.decode()


def test_a_days_passing_is_seen_on_the_page_that_is_looked_at(world: World) -> None:
    names(world)
    kept = Summary.objects.get(job=world.job)
    Summary.objects.filter(job=world.job).update(day=kept.day - timedelta(days=1), shows=kept.shows | {"shot": 77})
    row = the_only_row(world)
    assert row["shot"] == 0 and Summary.objects.get(job=world.job).day == kept.day


def test_nobody_sees_what_is_kept_of_another_crews_jobs(world: World) -> None:
    from tests.conftest import make_world

    other = make_world()
    names(other)
    found = summaries.yard(world.people["lead"], "1", "", finished=False)
    assert [job.pk for job in found.page] == [world.job.pk] and found.in_hand == 1
