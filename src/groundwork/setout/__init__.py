"""Do the pegs stand where the plan has them, and were the services located?"""

from groundwork.setout.pegs import (
    Impossible,
    SetOut,
    angle,
    chord_offsets,
    margin_findings,
    off_line,
    radius_of,
    set_out_findings,
    square_across,
    square_triangle,
    string_table,
)
from groundwork.setout.services import (
    USUAL_LIFE,
    Location,
    location,
    service_findings,
)

__all__ = [
    "USUAL_LIFE",
    "Impossible",
    "Location",
    "SetOut",
    "angle",
    "chord_offsets",
    "location",
    "margin_findings",
    "off_line",
    "radius_of",
    "service_findings",
    "set_out_findings",
    "square_across",
    "square_triangle",
    "string_table",
]
