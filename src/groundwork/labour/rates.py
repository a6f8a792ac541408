"""What is done in an hour."""

import tomllib
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from groundwork.tools import Machine, MachineKind, time_on_machine

PLATED = "plate"
USUAL_PLATE = Machine("", MachineKind.PLATE, 90.0, 0.45, 0.5)
"""What goes over it where no machine was brought yet: the plate most crews have (common practice)."""


@dataclass(frozen=True)
class Rate:
    """So much of something in an hour, by one person; `machine` where one person is at a machine."""

    key: str
    title: str
    per: str
    amount: float
    machine: str = ""


def plate_rate(machine: Machine | None) -> Rate:
    """m² that a machine goes over once in an hour, by its width and speed."""
    over = 3600.0 / time_on_machine(1.0, 1, machine or USUAL_PLATE)
    return Rate(PLATED, "gone over once with the plate", "m2", over, "plate")


@cache
def rates() -> dict[str, Rate]:
    """The table, by key; the plate's as the usual one has it."""
    data = tomllib.loads(Path(__file__).with_name("rates.toml").read_text(encoding="utf-8"))
    table = {
        key: Rate(key, row["title"], row["per"], float(row["rate"]), row.get("machine", ""))
        for key, row in data.items()
    }
    return table | {PLATED: plate_rate(None)}
