"""What seating takes off: a trial patch measured before and after, which takes the place of what the school says."""

import math
from dataclasses import dataclass, replace

from groundwork.base import BaseSpecification, Role
from groundwork.bedwork import TrialSeated

PLACES = 3
"""Units of a trial patch to measure at least (common practice, no published source)."""
READ_U = 0.0005
"""Standard uncertainty of how far a unit stands over an edge, by straightedge and wedge, metres (common practice)."""


@dataclass(frozen=True)
class Trial:
    """A trial patch: by how much its units came down, on the whole and how sure, metres."""

    seated: tuple[TrialSeated, ...]

    @property
    def drops(self) -> list[float]:
        return [each.before.metres - each.after.metres for each in self.seated]

    @property
    def drop(self) -> float:
        return sum(self.drops) / len(self.drops)

    @property
    def uncertainty(self) -> float:
        """Standard, of the mean: the units' own spread, or what the measuring leaves where that is more."""
        number, mean = len(self.drops), self.drop
        spread = math.sqrt(sum((d - mean) ** 2 for d in self.drops) / (number - 1)) if number > 1 else 0.0
        return max(spread, READ_U * math.sqrt(2)) / math.sqrt(number)

    @property
    def is_enough(self) -> bool:
        return len(self.seated) >= PLACES


def with_settlement(specification: BaseSpecification, drop: float) -> BaseSpecification:
    """The same base with units laid so much higher; the bed is screeded thicker or thinner by as much as that
    changes, so that it is as thick as before once they are seated and nothing under it moves. Raises `ValueError`
    for more than the bed is thick."""
    more = drop - specification.settlement
    layers = [
        replace(layer, thickness=round(layer.thickness + more, 6)) if layer.role is Role.BEDDING else layer
        for layer in specification.layers
    ]
    return replace(specification, layers=tuple(layers), settlement=round(drop, 6))
