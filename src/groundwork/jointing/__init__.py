"""Are the joints full? What they take, when they may be filled, how, and how deep they lie."""

from groundwork.jointing.fills import (
    JointFill,
    fillings,
)
from groundwork.jointing.jointing import (
    Jointing,
)

__all__ = ["JointFill", "Jointing", "fillings"]
