"""The heads of all of a crew's jobs on a page that leaves the house: printed, pinned to a wall, mailed."""

from collections.abc import Iterable

from django.utils import timezone
from django.utils.translation import gettext as _

from groundwork.record import Head
from nivelum.crews.models import Crew
from nivelum.jobs.models import Entry


def heads_of(crew: Crew) -> list[tuple[str, Head]]:
    """Every job of a crew by name with its head now. One query."""
    newest = Entry.objects.filter(job__crew=crew).order_by("job", "-number").distinct("job")
    rows = newest.values_list("job__name", "job", "number", "hash")
    return sorted((name, Head(last, number, str(job))) for name, job, number, last in rows)


def page_of_heads(crew: Crew, heads: Iterable[tuple[str, Head]]) -> str:
    """The heads as text, one a line as `verify --heads` reads them, each under its job's name."""
    on = timezone.localtime()
    lines = [
        _("Heads of the records of {crew}, {day}").format(crew=crew.name, day=f"{on:%Y-%m-%d %H:%M %Z}"),
        _("Kept where nobody can change it, this page proves later that no record was written anew before today:"),
        "bin/nivelum verify RECORD --heads THIS_PAGE",
    ]
    for name, head in heads:
        lines += ["", name, str(head)]
    return "\n".join(lines) + "\n"
