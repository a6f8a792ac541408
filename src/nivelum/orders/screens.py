"""What every page of the Order room shows."""

from typing import Any

from nivelum.crews.policy import Verb
from nivelum.jobs.access import Visit
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Snapshot


def order_screen(visit: Visit, shot: Snapshot, leaf: str) -> dict[str, Any]:
    """The context of a page of the room."""
    return job_screen(visit, shot, "order") | {
        "leaf": leaf, "may_measure": visit.may(Verb.MEASURE), "may_see_money": visit.may(Verb.SEE_MONEY),
    }  # fmt: skip
