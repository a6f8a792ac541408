"""What does the whole job come to?"""

from groundwork.assess.answered import (
    design_changed,
)
from groundwork.assess.assessment import (
    Assessment,
    advance,
    assess,
    overtaken,
)
from groundwork.assess.conditions import (
    carrying,
)
from groundwork.assess.standing import (
    Before,
)

__all__ = [
    "Assessment",
    "Before",
    "advance",
    "assess",
    "carrying",
    "design_changed",
    "overtaken",
]
