"""What the Yard shows, kept job by job, so that it costs the same however many there are."""

from collections.abc import Iterable
from typing import Any, NamedTuple

from django.core.paginator import Page, Paginator
from django.db.models import Count, Exists, OuterRef, Q, QuerySet, Subquery, Sum
from django.utils import timezone
from django.utils.dateparse import parse_datetime

from groundwork.schools import Slot
from groundwork.stages import Gate
from nivelum.crews.models import Person
from nivelum.drawing.plan import thumbnail
from nivelum.jobs.models import Entry, Job, Summary
from nivelum.jobs.services import snapshot

WANTS_SOMEONE = [
    Gate.OVERTAKEN,
    Gate.READY,
    Gate.HELD,
    Gate.READY_TO_CHECK,
    Gate.NOT_YET,
    Gate.SIGNED,
    Gate.SIGNED_ACCEPTED,
]
ON_A_PAGE = 30


class Yard(NamedTuple):
    """A page of jobs, each with its summary, and of all of one's jobs how many are in hand, how many finished, and
    how many entries they have."""

    page: Page[Job]
    in_hand: int
    finished: int
    number: int


def yard(person: Person, number: str, asked: str, *, finished: bool) -> Yard:
    """The jobs of one's crews, those that need someone first: those `asked` for by a part of their name or of their
    crew's, whether finished or not; else those in hand, or the `finished`. A handful of queries, and a few for each
    job that somebody recorded something on since it was last shown."""
    jobs = Job.objects.filter(crew__memberships__person=person)
    _mended(_gone_on(jobs))
    counts = jobs.aggregate(
        in_hand=Count("pk", filter=Q(summary__is_finished=False)),
        finished=Count("pk", filter=Q(summary__is_finished=True)),
        number=Sum("summary__number", default=0),
    )
    shown = (
        jobs.filter(Q(name__icontains=asked) | Q(crew__name__icontains=asked))
        if asked
        else jobs.filter(summary__is_finished=finished)
    )
    ordered = shown.select_related("crew", "summary").order_by("summary__rank", "name", "pk")
    page = Paginator(ordered, ON_A_PAGE).get_page(number)
    _mended(job for job in page if job.summary.day != timezone.localdate(timezone=job.crew.zone))
    return Yard(page, counts["in_hand"], counts["finished"], counts["number"])


def _gone_on(jobs: QuerySet[Job]) -> Iterable[Job]:
    """The jobs whose record went on since what the Yard shows of them was made."""
    newest = Entry.objects.filter(job=OuterRef("pk")).order_by("-number").values("hash")[:1]
    is_as_kept = Exists(Summary.objects.filter(job=OuterRef("pk"), head=OuterRef("newest")))
    return jobs.annotate(newest=Subquery(newest)).filter(~is_as_kept).select_related("crew")


def _mended(jobs: Iterable[Job]) -> None:
    """What the Yard shows of some jobs, made anew."""
    for job in jobs:
        shot = snapshot(job)
        stages = shot.assessment.stages
        step = stages.in_hand
        newest = max(shot.made.values(), key=lambda made: made.at)
        shows = {
            "title": step.stage.title,
            "gate": step.gate,
            "holding": step.holding,
            "awaits": list(step.awaits),
            "line": [{"gate": each.gate, "in_hand": each.stage == step.stage} for each in stages.line],
            "shot": shot.assessment.surveys.formation.shot_count,
            "stations": len(shot.assessment.job.stations),
            "by": newest.by_name,
            "at": newest.at.isoformat(),
            "thumbnail": thumbnail(shot.assessment),
        }
        known = {
            "head": shot.head,
            "day": shot.assessment.job.today,
            "number": shot.number,
            "rank": WANTS_SOMEONE.index(step.gate),
            "is_finished": all(each.gate.is_signed for each in stages.line),
            "shows": shows,
        }
        job.summary, _made = Summary.objects.update_or_create(job=job, defaults=known)


def row(job: Job) -> dict[str, Any]:
    """A job as its row in the Yard has it."""
    shows = job.summary.shows
    return {
        **shows,
        "gate": Gate(shows["gate"]),
        "awaits": [Slot(each) for each in shows["awaits"]],
        "line": [{**each, "gate": Gate(each["gate"])} for each in shows["line"]],
        "at": parse_datetime(shows["at"]),
    }
