"""What is read is asked about before it counts: it looks misread, or what read it is not sure enough."""

from collections.abc import Callable
from typing import Any
from uuid import UUID

from django.utils.translation import gettext as _

from groundwork.measures import Words
from groundwork.verdict import Suspicion
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Entry
from nivelum.jobs.outbox import Refusal, Settled, Way
from nivelum.recording.door import recorded
from nivelum.recording.forms import ReadForm


def refusal_of_doubt(visit: Visit, doubt: Suspicion, typed: str, called: str, address: str) -> Refusal:
    """A reading taken without a signal that looks misread: whoever read it says whether it does read that, or shoots
    what is `called` so again, at an address."""
    words = doubt.words.text(visit.job.crew.unit, _)
    ways = (
        Way("again", _("It does read {typed}: keep it").format(typed=typed), sets={"sure": typed}),
        Way("mend", _("It reads"), "reading"),
        Way("go", _("Shoot {station} again").format(station=called), address),
    )
    return Refusal("doubt", words, ways)


def read_once(
    visit: Visit,
    form: ReadForm,
    unsure: Callable[[Any], Words | None],
    misread: Callable[[Any], Suspicion | None],
    again: Callable[[Any], tuple[str, str]],
) -> tuple[Entry | None, Suspicion | None]:
    """Records what `form` holds; what is not sure enough is refused, what looks misread is asked about first, unless
    whoever read it says that it does read that. Each is asked of the entry the form makes; `again` says what it is
    called and where one shoots it again.

    Raises `Settled` where it came from an outbox.
    """
    if form.is_valid():
        entry = form.value()
        if not Entry.objects.filter(id=UUID(entry.id)).exists():
            if found := unsure(entry):
                said = found.text(visit.job.crew.unit, _)
                form.add_error("reading", f"{said[:1].upper()}{said[1:]}.")
            elif not form.is_sure and (doubt := misread(entry)):
                if visit.from_outbox:
                    typed = form.cleaned_data["reading"].raw
                    raise Settled(refusal_of_doubt(visit, doubt, typed, *again(entry)))
                return None, doubt
    return recorded(visit, form, "reading"), None
