"""A fall read by a spirit level's own bubble: half out, or touching the line. What that is worth is the crew's own
level's: it is laid on a known fall once, and from then on the bubble says that fall."""

import math
from dataclasses import dataclass, replace
from enum import StrEnum

from groundwork.measures import Measured
from groundwork.tools import Instrument

LEAST_U, SHARE_U = 0.0015, 0.15
"""Standard uncertainty of a fall read by the bubble: this, and this share of the fall (common practice, no published
source)."""


class Bubble(StrEnum):
    """Where the bubble stands against its lines."""

    TOUCHING = "touching"
    HALF_OUT = "half out"


@dataclass(frozen=True)
class SpiritLevel:
    """A crew's own level: the fall, a ratio, at which its bubble stands so; None where it was never laid on one."""

    touching: float | None = None
    half_out: float | None = None

    def __post_init__(self) -> None:
        if self.touching and self.half_out and self.touching >= self.half_out:
            raise ValueError("the bubble touches the line before it is half out")

    @property
    def known(self) -> tuple[Bubble, ...]:
        """The ways its bubble can be read."""
        return tuple(bubble for bubble in Bubble if self.fall(bubble))

    def fall(self, bubble: Bubble) -> float | None:
        return self.touching if bubble is Bubble.TOUCHING else self.half_out

    def read(self, bubble: Bubble, length: float, instrument: Instrument) -> tuple[Measured, Instrument]:
        """The gap a level of `length` metres would show under its far end, and the instrument with how sure that is.
        Raises `ValueError` where the level was never laid on a known fall."""
        fall = self.fall(bubble)
        if fall is None:
            raise ValueError("this level was never laid on a known fall")
        sure = math.hypot(LEAST_U, SHARE_U * fall) * length
        return Measured(f"bubble {bubble}", fall * length), replace(instrument, reading_u=sure)
