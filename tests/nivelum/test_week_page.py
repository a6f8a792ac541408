"""The crew's week on its page: asked, worked out on a bench, kept; what was fixed; days for each."""

import time
from datetime import date, timedelta

import pytest
from django.test import Client
from django.utils import timezone
from icalendar import Calendar
from tests.conftest import World, make_world

from nivelum.days.models import KeptWeek, WeekSaid
from nivelum.days.weekly import asked_week, half_days
from nivelum.recording.moments import minute_now
from nivelum.weather.models import DayOff
from nivelum.weather.services import weather_of, working_time


def at(world: World, leaf: str = "") -> str:
    return f"/crews/{world.crew.id}/week/{leaf}"


def asked(world: World, client: Client) -> KeptWeek:
    """Asked, and waited for as the page does."""
    answer = client.post(at(world, "ask/"))
    ends = time.monotonic() + 120
    while answer.status_code == 200 and time.monotonic() < ends:
        text = answer.content.decode()
        assert "Working it out" in text, text
        begun = text.split("begun=")[1].split('"')[0]
        time.sleep(0.2)
        answer = client.get(at(world, f"asked/?begun={begun}"))
    assert answer.status_code == 302
    return KeptWeek.objects.filter(crew=world.crew).first()


def test_half_days_are_those_that_have_not_begun_and_are_worked(world: World) -> None:
    DayOff.objects.create(crew=world.crew, on=date(2026, 12, 9))
    working = working_time(world.crew, weather_of(world.crew), DayOff.objects.filter(crew=world.crew))
    found = half_days(minute_now().replace(year=2026, month=12, day=8, hour=10, minute=0), working)
    assert [(half.on.day, half.half) for half in found[:4]] == [(8, 1), (10, 0), (10, 1), (11, 0)]
    assert len(found) == 120 and found[0].begins.hour == 11


def test_a_week_is_worked_out_kept_fixed_and_asked_again(world: World) -> None:
    lead = world.client("lead")
    assert "1 job in hand" in lead.get(at(world)).content.decode()
    first = asked(world, lead)
    placed = {each["task"].partition("|")[2]: each for each in first.data["placed"]}
    assert first.data["gap"] == 0 and "handover" in "".join(each["title"] for each in placed.values()).lower()
    page = lead.get(at(world)).content.decode()
    assert "What was promised can be held" in page and "Proved the best" in page and "Test pad" in page
    task = f"{world.job.id}|{list(placed)[-1]}"
    day = first.data["halves"][-1][0]
    fixed = {"task": task, "person": str(world.people["crew"].pk), "on": day, "half": "0"}
    assert lead.post(at(world, "said/"), fixed).status_code == 302
    again = asked(world, lead)
    moved = next(each for each in again.data["placed"] if each["task"] == task)
    assert moved["halves"][0] == [day, 0] and str(world.people["crew"].pk) in dict(moved["people"])
    assert "Since the proposal before" in lead.get(at(world)).content.decode()
    said = WeekSaid.objects.get(crew=world.crew)
    assert lead.post(at(world, "said/"), {"gone": said.pk}).status_code == 302
    assert lead.post(at(world, "said/"), {"task": task}).status_code == 422
    assert lead.post(at(world, "said/"), {"task": "x", "on": "2026-12-09"}).status_code == 422
    # Days for each: on a page and in a calendar.
    who = world.people["crew"].pk
    assert "Test pad" in lead.get(at(world, f"{who}/")).content.decode()
    events = Calendar.from_ical(lead.get(at(world, f"{who}.ics")).content).walk("VEVENT")
    assert events and all("Test pad" in event["summary"] for event in events)
    assert lead.get(at(world, "999999/")).status_code == 404


def test_what_cannot_be_as_it_was_fixed_is_told(world: World) -> None:
    asked_ = asked_week(world.crew, minute_now())
    first, *_others = asked_.question.tasks
    last = asked_.halves[-1]
    job, _bar, task = first.key.partition("|")
    WeekSaid.objects.create(crew=world.crew, job_id=job, task=task, on=last.on, half=last.half, said_by="x")
    lead = world.client("lead")
    answer = lead.post(at(world, "ask/"))
    ends = time.monotonic() + 60
    while "Working it out" in answer.content.decode() and time.monotonic() < ends:
        begun = answer.content.decode().split("begun=")[1].split('"')[0]
        time.sleep(0.2)
        answer = lead.get(at(world, f"asked/?begun={begun}"))
    assert "cannot be as it was fixed" in answer.content.decode()
    assert "not there any more" in lead.get(at(world, "asked/?begun=x")).content.decode()


@pytest.mark.parametrize("role", ["crew", "engineer", "viewer"])
def test_everybody_sees_the_week_and_only_a_lead_asks_and_fixes(world: World, role: str) -> None:
    client = world.client(role)
    assert client.get(at(world)).status_code == 200
    for leaf in ("ask/", "stop/", "said/"):
        assert client.post(at(world, leaf)).status_code == 403
    assert make_world(name="Others").client("lead").get(at(world)).status_code == 404


def test_a_promise_and_days_off_go_into_the_question(world: World) -> None:
    from tests.nivelum.test_placing import send

    day = timezone.localdate() + timedelta(days=20)
    send(world, "days/programme/said/promised/", day=day.isoformat())
    DayOff.objects.create(crew=world.crew, person=world.people["crew"], on=day)
    found = asked_week(world.crew, minute_now())
    (job,) = found.question.jobs
    assert job.due == sum(half.on <= day for half in found.halves)
    off = found.question.off[str(world.people["crew"].pk)]
    assert {found.halves[n].on for n in off} <= {day}
    assert set(found.question.people) == {str(world.people[role].pk) for role in ("lead", "crew")}


def test_where_nobody_works_it_says_so(world: World) -> None:
    first = timezone.localdate()
    DayOff.objects.bulk_create(DayOff(crew=world.crew, on=first + timedelta(days=n)) for n in range(420))
    assert "Nobody works in these weeks" in world.client("lead").post(at(world, "ask/")).content.decode()
