"""What a job teaches: measured, kept by the lead, offered to the next job with its spread, never taken unasked."""

import uuid

import pytest
from tests.conftest import make_world
from tests.nivelum.test_laying_room import LAYOUT

from groundwork.jointwork import FillStepDone, FillUsed
from groundwork.laywork import RowsLaid
from groundwork.stages import Lesson, LessonKind, combined
from nivelum.jobs.lessons import learnt
from nivelum.jobs.models import Taught
from nivelum.recording.moments import minute_now

pytestmark = pytest.mark.django_db


def taught(rows: int, hours: float, used: float = 0.0):
    """A job laid so far in so many hours; its joints filled with so many times what was reckoned."""
    world = make_world(rod="mm")
    sent = LAYOUT | {"entry_id": str(uuid.uuid4())}
    world.client("crew").post(f"/jobs/{world.job.id}/laying/chosen/", sent)
    there = world.assessment()
    world.record(RowsLaid(str(uuid.uuid4()), there.laying.chosen.id, rows, hours))
    if used:
        world.record(FillUsed(str(uuid.uuid4()), used * there.jointing.reckoned))
        for step in there.jointing.fill.steps:
            world.record(FillStepDone(str(uuid.uuid4()), step.key, minute_now()))
    return world


def test_jobs_are_taken_together_each_as_much_as_another() -> None:
    """By hand: 4, 5 and 6 are 5 on the mean, 1 apart as a sample; one job alone keeps its own spread."""
    jobs = [Lesson(LessonKind.RATE, "", value, 0.3, n) for n, value in enumerate((4.0, 5.0, 6.0), 1)]
    found = combined(jobs)
    assert (found.value, found.spread, found.number) == (5.0, 1.0, 3)
    assert combined(jobs[:1]) is jobs[0] and combined([]) is None


def test_what_was_measured_is_kept_by_the_lead_and_offered_with_its_spread() -> None:
    world = taught(20, 3.0, 1.1)
    rate = world.assessment().laying.rate
    page = world.client("crew").get(f"/jobs/{world.job.id}/record/lessons/").content.decode()
    assert "Laid in a person-hour" in page and "1.10" in page and "Keep it" not in page
    assert not Taught.objects.filter(job=world.job).exists()
    keep = f"/jobs/{world.job.id}/record/lessons/kept/"
    assert world.client("crew").post(keep).status_code == 403
    assert world.client("lead").post(keep).status_code == 302
    assert learnt(world.job, LessonKind.RATE) is None  # a job learns from the others, not from itself
    # The crew's next job is offered it, and goes on with the table until it is taken.
    other = make_world(rod="mm").job
    other.crew = world.crew
    other.save()
    assert learnt(other, LessonKind.RATE).value == pytest.approx(rate)
    assert learnt(other, LessonKind.SAND, "dry sand").value == pytest.approx(1.1)
    filling = world.client("lead").get(f"/jobs/{other.id}/joints/filling/").content.decode()
    assert "110.0% of what was reckoned" in filling
    again = taught(20, 6.0)
    again.job.crew = world.crew
    again.job.save()
    assert world.client("lead").post(f"/jobs/{again.job.id}/record/lessons/kept/").status_code == 302
    both = learnt(other, LessonKind.RATE)
    # Twice the hours, half the rate: three quarters on the mean, and a quarter times the root of two apart.
    assert both.value == pytest.approx(0.75 * rate)
    assert both.spread == pytest.approx(0.25 * rate * 2**0.5, rel=1e-6)
