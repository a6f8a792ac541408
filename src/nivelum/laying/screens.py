"""What every page of the Laying room shows."""

from typing import Any

from nivelum.crews.policy import Verb
from nivelum.jobs.access import Visit
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Snapshot


def laying_screen(visit: Visit, shot: Snapshot, leaf: str) -> dict[str, Any]:
    """The context of a page of the room; `there` is the job's paving."""
    there = shot.assessment.laying
    return job_screen(visit, shot, "laying") | {
        "leaf": leaf, "may_measure": visit.may(Verb.MEASURE), "there": there, "paving": there.paving,
    }  # fmt: skip
