"""What a device is told of an entry it kept in its outbox until there was a signal: that it is written, or why not
and what may be done about it. It is sent to the same address as the form it was typed in; only the answer is
short."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from django.http import HttpRequest, JsonResponse
from django.utils.translation import gettext as _

from nivelum.jobs.models import Entry

WRITTEN = "Nivelum-Written"
"""The header that names the entries a request wrote, on every answer."""


@dataclass(frozen=True)
class Way:
    """A way on from a refusal: `again` with some fields set, `mend` a field by typing or by one of its `choices`,
    `go` somewhere to look."""

    does: str
    says: str
    to: str = ""
    sets: Mapping[str, str] = field(default_factory=dict)
    choices: tuple[tuple[str, str], ...] = ()

    def data(self) -> dict[str, Any]:
        return {
            "does": self.does, "says": self.says, "to": self.to, "sets": dict(self.sets), "choices": self.choices,
        }  # fmt: skip


@dataclass(frozen=True)
class Refusal:
    """Why an entry was not written. Leaving it out and saving it as a file are always open to whoever made it."""

    code: str
    message: str
    ways: tuple[Way, ...] = ()
    status: int = 422


class Settled(Exception):
    """An entry from an outbox is written or refused: there is no page to draw."""

    def __init__(self, outcome: Entry | Refusal, verdict: Mapping[str, str] | None = None) -> None:
        super().__init__()
        self.outcome, self.verdict = outcome, verdict


def is_from_outbox(request: HttpRequest) -> bool:
    return request.method == "POST" and request.headers.get("Accept", "") == "application/json"


def answer(outcome: Entry | Refusal, verdict: Mapping[str, str] | None = None) -> JsonResponse:
    """What the device gets: `verdict` is what a reading comes to, maybe not what was foretold without a signal."""
    if isinstance(outcome, Refusal):
        data = {"refused": outcome.code, "message": outcome.message, "ways": [way.data() for way in outcome.ways]}
        return JsonResponse(data, status=outcome.status)
    return JsonResponse({"written": str(outcome.id), "number": outcome.number, "verdict": verdict})


def no_longer_theirs() -> Refusal:
    """The job is not, or no longer, one of whoever sends."""
    message = _("You are not of this job’s crew any more. It is kept here: save it, and hand it to the lead.")
    return Refusal("left", message, (Way("again", _("Send it again, once you are back in the crew")),), 404)


def gone() -> Refusal:
    """What the entry was made on, a stage or a tool, is not there any more."""
    return Refusal("gone", _("What this was recorded on is not part of the job any more."))


def role_withdrawn() -> Refusal:
    message = _("Your role at this job does not let you record this any more. It is kept here: ask the lead.")
    return Refusal("role", message, (Way("again", _("Send it again, once the lead has let you")),), 403)


def used_before() -> Refusal:
    """The identifier sent is that of another entry: the device sent the same one for two things."""
    message = _("This was sent before with something else in it. Reload the page and type it again.")
    return Refusal("used", message, (), 409)


def somebody_elses() -> Refusal:
    """Another person is signed in than the one who made the entry: it waits until they are back."""
    return Refusal("person", _("Somebody else is signed in now. This waits for whoever recorded it."), (), 409)
