"""The rooms of a job, in the order of the work: what they are called, where they open, what of them opens without a
signal. Navigation, what is taken along, and the checks that every room opens and is pictured read this table."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum
from typing import Any, Protocol

from django.utils.translation import gettext_lazy as _


class Page(Protocol):
    """What a page shows, by name."""

    def get(self, key: str, otherwise: Any = None, /) -> Any: ...


class Each(Enum):
    """What a page shows one of."""

    SURFACE = "surface"
    LIFT = "lift"
    STAGE = "stage"


class Taken(Enum):
    """When a page is kept on a device: with the job as soon as it is opened, every one of it or only the one in hand;
    or where somebody takes the job along."""

    AT_ONCE = "at once"
    IN_HAND = "in hand"
    ALONG = "along"


@dataclass(frozen=True)
class Leaf:
    """A page of a room, by the name of its address: one for `each` of something, or one alone."""

    name: str
    each: Each | None = None
    taken: Taken = Taken.ALONG


@dataclass(frozen=True)
class Room:
    """`opens` names the address it opens at, which is a leaf of it; `carries` is what goes along in the query from
    the room one comes from, of what its page holds."""

    key: str
    title: Any
    opens: str
    leaves: tuple[Leaf, ...]
    carries: Callable[[Page], dict[str, str]] = lambda _page: {}


def _station(page: Page) -> str:
    answer = page.get("answer")
    return answer.station.name if answer else ""


def _surface(page: Page) -> str:
    return str(getattr(page.get("place"), "surface", ""))


def _to_base(page: Page) -> dict[str, str]:
    return {"at": _station(page)}


def _to_ground(page: Page) -> dict[str, str]:
    station = _station(page)
    return {"surface": _surface(page) or "formation", "station": station} if station else {}


def _to_water(page: Page) -> dict[str, str]:
    return {"surface": _surface(page)} if page.get("room") == "ground" else {}


ROOMS = (
    Room(
        "base",
        _("Base"),
        "base",
        tuple(map(Leaf, ("base", "falls", "schools", "strength", "brief"))),
        _to_base,
    ),
    Room(
        "set-out",
        _("Set-out"),
        "set-out",
        (Leaf("set-out", taken=Taken.AT_ONCE), Leaf("services"), Leaf("strings"), Leaf("square")),
    ),
    Room(
        "ground",
        _("Ground"),
        "ground",
        (Leaf("ground", Each.SURFACE, Taken.AT_ONCE), Leaf("targets", Each.SURFACE), Leaf("surface"), Leaf("book")),
        _to_ground,
    ),
    Room(
        "lifts",
        _("Lifts"),
        "lifts",
        (
            Leaf("lifts", Each.LIFT, Taken.IN_HAND),
            Leaf("lift-tests", Each.LIFT),
            Leaf("spread-targets", Each.LIFT),
            Leaf("lift-tests"),
            Leaf("subgrade"),
            Leaf("pour"),
            Leaf("deliveries"),
        ),
    ),
    Room("water", _("Water"), "water", (Leaf("water", Each.SURFACE), Leaf("water")), _to_water),
    Room("sign-offs", _("Sign-offs"), "sign-offs", (Leaf("sign-offs", Each.STAGE, Taken.IN_HAND),)),
    Room("record", _("Record"), "record-page", (Leaf("record-page"),)),
)
