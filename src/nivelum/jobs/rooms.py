"""The rooms of a job, in the order of the work: what they are called, where they open, what is done on their pages
and at which stages, what of them opens without a signal. The way about, what is taken along, and the checks that
every room opens and is pictured read this table."""

from collections.abc import Callable
from dataclasses import dataclass
from enum import Enum
from typing import Any, Protocol

from django.utils.translation import gettext_lazy as _

from groundwork.assess import Assessment


class Page(Protocol):
    """What a page shows, by name."""

    def get(self, key: str, otherwise: Any = None, /) -> Any: ...


class Each(Enum):
    """What a page shows one of."""

    SURFACE = "surface"
    LIFT = "lift"
    STAGE = "stage"


class Does(Enum):
    """What is done on a page, in the order it is done at a stage."""

    MEASURE = _("Measure")
    MAKE = _("Decide and make")
    LOOK = _("Look")
    SIGN = _("Sign")


class Taken(Enum):
    """When a page is kept on a device: with the job as soon as it is opened, every one of it or only the one in hand;
    or where somebody takes the job along."""

    AT_ONCE = "at once"
    IN_HAND = "in hand"
    ALONG = "along"


@dataclass(frozen=True)
class Leaf:
    """A page of a room, by the name of its address: one for `each` of something, or one alone. At `stages` one goes
    there to do what it is for; `where` says of a job whether it has the page."""

    name: str
    title: Any
    each: Each | None = None
    taken: Taken = Taken.ALONG
    does: Does = Does.LOOK
    stages: tuple[str, ...] = ()
    where: Callable[[Assessment], bool] = lambda _assessment: True


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


def _bedded(assessment: Assessment) -> bool:
    return assessment.bedding.is_there


def _railed(assessment: Assessment) -> bool:
    return assessment.bedding.has_rails


def _mortared(assessment: Assessment) -> bool:
    return assessment.bedding.is_mortar


def _laid(assessment: Assessment) -> bool:
    return assessment.laying.is_there


def _laid_out(assessment: Assessment) -> bool:
    return assessment.laying.is_there and assessment.laying.chosen is not None


def _seated(assessment: Assessment) -> bool:
    return assessment.seating.is_there


def _filled(assessment: Assessment) -> bool:
    return assessment.jointing.is_there


DIG = ("excavation",)
BEDDED = ("bedding",)
EDGED = ("early-edges", "late-edges")
LIFTED = ("subgrade", "base-lifts")
TOPS = ("base-lifts", "bound-base", "base-proof", "bedding", "seating", "handover")
"""Stages at which a surface that was made is shot."""

