"""Do the pegs stand where the plan has them, and were the services located?"""

from groundwork.setout.curves import (
    curved_sides,
)
from groundwork.setout.pegs import (
    Impossible,
    angle,
    chord_offsets,
    off_line,
    radius_of,
    square_across,
    square_triangle,
    string_table,
)
from groundwork.setout.services import (
    USUAL_LIFE,
    service_findings,
)
from groundwork.setout.settingout import (
    SettingOut,
)

__all__ = [
    "USUAL_LIFE",
    "Impossible",
    "SettingOut",
    "angle",
    "chord_offsets",
    "curved_sides",
    "off_line",
    "radius_of",
    "service_findings",
    "square_across",
    "square_triangle",
    "string_table",
]
