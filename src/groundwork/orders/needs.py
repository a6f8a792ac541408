"""What a job needs of one thing at one stage, how that was reckoned, and what the ground as it is has changed."""

import math
from dataclasses import dataclass

from groundwork.measures import Words
from groundwork.orderwork import Measure


@dataclass(frozen=True)
class Reckoned:
    """One step of a reckoning, and what it comes to in the need's measure; below nothing where it is less."""

    says: Words
    amount: float


@dataclass(frozen=True)
class Need:
    """What a stage needs of one thing: the `lines` it was reckoned of from the design, the `changes` that what was
    shot and laid has made since, and the share that is lost on the way."""

    stage: str
    what: str
    measure: Measure
    lines: tuple[Reckoned, ...]
    waste: float = 0.0
    changes: tuple[Reckoned, ...] = ()

    @property
    def designed(self) -> float:
        """By the design alone, without waste."""
        return math.fsum(line.amount for line in self.lines)

    @property
    def now(self) -> float:
        """As the ground and the work are, without waste."""
        return max(self.designed + math.fsum(line.amount for line in self.changes), 0.0)

    @property
    def with_waste(self) -> float:
        """What is ordered for it."""
        return self.now * (1 + self.waste)
