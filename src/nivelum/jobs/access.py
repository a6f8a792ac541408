"""The only way a view comes by a job: through the crew of whoever asks."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from uuid import UUID

from django.db.models import F
from django.http import Http404, HttpRequest, HttpResponse

from nivelum.crews.models import Person
from nivelum.crews.policy import Verb, may, require
from nivelum.jobs.models import Job


@dataclass(frozen=True)
class Visit:
    """Someone at a job, in the role they have there."""

    job: Job
    person: Person
    role: str

    def may(self, verb: Verb) -> bool:
        return may(self.role, verb)


def job_view(verb: Verb) -> Callable[[Callable[..., HttpResponse]], Callable[..., HttpResponse]]:
    """Hands the view a `Visit` for `job_id`: 404 for whoever is not of the job's crew, 403 where their role
    may not do `verb`. One query."""

    def decorate(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
        @wraps(view)
        def visited(request: HttpRequest, job_id: UUID, **named: str) -> HttpResponse:
            job = (
                Job.objects.filter(id=job_id, crew__memberships__person=request.user)
                .select_related("crew")
                .annotate(role=F("crew__memberships__role"))
                .first()
            )
            if job is None:
                raise Http404
            require(job.role, verb)
            with job.crew.in_its_words():
                return view(request, Visit(job, request.user, job.role), **named)

        return visited

    return decorate
