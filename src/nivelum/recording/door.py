"""From a form to an entry, the same way from every screen and from a device's outbox."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.http import HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.urls import reverse
from django.utils.translation import gettext
from django.utils.translation import gettext as _

from groundwork.assess import Assessment, design_changed
from groundwork.kinds import LOST
from groundwork.kinds import Entry as Value
from nivelum.crews.requests import Request
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Entry
from nivelum.jobs.outbox import Refusal, Settled, Way
from nivelum.jobs.photos import keeping
from nivelum.jobs.services import Author, snapshot, snapshot_of_version
from nivelum.recording.forms import EntryForm
from nivelum.recording.kinds import FACES
from nivelum.recording.services import Refused, record


def recorded(visit: Visit, form: EntryForm, field: str) -> Entry | None:
    """The entry `form` makes, or None with its errors saying why not; an error without a field goes to `field`.

    Raises `Settled` instead where the entry came from an outbox.
    """
    if not form.is_valid():
        if visit.from_outbox:
            raise Settled(not_understood(form))
        return None
    entry = form.value()
    try:
        _hold_to_design(visit, entry, form)
        with keeping(visit.job, form.cleaned_data.get("photo")):
            written = record(visit, entry, Author(visit.person, form.cleaned_data["device_at"]))
    except Refused as refused:
        if visit.from_outbox:
            raise Settled(_refusal(visit, entry, refused)) from refused
        form.add_error(refused.field if refused.field in form.fields else field, refused.message)
        return None
    visit.written.append(written)
    if visit.from_outbox:
        raise Settled(written, _comes_to(visit, entry))
    return written


def _comes_to(visit: Visit, entry: Value) -> dict[str, str] | None:
    """What the entry comes to at once, in the words of its room; None where that says nothing of it."""
    comes_to = FACES[entry.KIND].comes_to
    return comes_to(visit, entry) if comes_to else None


@dataclass(frozen=True)
class RecordedAt:
    """Where something is recorded: a `page`, the `part` of it that htmx swaps, if it does, and the `way` to it."""

    page: str
    part: str
    way: str


def answered(
    request: Request, done: object, place: RecordedAt, context: Callable[[], dict[str, Any]]
) -> HttpResponse:
    """What every room answers once it has tried to record something: where it was, as it is now, with what is wrong
    beside its field where it was not `done` (422); the way there for a plain form, so that going back sends nothing
    again."""
    if done and not (request.htmx and place.part):
        return HttpResponseRedirect(place.way)
    return shown(request, place, context(), 200 if done else 422)


def shown(request: Request, place: RecordedAt, context: dict[str, Any], status: int = 200) -> HttpResponse:
    """The page of a place, or the part of it that htmx asked for."""
    return render(request, place.part if request.htmx and place.part else place.page, context, status=status)


DESIGN = "design"


def _hold_to_design(visit: Visit, entry: Value, form: EntryForm) -> None:
    """Raises `Refused` where the design has changed what `entry` was made by since it was made, until whoever made it
    says that it stands all the same. Nothing but a number is compared where the design is still that one."""
    answered, now = form.cleaned_data["answered_version"], snapshot(visit.job)
    version = now.assessment.job.version
    if answered in (None, version) or form.cleaned_data["still"] == version:
        return
    if Entry.objects.filter(id=UUID(entry.id), job=visit.job).exists():
        return
    then = snapshot_of_version(visit.job, answered)
    if then is None:
        raise Refused("answered_version", _("The design never had that version. Reload the page and type it again."))
    found = design_changed(entry, then.assessment, now.assessment)
    if found:
        words = found.text(visit.job.crew.unit, gettext)
        message = _("The design was changed meanwhile (version {now}, this was made by version {then}). {words}")
        raise Refused("", message.format(now=version, then=answered, words=words), DESIGN)


def not_understood(form: EntryForm) -> Refusal:
    """What could not be read, each field to be typed anew where it was typed."""
    first = next(iter(form.errors.values()))[0]
    shown = [name for name in form.errors if name in form.fields and not form.fields[name].widget.is_hidden]
    return Refusal("wrong", str(first), tuple(_mend(form, name) for name in shown))


def _mend(form: EntryForm, name: str) -> Way:
    field = form.fields[name]
    choices = tuple((str(value), str(label)) for value, label in getattr(field, "choices", ()))
    return Way("mend", str(field.label or _("What it should be")), name, choices=choices)


def _refusal(visit: Visit, entry: Value, refused: Refused) -> Refusal:
    """Why, and the ways on that this kind of refusal has."""
    assessment = snapshot(visit.job).assessment
    code, ways = refused.code or "wrong", []
    if code == DESIGN:
        says = _("It stands: judge it by the design as it is now")
        ways.append(Way("again", says, sets={"still": str(assessment.job.version)}))
    if code == LOST and (anchor := getattr(entry, "set_up", "")) and (other := _present_of(assessment, anchor)):
        says = _("It was read from the set-up that stands now: send it so")
        ways.append(Way("again", says, sets={"set_up": other}))
    if again := FACES[entry.KIND].again:
        ways.append(again(visit, entry))
    elif code == LOST:
        ways.append(Way("go", _("To the set-up that stands"), reverse("ground", args=[visit.job.id])))
    return Refusal(code, refused.message, tuple(ways))


def _present_of(assessment: Assessment, anchor: str) -> str:
    """What stands now in the place of what a reading was taken against: of the same method, where that is known."""
    named = next((e for e in assessment.job.entries if e.id == anchor), None)
    method = getattr(getattr(named, "instrument", None), "method", None)
    for key in reversed(assessment.levels.references):
        if method is None or assessment.logbook.anchors[key].instrument.method == method:
            return key
    return ""
