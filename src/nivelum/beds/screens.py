"""What every page of the Bedding room shows."""

from typing import Any

from nivelum.crews.policy import Verb
from nivelum.jobs.access import Visit
from nivelum.jobs.screens import job_screen
from nivelum.jobs.services import Snapshot


def bed_screen(visit: Visit, shot: Snapshot, leaf: str) -> dict[str, Any]:
    """The context of a page of the room; `bed` is the job's."""
    bed = shot.assessment.bedding
    return job_screen(visit, shot, "bedding") | {"leaf": leaf, "may_measure": visit.may(Verb.MEASURE), "bed": bed}
