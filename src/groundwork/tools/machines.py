"""What compacts: how thick a lift each machine takes, and in how many passes.

Passes over unbound mixtures: UK Specification for Highway Works, Series 800, table 8/4; quoted from memory.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

from groundwork.measures import in_kind


class MachineKind(StrEnum):
    """A way to compact; what its class goes by stands in `Machine.intensity`."""

    PLATE = "plate"
    TAMPER = "vibrating tamper"
    ROLLER = "vibrating roller"
    HAND = "hand tamper"


class NoMachine(ValueError):
    """That no machine is like that; `field` is what of it cannot be."""

    def __init__(self, field: str, message: str) -> None:
        super().__init__(message)
        self.field = field


@dataclass(frozen=True)
class Machine:
    """One machine: `mass` in kg, on the vibrating roll where it rolls; `width` of plate or roll and `length` of the
    base plate in metres; `speed` m/s; `force` of its blow by the maker, kN; `vibration` at the hands, m/s².

    Raises `ValueError` for one that cannot be.
    """

    name: str
    kind: MachineKind
    mass: float
    width: float
    length: float = 0.0
    speed: float = 0.0
    force: float = 0.0
    vibration: float = 0.0

    def __post_init__(self) -> None:
        if not (0 < self.mass <= 30_000 and 0 < self.width <= 3 and 0 <= self.length <= 3):
            raise NoMachine("mass", "a machine has a mass up to 30 t and a width up to 3 m")
        if self.kind is MachineKind.PLATE and self.length <= 0:
            said = "a plate's class goes by its mass over its base plate: give the plate's length"
            raise NoMachine("length", said)
        if self.speed <= 0:
            object.__setattr__(self, "speed", USUAL_SPEED[self.kind])
        if self.vibration <= 0:
            object.__setattr__(self, "vibration", USUAL_VIBRATION[self.kind])

    @property
    def intensity(self) -> float:
        """What its class goes by: kg/m² of base plate, kg of a tamper, kg/m of roll."""
        if self.kind is MachineKind.PLATE:
            return self.mass / (self.width * self.length)
        return self.mass / self.width if self.kind is MachineKind.ROLLER else self.mass


USUAL_SPEED = {MachineKind.PLATE: 0.35, MachineKind.TAMPER: 0.20, MachineKind.ROLLER: 0.45, MachineKind.HAND: 0.10}
"""Metres a second (common practice, no published source)."""
USUAL_VIBRATION = {MachineKind.PLATE: 5.0, MachineKind.TAMPER: 8.0, MachineKind.ROLLER: 3.0, MachineKind.HAND: 0.0}
"""At the hands, m/s²: what is taken until the maker's own figure is known (common practice, no published source)."""
DEPTHS = (0.110, 0.150, 0.225)
"""Compacted thicknesses the table is given for, metres."""
Passes = tuple[int | None, int | None, int | None]
TABLE: dict[MachineKind, tuple[tuple[float, Passes], ...]] = {
    MachineKind.PLATE: ((1400, (8, None, None)), (1800, (5, 8, None)), (2100, (3, 6, 10))),
    MachineKind.TAMPER: ((50, (4, 8, None)), (65, (3, 6, 10)), (75, (2, 4, 8))),
    MachineKind.ROLLER: (
        (700, (16, None, None)),
        (1300, (6, 16, None)),
        (1800, (4, 6, 10)),
        (2300, (3, 5, 9)),
    ),
}
"""By class: the intensity it begins above, and the passes at each of `DEPTHS`; None where it does not reach."""
LIGHT_LIFT = 0.050
"""What hand tampers, and machines lighter than the table whose blow is not known, compact at once (common practice,
no published source)."""
BY_FORCE = ((15.0, 0.075), (25.0, 0.100), (45.0, 0.150))
"""What a plate lighter than the table compacts at once by the force of its blow, kN: up to the first 50 mm, from each
on so much, from over the last (common practice, no published source; settlement proves it)."""
FEWEST = 3
"""No layer has fewer passes than this (common practice, no published source)."""
AT_WORK = 0.75
"""The share of the time on the machine that it covers new ground (common practice, no published source)."""


def passes_by_class(machine: Machine) -> Passes | None:
    """The table's row for a machine; None where it is lighter than the table goes. A class begins above its
    lower limit; beyond the heaviest the last row is taken."""
    row = None
    for above, passes in TABLE.get(machine.kind, ()):
        if machine.intensity > above:
            row = passes
    return row


def passes_needed(machine: Machine, thickness: float) -> int | None:
    """How often a lift that thick is gone over, at the next thickness the table has; None where the machine does not
    compact it at once."""
    row = passes_by_class(machine)
    if row is None:
        return FEWEST if thickness <= in_kind(greatest_thickness(machine), thickness) + 1e-9 else None
    for depth, passes in zip(DEPTHS, row, strict=True):
        if thickness <= in_kind(depth, thickness) + 1e-9:
            return None if passes is None else max(passes, FEWEST)
    return None


def greatest_thickness(machine: Machine) -> float:
    """The thickest lift it compacts at once, metres."""
    row = passes_by_class(machine)
    if row is None:
        return _by_force(machine)
    return max(depth for depth, passes in zip(DEPTHS, row, strict=True) if passes is not None)


def _by_force(machine: Machine) -> float:
    first, second, third = BY_FORCE
    if machine.kind is not MachineKind.PLATE or machine.force < first[0]:
        return LIGHT_LIFT
    if machine.force < second[0]:
        return first[1]
    return second[1] if machine.force <= third[0] else third[1]


def proved_by_settlement(machine: Machine) -> bool:
    """Whether its passes have no table to stand on: settlement from pass to pass shows whether the lift is tight."""
    return passes_by_class(machine) is None


@dataclass(frozen=True)
class Would:
    """What compacts a thickness at once: a kind of machine, the intensity it begins above, in so many passes."""

    kind: MachineKind
    above: float
    passes: int


def what_would(thickness: float) -> tuple[Would, ...]:
    """The lightest class of each kind that compacts a lift that thick at once."""
    found = []
    column = next((n for n, depth in enumerate(DEPTHS) if thickness <= in_kind(depth, thickness) + 1e-9), None)
    for kind, rows in TABLE.items():
        able = [(above, row[column]) for above, row in rows if column is not None and row[column] is not None]
        if able and (passes := able[0][1]) is not None:
            found.append(Would(kind, able[0][0], max(passes, FEWEST)))
    return tuple(found)


def time_on_machine(area: float, passes: int, machine: Machine) -> float:
    """Seconds to go over `area` m² so often: area × passes / (width × speed × 0.75)."""
    return area * passes / (machine.width * machine.speed * AT_WORK)


def lifts_for(thickness: float, greatest: float) -> int:
    """As few equal lifts as a greatest thickness, metres, allows. Raises `ValueError` where that is none.

    >>> lifts_for(0.25, 0.10)
    3
    """
    if greatest <= 0:
        raise ValueError("a lift is thicker than nothing")
    return max(1, math.ceil(thickness / in_kind(greatest, thickness) - 1e-9))
