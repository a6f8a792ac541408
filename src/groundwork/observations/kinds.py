"""What people saw, photographed and measured for a stage's sign-off, as it is recorded."""

from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated, ClassVar

from groundwork.measures import Measured, Typed


class Seen(StrEnum):
    """What a person answers when asked to look."""

    YES = "yes"
    NO = "no"
    NOT_HERE = "not here"


@dataclass(frozen=True)
class Observed:
    """A stage's question answered by whoever looked; `words` say what was seen: a no, and a not here, want some."""

    KIND: ClassVar[str] = "observed"
    id: str
    stage: str
    ask: str
    answer: Seen
    words: str = ""


@dataclass(frozen=True)
class Pictured:
    """A photo taken for a stage, by the hash of it; `ask` names the question it answers, if any. Where on earth it
    was taken, degrees, stands here only where the crew keeps that."""

    KIND: ClassVar[str] = "pictured"
    id: str
    stage: str
    photo: str
    caption: str
    ask: str = ""
    latitude: Annotated[float | None, "latitude_deg"] = None
    longitude: Annotated[float | None, "longitude_deg"] = None


@dataclass(frozen=True)
class Gauged:
    """One of a stage's checks measured at a place, named in words."""

    KIND: ClassVar[str] = "gauged"
    id: str
    stage: str
    check: str
    where: str
    value: Annotated[Measured, Typed.LAYER]


Witness = Observed | Pictured | Gauged
