"""The Y rules: what holds the paving, and what to mind of it."""

import math
from collections.abc import Iterator, Sequence

from groundwork.laying.gauge import Home, Joints, RowTaped
from groundwork.laying.takeoff import OPEN_TOGETHER, Packs
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.pattern import Paving

SQUARE = 0.005
"""Rows may be so far out of square over their breadth, metres (common practice, no published source)."""
LEAST_SPARES = 0.01
"""The share of units kept for repairs, 1 to 2 % (common practice, no published source)."""
NAMED = 12
"""So many pieces too small are named."""

NO_FIT = Finding(
    "Y01", Severity.STOP, Words("the layout does not fit the area as it is now"), Words("a layout that fits"),
    "The area was changed after it was laid out.", "Lay it out again.", Source.PRACTICE,
)  # fmt: skip

NOT_LAID_OUT = Finding(
    "Y10", Severity.STOP, Words("no layout is chosen"), Words("a layout, before the first unit"),
    "Nobody knows where it ends, with what pieces, and whether a joint runs where none may.",
    "Choose one, under Laying.", Source.PRACTICE, number=1,
)  # fmt: skip


def taping_findings(left: Sequence[int], *, squared: bool) -> Iterator[Finding]:
    """Y11 and Y12: rows that are still to be taped, first rows nobody squared."""
    if left:
        rows = ", ".join(map(str, left[:NAMED]))
        yield Finding(
            "Y11", Severity.STOP, Words("rows to tape still: {rows}", names={"rows": rows}),
            Words("each at its left, in its middle and at its right"),
            "A course that wanders is seen from the window, and ends in slivers.",
            "Tape them from the string, under Laying, Rows.", Source.PRACTICE, number=len(left),
        )  # fmt: skip
    if not squared:
        yield Finding(
            "Y12", Severity.WARNING, Words("nobody taped whether the first rows are square"), Words("a triangle"),
            "What is out by a hair at the start is out by a joint at the end.",
            "Tape one on the first rows, under Laying, Rows.", Source.PRACTICE, number=1,
        )  # fmt: skip


def layout_findings(
    paving: Paving, joints: Joints, bounds: tuple[float, float], *, wheels: bool
) -> Iterator[Finding]:  # fmt: skip
    """Y02 to Y05: of the layout, where `wheels` go or not; joints against the `bounds` of their filling, metres."""
    pattern, (least, most) = paving.design.pattern, bounds
    if wheels and pattern.four_corners:
        yield Finding(
            "Y02", Severity.STOP, Words("four corners meet where wheels go"), Words("a bond without crosses"),
            "Nothing holds the corners against a wheel.", "Choose herringbone, or a running bond across the way.",
            Source.PRACTICE,
        )  # fmt: skip
    elif wheels and not pattern.wheels:
        yield Finding(
            "Y03", Severity.WARNING, Words("a pattern that locks one way only, under wheels"),
            Words("herringbone, or courses across the way"), "Wheels push the courses along and turn the units.",
            "Choose herringbone, or see that the courses lie across the way.", Source.MEMORY,
        )  # fmt: skip
    if paving.slivers:
        number = len(paving.slivers)
        yield Finding(
            "Y04", Severity.STOP if wheels else Severity.WARNING,
            Words("{n} pieces under a third of a unit, or narrower than 40 mm", counts={"n": number},
                  one="one piece under a third of a unit, or narrower than 40 mm"),
            Words("none"), "Small pieces break, and walk out at the edge.",
            "Share each with the unit beside it, shift the start, or turn the border.", Source.MEMORY,
            tuple(piece.name for piece in paving.slivers[:NAMED]), number=number,
        )  # fmt: skip
    if not least - 1e-9 <= joints.width <= most + 1e-9:
        yield Finding(
            "Y05", Severity.WARNING, Words("joints of {width}", {"width": joints.width}),
            Words("{least} to {most} for this filling", {"least": least, "most": most}),
            "Too tight and edges spall, too wide and nothing locks.", "Choose another joint.", Source.PRACTICE,
        )  # fmt: skip


def row_findings(last: RowTaped | None, found: Home | None, out_of_square: float | None) -> Iterator[Finding]:
    """Y06 and Y07: of the row taped last and how it comes home, and of a triangle on the first rows, metres."""
    if last is not None and found is not None and not last.is_in_line:
        worst = max(map(abs, last.off.values()))
        yield Finding(
            "Y06", Severity.STOP if found.back_to is not None else Severity.WARNING,
            Words("row {row} is up to {worst} off its line", {"worst": worst}, {"row": last.row}), Words("in line"),
            "A course that wanders is seen from the window, and ends in slivers.",
            "Bring it home over the next rows, or lift back to the last good one.", Source.PRACTICE,
        )  # fmt: skip
    if out_of_square is not None and abs(out_of_square) > SQUARE:
        yield Finding(
            "Y07", Severity.WARNING, Words("the rows are {off} out of square", {"off": abs(out_of_square)}),
            Words("at most {most}", {"most": SQUARE}), "What is out at the start is out by a joint at the end.",
            "Turn the string, tape the triangle again.", Source.PRACTICE,
        )  # fmt: skip


def pack_findings(packs: Packs, needed: int) -> Iterator[Finding]:
    """Y08 and Y09: too few packs open together while units are `needed` still, another batch among them."""
    if packs.open_now and len(packs.open_now) < OPEN_TOGETHER and needed > packs.units:
        yield Finding(
            "Y08", Severity.WARNING,
            Words("{n} packs open", counts={"n": len(packs.open_now)}, one="one pack open"),
            Words("at least {most} together", counts={"most": OPEN_TOGETHER}),
            "One pack at a time makes stripes of colour.", "Open more, and take from all of them.", Source.PRACTICE,
        )  # fmt: skip
    if packs.others:
        codes = ", ".join(sorted({pack.code for pack in packs.others}))
        yield Finding(
            "Y09", Severity.WARNING, Words("another batch is open: {text}", names={"text": codes}),
            Words("one batch code"), "Batches differ in shade.",
            "Mix it well with the others, or keep it for where nobody looks.", Source.PRACTICE,
        )  # fmt: skip


def spare_findings(kept: int | None, needed: int) -> Iterator[Finding]:
    """H01: fewer units kept for repairs than a hundredth of those laid, None where nobody counted."""
    wanted = math.ceil(needed * LEAST_SPARES - 1e-9)
    if kept is None or kept < wanted:
        found = Words("no spare units counted") if kept is None else (
            Words("{n} spare units kept", counts={"n": kept}, one="one spare unit kept")
        )  # fmt: skip
        yield Finding(
            "H01", Severity.WARNING, found, Words("{n} at least", counts={"n": wanted}),
            "Batches differ in shade: what is not kept now is never had again.",
            "Count them under Laying, Packs, and leave them with the client.", Source.PRACTICE, number=1,
        )  # fmt: skip
