"""What does the whole job come to?"""

from groundwork.assess.answered import (
    design_changed,
)
from groundwork.assess.assessment import (
    Assessment,
    assess,
    overtaken,
)
from groundwork.assess.conditions import (
    carrying,
)

__all__ = [
    "Assessment",
    "assess",
    "carrying",
    "design_changed",
    "overtaken",
]
