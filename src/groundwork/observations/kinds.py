"""What people saw and photographed for a stage's sign-off, as it is recorded."""

from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated

from annotated_types import Interval, Len, doc

from groundwork.kinds import PHOTO, Circumstances, Entry, Key, Layered, Words400, Wrong, not_called
from groundwork.measures import Words

LEAST_WORDS = 3
"""Letters a reason has at least."""


class Seen(StrEnum):
    """What a person answers when asked to look."""

    YES = "yes"
    NO = "no"
    NOT_HERE = "not here"


@dataclass(frozen=True)
class Observation(Entry):
    """Something seen for a stage."""

    stage: Key

    def wrong(self, there: Circumstances) -> Wrong | None:
        return None if there.asks(self.stage) is not None else not_called("stage", "stage of this job", self.stage)


@dataclass(frozen=True)
class Observed(Observation, kind="observed"):
    """A stage's question answered by whoever looked; `words` say what was seen: a no, and a not here, want some."""

    ask: Key
    answer: Seen
    words: Words400 = ""

    def wrong(self, there: Circumstances) -> Wrong | None:
        if found := super().wrong(there) or _not_asked(self.stage, self.ask, there):
            return found
        if (there.asks(self.stage) or {}).get(self.ask) and self.answer is Seen.YES:
            return Wrong("answer", Words("a photo answers this"))
        if self.answer is not Seen.YES and len(self.words.strip()) < LEAST_WORDS:
            return Wrong("words", Words("say what you saw, or why not here"))
        return None


@dataclass(frozen=True)
class Pictured(Observation, kind="pictured"):
    """A photo taken for a stage, by the hash of it; `ask` names the question it answers, if any. Where on earth it
    was taken, degrees, stands here only where the crew keeps that."""

    photo: Annotated[str, PHOTO, doc("The SHA-256 of the photo as kept, in hexadecimal.")]
    caption: Annotated[str, Len(0, 200)]
    ask: Annotated[str, Len(0, 40)] = ""
    latitude: Annotated[float | None, "latitude_deg", Interval(ge=-90, le=90)] = None
    longitude: Annotated[float | None, "longitude_deg", Interval(ge=-180, le=180)] = None

    def wrong(self, there: Circumstances) -> Wrong | None:
        return super().wrong(there) or (_not_asked(self.stage, self.ask, there) if self.ask else None)


@dataclass(frozen=True)
class Gauged(Observation, kind="gauged"):
    """What stages had measured here and there before their rooms did: it stays on record, nothing hangs on it."""

    check: Key
    where: Annotated[str, Len(1, 60)]
    value: Layered


def _not_asked(stage: str, ask: str, there: Circumstances) -> Wrong | None:
    """That a stage asks no such thing; None where it does, or where it may have when that was recorded."""
    if not there.is_now:
        return None
    return None if ask in (there.asks(stage) or {}) else not_called("ask", "question of this stage", ask)
