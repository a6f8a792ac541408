"""What every page of the Joints room shows."""

from typing import Any

from nivelum.crews.policy import Verb
from nivelum.jobs.access import Visit
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Snapshot


def joints_screen(visit: Visit, shot: Snapshot, leaf: str) -> dict[str, Any]:
    """The context of a page of the room."""
    assessment = shot.assessment
    return job_screen(visit, shot, "joints") | {
        "leaf": leaf, "may_measure": visit.may(Verb.MEASURE), "there": assessment.seating,
        "joints": assessment.jointing,
    }  # fmt: skip
