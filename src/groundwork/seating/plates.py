"""What seats units: whether a machine is heavy enough for them, how often it goes over."""

import math

from groundwork.tools import Machine, MachineKind

FEWEST = 3
"""Units are gone over at least so often, each time across the time before (common practice, no published source)."""
FORCE, PRESSURE, ON = 16.0, 75.0, 0.20
"""kN of a plate's blow, or kN/m² on a plate of so many m²: for units of 60 to 80 mm (interlocking-paving guidance,
quoted from memory: 16 to 22 kN, 75 to 100 Hz)."""
FORCE_THICK, THICK = 22.0, 0.080
"""The same for units thicker than 80 mm: the upper end of that."""
MOST = 2 * FEWEST
"""More passes than these do not make up for a plate that is too light (common practice, no published source)."""


def is_plate(machine: Machine) -> bool:
    """Whether units can be seated with it at all."""
    return machine.kind is MachineKind.PLATE


def asked(thickness: float) -> float:
    """The blow asked for units so thick, kN."""
    return FORCE if thickness <= THICK + 1e-9 else FORCE_THICK


def is_enough(machine: Machine, thickness: float) -> bool:
    """Whether a plate's blow seats units so thick at once, metres; not where nobody knows its blow."""
    if not is_plate(machine):
        return False
    base = machine.width * machine.length
    pressed = base >= ON - 1e-9 and machine.force / base >= PRESSURE - 1e-9
    return machine.force >= asked(thickness) - 1e-9 or (thickness <= THICK + 1e-9 and pressed)


def passes(machine: Machine, thickness: float) -> int | None:
    """How often a plate goes over units so thick: oftener in proportion where its blow is less than asked, or not
    known; None for what is no plate."""
    if not is_plate(machine):
        return None
    if is_enough(machine, thickness):
        return FEWEST
    if not machine.force:
        return MOST
    return min(MOST, math.ceil(FEWEST * asked(thickness) / machine.force - 1e-9))
