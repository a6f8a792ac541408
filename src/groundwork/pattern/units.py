"""A unit to lay."""

from dataclasses import dataclass

Vector = tuple[float, float]


@dataclass(frozen=True)
class PavingUnit:
    """A unit to lay: its length and width, the joint beside it, metres; joints at its ends are as wide, or as its
    pattern needs them."""

    length: float
    width: float
    joint: float

    @property
    def area(self) -> float:
        return self.length * self.width
