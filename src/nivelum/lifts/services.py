"""The verbs of the lifts that are not plain entries."""

from dataclasses import replace
from uuid import uuid4

from django.db import transaction
from django.utils.translation import gettext as _

from groundwork.base import Role
from groundwork.job import Design
from groundwork.kinds import machine as machine_of
from groundwork.layerwork import MachineBrought
from groundwork.measures import in_words
from groundwork.tools import Machine
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Entry
from nivelum.jobs.services import Author, append_value, lock, snapshot


class NotChosen(Exception):
    """The number of lifts cannot be changed; the message says why."""


@transaction.atomic
def choose_lifts(visit: Visit, role: Role, number: int, author: Author) -> None:
    """Lays a role's layers in so many lifts from now on. Raises `NotChosen` once anything was done to one of them."""
    lock(visit.job)
    assessment = snapshot(visit.job).assessment
    job, works = assessment.job, assessment.works
    if any(
        (lift.is_begun or assessment.surveys.of(key).shot_count) and lift.course and lift.course.layer.role is role
        for key, lift in works.lifts.items()
    ):
        raise NotChosen(_("Work on that layer has begun: its lifts stay as they are."))
    lifts = tuple(sorted((dict(job.specification.lifts) | {role: number}).items()))
    try:
        changed = replace(job, specification=replace(job.specification, lifts=lifts))
    except ValueError as error:
        raise NotChosen(in_words(error, job.unit, _)) from error
    append_value(visit.job, Design(str(uuid4()), changed), author)


def known_machines(visit: Visit, here: list[Machine]) -> list[Machine]:
    """The machines the crew has brought to its other jobs and not to this one, each once, by name. One query."""
    bodies = (
        Entry.objects.filter(job__crew=visit.job.crew, kind=MachineBrought.KIND)
        .exclude(job=visit.job)
        .order_by("at")
        .values_list("body", flat=True)
    )
    found = {machine.name: machine for machine in (machine_of(body["machine"]) for body in bodies)}
    names = {machine.name for machine in here}
    return [found[name] for name in sorted(found) if name not in names]
