"""The V rules: what holds paving that is being seated, and what to mind of it."""

from collections.abc import Iterator, Sequence

from groundwork.jointwork import UnitFace
from groundwork.lifts import Coverage
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.seating.plates import asked, is_enough, is_plate
from groundwork.seating.units import LIPS, ToMend
from groundwork.tools import Machine

LIPS_ASKED = 3
"""Lips are taped at so many places at least (common practice)."""


def plate_findings(machines: Sequence[Machine], thickness: float, *, tapped: bool) -> Iterator[Finding]:
    """V01 and V02: of the machines that went over units so thick, metres; over such as are `tapped` in none goes."""
    for machine in machines:
        if tapped:
            yield Finding(
                "V02", Severity.STOP,
                Words("{machine} went over units that are tapped in", names={"machine": machine.name}),
                Words("no plate on porcelain, on flags in mortar, on units longer than {long}", {"long": 0.45}),
                "A plate cracks thin and large units, and shakes mortar off their backs.",
                "Look at every unit it went over, and lift one in twenty to see its back.", Source.MEMORY, number=1,
            )  # fmt: skip
        elif not is_plate(machine):
            yield Finding(
                "V01", Severity.WARNING, Words("{machine} is no plate", names={"machine": machine.name}),
                Words("a plate over a pad, or a roller with one"),
                "Units are seated by blows spread over several at once.", "Go over it with a plate.",
                Source.MEMORY, number=1,
            )  # fmt: skip
        elif not is_enough(machine, thickness):
            force = Words("{machine} has a blow of {force}", forces={"force": machine.force},
                          names={"machine": machine.name})  # fmt: skip
            unknown = Words("nobody knows the blow of {machine}", names={"machine": machine.name})
            yield Finding(
                "V01", Severity.WARNING, force if machine.force else unknown,
                Words("{force} for units {thick} thick", {"thick": thickness}, forces={"force": asked(thickness)}),
                "A light plate leaves the bed half compacted, for the first cars to finish.",
                "Go over it oftener, or take a heavier plate.", Source.MEMORY, number=1,
            )  # fmt: skip


def pass_findings(wanted: Sequence[Coverage], *, passes: int) -> Iterator[Finding]:
    """V03: patches not gone over often enough, both ways; a plate as it is goes over `passes` times."""
    left = [each for each in wanted if not each.is_done]
    if left:
        names = ", ".join(each.patch.name for each in left)
        yield Finding(
            "V03", Severity.STOP,
            Words("not seated yet: patch {text}", names={"text": names}),
            Words("{n} passes, each across the one before", counts={"n": passes}),
            "Fewer leave the bed half compacted, for the first cars to finish.",
            "Go over it, under Seating, and tick each pass.", Source.PRACTICE, number=len(left),
        )  # fmt: skip


def laid_findings(row: int, last: int) -> Iterator[Finding]:
    """V07: paving that is laid up to a row, and no further."""
    yield Finding(
        "V07", Severity.STOP, Words("laid up to row {row} of {last}", counts={"row": row, "last": last}),
        Words("all of it"), "What lies along an open face is not gone over: it moves away from under the plate.",
        "Lay the rest, say so under Laying, Rows, and seat it.", Source.MEMORY, number=1,
    )  # fmt: skip


def unit_findings(left: Sequence[ToMend], lips: int, face: UnitFace) -> Iterator[Finding]:
    """V04 to V06: units to mend, lips too high among them, lips taped at too few places."""
    high = [each for each in left if each.lip is not None]
    if faults := len(left) - len(high):
        yield Finding(
            "V04", Severity.STOP, Words("{n} units to mend", counts={"n": faults}, one="one unit to mend"),
            Words("none"), "A unit that rocks works its neighbours loose; later the whole row has to be lifted.",
            "Lift it, put the bed right, change it where it is broken; the list is under Seating.",
            Source.PRACTICE, number=faults,
        )  # fmt: skip
    if high:
        worst = max(each.lip or 0.0 for each in high)
        yield Finding(
            "V05", Severity.STOP, Words("a lip of {lip}", {"lip": worst}),
            Words("{most} at most", {"most": LIPS[face]}),
            "A lip trips people and catches blades and wheels.", "Lift and bed the unit again, and tape it anew.",
            Source.MEMORY, number=len(high),
        )  # fmt: skip
    if lips < LIPS_ASKED:
        yield Finding(
            "V06", Severity.STOP,
            Words("lips taped at {n} places", counts={"n": lips}, one="a lip taped at one place"),
            Words("at {n} places", counts={"n": LIPS_ASKED}, one="at one place"), "Eyes miss what a toe finds.",
            "Lay a straightedge across joints where it looks worst, under Seating.", Source.PRACTICE,
            number=LIPS_ASKED - lips,
        )  # fmt: skip
