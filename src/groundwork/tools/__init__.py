"""What does one work with? Instruments with what a reading of theirs is worth, machines with what they compact,
time on vibrating tools."""

from groundwork.tools.exposure import (
    LIMIT,
    daily_exposure,
    time_until,
)
from groundwork.tools.kit import (
    HEIGHT_METER,
    LASER,
    STRAIGHTEDGE,
    STRING,
    STRING_TENSION,
    STRING_WEIGHT,
    TAPE,
    Instrument,
    Method,
)
from groundwork.tools.machines import (
    DEPTHS,
    FEWEST,
    Machine,
    MachineKind,
    Would,
    greatest_thickness,
    lifts_for,
    passes_needed,
    proved_by_settlement,
    time_on_machine,
    what_would,
)

__all__ = [
    "DEPTHS",
    "FEWEST",
    "HEIGHT_METER",
    "LASER",
    "LIMIT",
    "STRAIGHTEDGE",
    "STRING",
    "STRING_TENSION",
    "STRING_WEIGHT",
    "TAPE",
    "Instrument",
    "Machine",
    "MachineKind",
    "Method",
    "Would",
    "daily_exposure",
    "greatest_thickness",
    "lifts_for",
    "passes_needed",
    "proved_by_settlement",
    "time_on_machine",
    "time_until",
    "what_would",
]