ROOMS = (
    Room(
        "base",
        _("Base"),
        "base",
        (
            Leaf("base", _("Section and thicknesses"), does=Does.MAKE, stages=("brief",)),
            Leaf("falls", _("Falls"), does=Does.MAKE, stages=("brief",)),
            Leaf("schools", _("Base types"), does=Does.MAKE, stages=("brief",)),
            Leaf("strength", _("How strong the ground is"), does=Does.MAKE, stages=("brief",)),
            Leaf("brief", _("The brief"), does=Does.MAKE, stages=("brief",)),
        ),
        _to_base,
    ),
    Room(
        "order",
        _("Order"),
        "order",
        (
            Leaf("order", _("What we need")),
            Leaf("orders", _("Orders and what came"), does=Does.MAKE),
            Leaf("hours", _("Hours and kit"), does=Does.MAKE),
        ),
    ),
    Room(
        "days",
        _("Days"),
        "days",
        (
            Leaf("days", _("Today, hour by hour")),
            Leaf("programme", _("When it is done"), does=Does.MAKE),
            Leaf("setting", _("What sets"), does=Does.MEASURE),
        ),
    ),
    Room(
        "set-out",
        _("Set-out"),
        "set-out",
        (
            Leaf("set-out", _("Pegs, taped"), taken=Taken.AT_ONCE, does=Does.MEASURE, stages=("set-out",)),
            Leaf("services", _("Buried services"), does=Does.MEASURE, stages=("set-out",)),
            Leaf("strings", _("String heights"), stages=("set-out",)),
            Leaf("square", _("Corners and curves"), stages=("set-out",)),
        ),
    ),
    Room(
        "ground",
        _("Ground"),
        "ground",
        (
            Leaf("ground", _("Levels, station by station"), Each.SURFACE, Taken.AT_ONCE, Does.MEASURE, DIG + TOPS),
            Leaf("targets", _("Target table"), Each.SURFACE, stages=DIG + TOPS),
            Leaf("surface", _("Levels, falls, thickness"), Each.SURFACE, stages=DIG + TOPS),
            Leaf("surface", _("Levels, falls, thickness")),
            Leaf("book", _("Level book"), stages=DIG),
        ),
        _to_ground,
    ),
    Room(
        "lifts",
        _("Lifts"),
        "lifts",
        (
            Leaf("lifts", _("Passes and moisture"), Each.LIFT, Taken.IN_HAND, Does.MEASURE, LIFTED),
            Leaf("lift-tests", _("Tests"), Each.LIFT, does=Does.MEASURE, stages=LIFTED),
            Leaf("spread-targets", _("Targets for loose stone"), Each.LIFT, stages=("base-lifts",)),
            Leaf("lift-tests", _("Tests")),
            Leaf("subgrade", _("Soft ground and fabric"), does=Does.MAKE, stages=("subgrade", "separation")),
            Leaf("pour", _("Pour"), does=Does.MAKE, stages=("bound-base",), where=lambda a: a.works.pour is not None),
            Leaf("deliveries", _("Deliveries"), does=Does.MAKE, stages=("base-lifts",)),
        ),
    ),
    Room(
        "water",
        _("Water"),
        "water",
        (
            Leaf("water", _("Where rain stands and runs"), Each.SURFACE, stages=(*DIG, "base-proof", "handover")),
            Leaf("water", _("Where rain stands and runs")),
        ),
        _to_water,
    ),
    Room(
        "edges",
        _("Edges"),
        "edges",
        (Leaf("edges", _("Edges, joint by joint"), does=Does.MEASURE, stages=EDGED),),
    ),
    Room(
        "bedding",
        _("Bedding"),
        "rails",
        (
            Leaf("rails", _("Rails"), does=Does.MEASURE, stages=BEDDED, where=_railed),
            Leaf("bays", _("Bays"), does=Does.MEASURE, stages=BEDDED, where=_railed),
            Leaf("mortar", _("Mortar"), does=Does.MEASURE, stages=BEDDED, where=_mortared),
            Leaf("bed-thickness", _("Thickness of the bed"), stages=BEDDED, where=_bedded),
            Leaf("trial", _("Trial patch"), does=Does.MEASURE, stages=BEDDED, where=_bedded),
        ),
    ),
    Room(
        "laying",
        _("Laying"),
        "layout",
        (
            Leaf("layout", _("Layout"), does=Does.MAKE, stages=("laying",), where=_laid),
            Leaf("courses", _("Rows by the tape"), does=Does.MEASURE, stages=("laying",), where=_laid_out),
            Leaf("packs", _("Packs and batches"), does=Does.MAKE, stages=("laying",), where=_laid),
            Leaf("cuts", _("Cut list"), does=Does.MAKE, stages=("late-edges",), where=_laid_out),
        ),
    ),
    Room(
        "joints",
        _("Joints"),
        "seating",
        (
            Leaf("seating", _("Seating, patch by patch"), does=Does.MEASURE, stages=("seating",), where=_seated),
            Leaf("units", _("Units to mend, lips"), does=Does.MEASURE, stages=("seating", "handover"), where=_seated),
            Leaf("filling", _("Filling the joints"), does=Does.MEASURE, stages=("joints",), where=_filled),
        ),
    ),
    Room(
        "sign-offs",
        _("Sign-offs"),
        "sign-offs",
        (Leaf("sign-offs", _("Look, answer, sign"), Each.STAGE, Taken.IN_HAND, Does.SIGN),),
    ),
    Room(
        "record",
        _("Record"),
        "record-page",
        (
            Leaf("record-page", _("The record"), stages=("handover",)),
            Leaf("lessons", _("What this job teaches"), stages=("handover",)),
        ),
    ),
)
