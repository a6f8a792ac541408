"""What a field of an entry may hold, in the words of `annotated_types`; the codec goes by the types, the schema by
the limits. A text beside a type is its key in JSON, where that ends in a unit; one with `@` in front is not in the
body but known of the entry: who made it, and when."""

from dataclasses import dataclass
from typing import Annotated

from annotated_types import Interval, Len, doc

from groundwork.measures import Measured, Typed

Name = Annotated[str, Len(1, 80)]
Key = Annotated[str, Len(1, 40)]
Line = Annotated[str, Len(0, 80)]
Words400 = Annotated[str, Len(0, 400)]
Words500 = Annotated[str, Len(0, 500)]
Rod = Annotated[Measured, Typed.ROD]
Signed = Annotated[Measured, Typed.SIGNED]
OnPlan = Annotated[Measured, Typed.PLAN]
Layered = Annotated[Measured, Typed.LAYER]
Taped = Annotated[Measured, Typed.TAPE]
Bar = Annotated[Measured, Typed.BAR]
SurfaceName = Annotated[
    str, Len(1, 40), doc("formation, sub-base, base, bound base, bedding or screed, finished; a lift as base.1")
]
LiftName = Annotated[
    str, Len(1, 40), doc("What it was done to: the top of a lift as base.1, of a layer as base, or formation.")
]
Share = Annotated[float, Interval(ge=0, le=1), doc("A share of the dry mass: 0.06 is 6 %.")]
Gravity = Annotated[float, Interval(ge=1, le=5)]
Level = Annotated[float, Interval(ge=-1000, le=9000)]


@dataclass(frozen=True)
class Pattern:
    """A text as a regular expression has it."""

    regex: str


@dataclass(frozen=True)
class Link:
    """The identifier of another entry of the record."""


LINK = Link()
EntryId = Annotated[str, Len(1, 80), LINK]


@dataclass(frozen=True)
class LatestIfLeftOut:
    """Left out in a job file, it is the latest that can be read against."""


LATEST = LatestIfLeftOut()
AnchorId = Annotated[str, Len(1, 80), LINK, LATEST, doc("The id of a set-up before it; the latest if left out.")]
PHOTO = Pattern("^[0-9a-f]{64}$")
PHOTO_IF_ANY = Pattern("^([0-9a-f]{64})?$")
