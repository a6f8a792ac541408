"""What every screen of a job shows: its name, its rooms, its line of stages."""

from typing import Any

from nivelum.jobs.access import Visit
from nivelum.jobs.services import Snapshot


def job_screen(visit: Visit, shot: Snapshot, room: str) -> dict[str, Any]:
    """The context that templates extending `job.html` need."""
    return {
        "job": visit.job,
        "unit": visit.job.crew.unit,
        "number": shot.number,
        "assessment": shot.assessment,
        "kept_parts": shot.parts,
        "room": room,
    }
