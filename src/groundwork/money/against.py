"""Then against now: the estimate as it was kept, what has been spent since, what it will come to at the end."""

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal

from groundwork.money.estimate import Estimate, Line, summed


@dataclass(frozen=True)
class StageAgainst:
    """A stage: what was estimated, with its contingency beside it; what is `spent`, and what is to come still."""

    stage: str
    estimated: Decimal
    contingency: Decimal
    spent: Decimal
    to_come: Decimal

    @property
    def at_the_end(self) -> Decimal:
        return self.spent + self.to_come

    @property
    def over(self) -> Decimal:
        """Above what was estimated; below nought where it stays under."""
        return self.at_the_end - self.estimated


@dataclass(frozen=True)
class Against:
    """All stages, without tax."""

    stages: tuple[StageAgainst, ...]

    def _all(self, name: str) -> Decimal:
        return sum((getattr(stage, name) for stage in self.stages), Decimal(0))

    @property
    def estimated(self) -> Decimal:
        return self._all("estimated")

    @property
    def contingency(self) -> Decimal:
        return self._all("contingency")

    @property
    def spent(self) -> Decimal:
        return self._all("spent")

    @property
    def to_come(self) -> Decimal:
        return self._all("to_come")

    @property
    def at_the_end(self) -> Decimal:
        return self.spent + self.to_come

    @property
    def over(self) -> Decimal:
        return self.at_the_end - self.estimated

    @property
    def contingency_left(self) -> Decimal:
        """What of the contingency nothing has used up; none where all has."""
        return max(self.contingency - max(self.over, Decimal(0)), Decimal(0))


def against(then: Estimate, spent: Sequence[Line], to_come: Sequence[Line]) -> Against:
    """Stage by stage, in the order of the estimate, then those it did not have."""
    before = {stage.stage: stage for stage in then.stages}
    names = dict.fromkeys([*before, *(line.item.stage for line in (*spent, *to_come))])
    return Against(
        tuple(
            StageAgainst(
                name,
                before[name].net if name in before else Decimal(0),
                before[name].contingency if name in before else Decimal(0),
                summed([line for line in spent if line.item.stage == name]),
                summed([line for line in to_come if line.item.stage == name]),
            )
            for name in names
        )
    )
