"""Who is on a job now, and what has just happened: one line on every page of it."""

from uuid import UUID

from django.template.loader import render_to_string
from django.utils.safestring import SafeString

from nivelum.jobs.models import Entry, Job
from nivelum.live.presence import here
from nivelum.records.telling import told_plainly


def company_line(job: Job) -> SafeString:
    """HTML; two queries."""
    last = Entry.objects.filter(job=job).order_by("-number").first()
    told = told_plainly(last, job.crew.unit) if last else ""
    return render_to_string("record/company.html", {"here": here(job), "last": last, "told": told})


def company_of(job_id: UUID) -> SafeString:
    """The line of a job in its crew's words, for all who look at it; three queries."""
    job = Job.objects.select_related("crew").get(id=job_id)
    with job.crew.in_its_words():
        return company_line(job)
