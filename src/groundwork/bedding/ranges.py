"""How thick a bed may be: on the whole, at any one place, and where the base under it is to be mended."""

from dataclasses import dataclass
from typing import NamedTuple

from groundwork.base import Role
from groundwork.job import Job
from groundwork.soundness import Case


@dataclass(frozen=True)
class BedRange:
    """Between what the bed as screeded has to lie, metres: on the whole, at any one place, or else it stops."""

    mean: tuple[float, float]
    anywhere: tuple[float, float]
    stop: tuple[float, float]


def bed_range(job: Job, case: Case) -> BedRange | None:
    """The school's range for this job's bed, as screeded; None without a bed, or where the school asks nothing."""
    specification = job.specification
    layer, asked = specification.layer(Role.BEDDING), case.school.by_role.get(Role.BEDDING)
    if layer is None or asked is None:
        return None
    high = specification.settlement

    def around(low: float, most: float) -> tuple[float, float]:
        return min(low + high, layer.thickness), max(most + high, layer.thickness)

    return BedRange(around(*asked.bounds), around(*asked.anywhere), (asked.stop[0], asked.stop[1] + high))


class Mend(NamedTuple):
    """A station where the base is to be mended before the bed is laid: how thick that would be there, metres, and by
    how much the base lies too low, or with a minus too high."""

    station: str
    thick: float
    off: float
