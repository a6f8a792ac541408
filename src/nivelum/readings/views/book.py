"""What is read on paper too: the level book, and what to read at every station of a surface."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import groupby

from django.core.paginator import Paginator
from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from groundwork.files import Book, BookLine, books
from groundwork.levels import LineOfSight
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import snapshot
from nivelum.readings.hand import hand
from nivelum.readings.place import chosen

ON_A_PAGE = 300
"""Lines of the level book."""


@dataclass(frozen=True)
class Opened:
    """What a page of the level book shows of a run: some lines, and whether they begin and end it."""

    book: Book
    lines: tuple[BookLine, ...]
    begins: bool
    ends: bool


@require_GET
@job_view(Verb.SEE)
def book(request: Request, visit: Visit) -> HttpResponse:
    """Every run of the level, booked by height of instrument and by rise and fall: a page of it, the last where none
    is asked for, or the whole to print."""
    shot = snapshot(visit.job)
    whole = request.GET.get("page") == "all"
    runs = books(shot.assessment)
    lines = [(run, number) for run in runs for number in range(len(run.lines))]
    pages = Paginator(lines, max(len(lines), 1) if whole else ON_A_PAGE)
    page = pages.get_page(1 if whole else request.GET.get("page", pages.num_pages))
    context = job_screen(visit, shot, "ground") | {
        "leaf": "book",
        "opened": list(_opened(page.object_list)),
        "page": page,
        "whole": whole,
        "long": len(lines) > ON_A_PAGE,
        "by_rise": request.GET.get("by") == "rise",
    }
    return render(request, "ground/book.html", context)


def _opened(lines: Iterable[tuple[Book, int]]) -> Iterator[Opened]:
    for _run, some in groupby(lines, key=lambda line: id(line[0])):
        shown = list(some)
        run, first, last = shown[0][0], shown[0][1], shown[-1][1] + 1
        yield Opened(run, run.lines[first:last], first == 0, last == len(run.lines))


@require_GET
@job_view(Verb.SEE)
def targets(request: Request, visit: Visit) -> HttpResponse:
    """What should be read at every station of a surface with the tool in hand, to print or carry."""
    shot = snapshot(visit.job)
    assessment = shot.assessment
    held, survey = hand(request, visit, assessment), assessment.surveys.of(chosen(request.GET, assessment).surface)
    rows = [(answer, survey.target(answer.station, held.reference)) for answer in survey.answers.values()]
    context = job_screen(visit, shot, "ground") | {
        "leaf": "targets", "survey": survey, "hand": held, "rows": rows,
        "level": held.reference if isinstance(held.reference, LineOfSight) else None,
    }  # fmt: skip
    return render(request, "ground/targets.html", context)
