"""The only way a view comes by a job: through the crew of whoever asks."""

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import wraps
from uuid import UUID

from django.core.exceptions import PermissionDenied
from django.db.models import F
from django.http import Http404, HttpResponseBase
from django.shortcuts import render

from nivelum.crews.models import Person
from nivelum.crews.policy import Verb, may, require
from nivelum.crews.requests import Request
from nivelum.crews.sessions import PERSON
from nivelum.jobs import outbox
from nivelum.jobs.models import Entry, Job
from nivelum.jobs.services import IdentifierUsed


@dataclass(frozen=True)
class Visit:
    """Someone at a job, in the role they have there; `written` is what they have recorded on this visit."""

    job: Job
    person: Person
    role: str
    from_outbox: bool = False
    written: list[Entry] = field(default_factory=list, compare=False)

    def may(self, verb: Verb) -> bool:
        return may(self.role, verb)


def job_view(verb: Verb) -> Callable[[Callable[..., HttpResponseBase]], Callable[..., HttpResponseBase]]:
    """Hands the view a `Visit` for `job_id`: 404 for whoever is not of the job's crew, 403 where their role
    may not do `verb`, 409 where the page was another person's. What was written is named in the answer. One query."""

    def decorate(view: Callable[..., HttpResponseBase]) -> Callable[..., HttpResponseBase]:
        @wraps(view)
        def visited(request: Request, job_id: UUID, **named: str) -> HttpResponseBase:
            sent = outbox.is_from_outbox(request)
            if request.method == "POST" and request.headers.get(PERSON, str(request.user.pk)) != str(request.user.pk):
                return outbox.answer(outbox.somebody_elses())
            visit = None
            try:
                visit = _visit(request, job_id, verb, sent)
                with visit.job.crew.in_its_words():
                    response = view(request, visit, **named)
            except outbox.Settled as settled:
                return outbox.answer(settled.outcome, settled.verdict)
            except Http404:
                if not sent:
                    raise
                return outbox.answer(outbox.gone() if visit else outbox.no_longer_theirs())
            except PermissionDenied:
                if not sent:
                    raise
                return outbox.answer(outbox.role_withdrawn())
            except IdentifierUsed:
                if sent:
                    return outbox.answer(outbox.used_before())
                return render(request, "409.html", status=409)
            if visit.written:
                response[outbox.WRITTEN] = " ".join(str(entry.id) for entry in visit.written)
            return response

        return visited

    return decorate


def _visit(request: Request, job_id: UUID, verb: Verb, from_outbox: bool) -> Visit:
    job = (
        Job.objects.filter(id=job_id, crew__memberships__person=request.user)
        .select_related("crew")
        .annotate(role=F("crew__memberships__role"))
        .first()
    )
    if job is None:
        raise Http404
    require(job.role, verb)
    return Visit(job, request.user, job.role, from_outbox)
