"""Will the bed be even before anyone lays on it? Rails, the bed over the base as shot, the trial patch."""

from groundwork.bedding.bays import (
    FLAT,
)
from groundwork.bedding.bed import (
    Bed,
)
from groundwork.bedding.beds import (
    Bedding,
)
from groundwork.bedding.data import (
    bed_data,
)
from groundwork.bedding.ends import (
    RailEnd,
)
from groundwork.bedding.mortar import (
    TWO_PEOPLE,
    Batch,
    flag_mass,
    percent_held,
    to_lift,
)
from groundwork.bedding.rails import (
    Bay,
    Rail,
    RailPlan,
    notch,
    rail_plan,
)
from groundwork.bedding.sag import (
    PACKED_EVERY,
)
from groundwork.bedding.today import (
    covered,
)
from groundwork.bedding.trial import (
    PLACES,
    Trial,
    with_settlement,
)

__all__ = [
    "FLAT",
    "PACKED_EVERY",
    "PLACES",
    "TWO_PEOPLE",
    "Batch",
    "Bay",
    "Bed",
    "Bedding",
    "Rail",
    "RailEnd",
    "RailPlan",
    "Trial",
    "bed_data",
    "covered",
    "flag_mass",
    "notch",
    "percent_held",
    "rail_plan",
    "to_lift",
    "with_settlement",
]
