"""The verbs of the design: start a job, revise its design, take a school. A revision is a new entry of the record; it
names what it overtakes before it is kept."""

from collections.abc import Collection
from dataclasses import replace
from typing import Any
from uuid import UUID

from django.db import transaction
from django.utils.translation import gettext as _

from groundwork import entries
from groundwork import job as core
from groundwork.assess import assess, overtaken
from groundwork.job import SiteError, check_site, site_data
from groundwork.measures import in_words
from groundwork.soundness import advise, first_facets, with_pavers
from groundwork.stages import StageAnswer
from nivelum.crews.models import Crew
from nivelum.jobs import services as jobs
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Entry, Job
from nivelum.jobs.services import Author, IdentifierUsed, append_value, lock, sent_before, snapshot


class NotKept(Exception):
    """The design was not kept; `field` is what to mend and the message says how."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field
        self.message = message


class Overtakes(Exception):
    """The revision overtakes sign-offs that whoever sent it was not told of."""

    def __init__(self, answers: tuple[StageAnswer, ...]) -> None:
        super().__init__()
        self.answers = answers


@transaction.atomic
def start_job(crew: Crew, site: core.Job, author: Author, entry_id: UUID) -> Job:
    """A new job of `crew` with `site` as the first design of its record. Sent again with the same identifier, it
    answers with the job as first started. Raises `NotKept` where the site cannot be judged."""
    if known := Entry.objects.filter(id=entry_id).select_related("job").first():
        if (known.kind, known.by_id, known.job.crew_id, known.number) != (
            core.Design.KIND,
            author.person.pk,
            crew.id,
            1,
        ):
            raise IdentifierUsed
        return known.job
    _checked(site)
    return jobs.open_job(crew, site, author, entry_id)


def first_design(site: core.Job, like: core.Job | None = None) -> core.Job:
    """The site with the base of the school that fits it best, or that of the job it is to be `like`, and planes that
    lead its water out."""
    if like:
        site = replace(site, specification=with_pavers(like.specification, site))
        return replace(site, facets=first_facets(site))
    best = advise(replace(site, facets=first_facets(site)))[0]
    site = replace(site, specification=best.specification)
    return replace(site, facets=first_facets(site))


@transaction.atomic
def revise(
    visit: Visit,
    changed: core.Job,
    version_seen: int,
    known: Collection[str],
    entry_id: UUID,
    author: Author,
    typed: dict[str, Any] | None = None,
) -> Entry | None:
    """Keeps a changed design as a new entry; None where nothing has changed. `known` are the stages whose sign-offs
    the person was told it overtakes, `typed` what was typed for it.

    Sent again, it answers with the entry as first written. Raises `NotKept`, `Overtakes`.
    """
    lock(visit.job)
    if entry := sent_before(visit.job, core.Design.KIND, author, entry_id):
        return entry
    before = snapshot(visit.job).assessment
    if before.job.version != version_seen:
        raise NotKept("version", _("Someone has changed the design since you opened this page. Look again."))
    _checked(changed)
    _keep_what_was_read(before.job, changed)
    if site_data(changed) == site_data(before.job):
        return None
    lost = overtaken(before, assess(replace(changed, version=version_seen + 1)))
    if any(answer.stage.key not in known for answer in lost):
        raise Overtakes(lost)
    if changed.name != visit.job.name:
        visit.job.name = changed.name
        Job.objects.filter(id=visit.job.id).update(name=changed.name)
    return append_value(visit.job, core.Design(str(entry_id), changed, typed=typed), author)


def _checked(site: core.Job) -> None:
    try:
        check_site(site)
    except SiteError as error:
        raise NotKept(error.path, in_words(error, site.unit, _)) from error


_ON_THE_GROUND = (
    entries.Reading
    | entries.Fill
    | entries.FallCheck
    | entries.StringLine
    | entries.PegDistance
    | entries.MarginMeasured
)


def _keep_what_was_read(before: core.Job, after: core.Job) -> None:
    """Readings hang on their stations, lengths on their pegs and set-ups on their marks: none is moved from under
    them."""
    struck = {e.strikes for e in before.entries if isinstance(e, entries.Strike)}
    counting = [e for e in before.entries if e.id not in struck]
    moved = (before.ring, before.islands, before.station_spacing) != (
        after.ring,
        after.islands,
        after.station_spacing,
    )
    if moved and any(isinstance(e, _ON_THE_GROUND) for e in counting):
        message = _("The area and its stations have been measured: they stay. Strike out what was measured first.")
        raise NotKept("area", message)
    gone = {mark.name for mark in before.marks} - {mark.name for mark in after.marks}
    for entry in counting:
        used = entry.point if isinstance(entry, entries.Foresight) else getattr(entry, "mark", None)
        if used in gone:
            message = _("The level was set up on “{mark}”: it stays.").format(mark=used)
            raise NotKept("heights", message)
