"""What an entry is: its kind says in one place what it is called, what it holds, which field a correction mends, what
it must find standing, whether it can be struck out and whether a job file may bring it."""

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from datetime import date, datetime
from typing import Any, ClassVar, Protocol, TypeVar

from groundwork.kinds.fields import Name
from groundwork.measures import Words
from groundwork.surfaces import Point

KINDS: dict[str, type["Entry"]] = {}
"""Every kind there is, by name."""
_E = TypeVar("_E", bound="Entry")


@dataclass(frozen=True)
class Entry:
    """Something on a job's record, under an identifier made where it was made. A subclass that names its `kind` is
    one: `mends` is the field a correction of it mends, none where it reads nothing."""

    KIND: ClassVar[str] = ""
    MENDS: ClassVar[str] = ""
    CAN_BE_STRUCK: ClassVar[bool] = True
    IN_FILES: ClassVar[bool] = True
    id: Name

    def __init_subclass__(
        cls, *, kind: str = "", mends: str = "", struck: bool = True, in_files: bool = True, **more: Any
    ) -> None:
        super().__init_subclass__(**more)
        if kind:
            if kind in KINDS:
                raise TypeError(f"two kinds are called {kind!r}")
            KINDS[kind] = cls
            cls.KIND, cls.MENDS, cls.CAN_BE_STRUCK, cls.IN_FILES = kind, mends, struck, in_files

    def wrong(self, there: "Circumstances") -> "Wrong | None":
        """What of it cannot stand on what is there; None where all is well."""
        return None


@dataclass(frozen=True)
class Wrong:
    """A field of an entry that cannot stand, and why. `code` tells apart what may have come between since it was
    made: an anchor that was `LOST`."""

    field: str
    words: Words
    code: str = ""


LOST = "set-up"


class Circumstances(Protocol):
    """What an entry may find on a job when it is made. The rules of every kind ask this, wherever an entry comes
    from; `is_now` where it is being made now, not read from a file of what was: what was recorded before anyone
    asked stays in the record."""

    is_now: bool

    @property
    def surfaces(self) -> Collection[str]:
        """The surfaces of this base."""

    @property
    def levelled(self) -> Collection[str]:
        """Those this crew levels."""

    @property
    def stations(self) -> Collection[str]: ...

    @property
    def patches(self) -> Collection[str]: ...

    @property
    def sides(self) -> int:
        """How many sides the area has, counted from 0."""

    def side_length(self, side: int) -> float:
        """How long a side is, along itself, metres."""

    def entry(self, name: str) -> Entry | None:
        """What was recorded before under an identifier and counts."""

    def of_kind(self, kind: type[_E]) -> Mapping[str, _E]:
        """The entries of a kind before it that count, by identifier."""

    def is_point(self, name: str) -> bool:
        """Whether there is a mark or turning point of that name."""

    def is_level_known(self, point: str) -> bool:
        """Whether a level can look back on it."""

    def is_knocked(self, point: str) -> bool: ...

    def holds(self, anchor: str) -> bool:
        """Whether readings against it come to anything."""

    def can_be_read(self, station: str, surface: str, anchor: str) -> bool: ...

    def is_on_the_area(self, at: Point) -> bool: ...

    def joints(self, edge: str) -> int:
        """The number of the last joint of an edge that was planned before, counted from 0."""

    def rails(self, plan: str) -> Collection[str]:
        """The rails of a plan that was recorded before."""

    def bays(self, plan: str) -> Collection[str]:
        """The bays of a plan of rails that was recorded before."""

    def cannot_be_laid(self, layout: Any) -> "Wrong | None":
        """Why a layout comes to nothing on this area; None where it can be laid."""

    def rows(self, layout: str) -> int:
        """How many rows a layout that was recorded before has."""

    def pieces(self, layout: str) -> Collection[str]:
        """The pieces of a layout that was recorded before."""

    def modules(self, layout: str) -> tuple[float, float]:
        """Between what the module of a layout that was recorded before can lie, metres."""

    def asks(self, stage: str) -> Mapping[str, bool] | None:
        """A stage's questions, each with whether a photo answers it; None for a stage this job has not."""


def not_called(field: str, what: str, name: str) -> Wrong:
    """That there is no such thing; `what` with its article."""
    return Wrong(field, Words(f"no {what} is called “{{name}}”", names={"name": name}))


def not_holding(field: str, anchor: str, there: Circumstances) -> Wrong | None:
    """That what something was read from holds no longer; None where it does."""
    if there.holds(anchor):
        return None
    return Wrong(field, Words("what it was read from no longer holds: set up anew"), LOST)


FIRST_YEAR, LAST_YEAR = 2000, 2099


def no_day(field: str, on: date) -> Wrong | None:
    """That nothing is made on such a day; None where it may be."""
    if FIRST_YEAR <= on.year <= LAST_YEAR:
        return None
    return Wrong(field, Words("a day of this century"))


def no_minute(field: str, at: datetime) -> Wrong | None:
    """That nothing was made then; None where it may have been."""
    return no_day(field, at)


def no_side(field: str, side: int, there: Circumstances) -> Wrong | None:
    """That the area has no such side; None where it has."""
    if 0 <= side < there.sides:
        return None
    return Wrong(field, Words("the area has no such side: it has {n}, counted from 0", counts={"n": there.sides}))
