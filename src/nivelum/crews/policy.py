"""Who may do what. Views ask here; nothing else decides."""

from enum import Enum, auto

from django.core.exceptions import PermissionDenied

from groundwork.schools import Slot
from nivelum.crews.models import CrewRole


class Verb(Enum):
    SEE = auto()
    MEASURE = auto()
    STRIKE_ANY = auto()
    SIGN = auto()
    SIGN_STRUCTURE = auto()
    LOOK_AGAIN = auto()
    SHARE = auto()
    DESIGN = auto()
    ACCEPT = auto()
    ACCEPT_STRUCTURE = auto()
    RUN_CREW = auto()
    SEE_MONEY = auto()


MAY = {
    CrewRole.LEAD: {
        Verb.SEE,
        Verb.MEASURE,
        Verb.STRIKE_ANY,
        Verb.SIGN,
        Verb.LOOK_AGAIN,
        Verb.SHARE,
        Verb.DESIGN,
        Verb.ACCEPT,
        Verb.RUN_CREW,
        Verb.SEE_MONEY,
    },
    CrewRole.CREW: {Verb.SEE, Verb.MEASURE, Verb.LOOK_AGAIN},
    CrewRole.ENGINEER: {
        Verb.SEE,
        Verb.MEASURE,
        Verb.STRIKE_ANY,
        Verb.SIGN,
        Verb.SIGN_STRUCTURE,
        Verb.LOOK_AGAIN,
        Verb.DESIGN,
        Verb.ACCEPT,
        Verb.ACCEPT_STRUCTURE,
    },
    CrewRole.VIEWER: {Verb.SEE},
}


TO_SIGN = {Slot.LEAD: Verb.SIGN, Slot.ENGINEER: Verb.SIGN_STRUCTURE, Slot.SECOND: Verb.LOOK_AGAIN}
"""What it takes to sign in each slot."""


def roles_that_may(verb: Verb) -> list[str]:
    return [str(role) for role, verbs in MAY.items() if verb in verbs]


def may(role: str, verb: Verb) -> bool:
    return verb in MAY[CrewRole(role)]


def require(role: str, verb: Verb) -> None:
    """Raises `PermissionDenied` where `role` may not do `verb`."""
    if not may(role, verb):
        raise PermissionDenied
