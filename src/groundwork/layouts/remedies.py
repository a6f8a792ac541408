"""What can be done about a piece too small, and what the whole layout would come to then."""

from collections.abc import Iterator
from dataclasses import dataclass, replace

from groundwork.layouts.searched import Choice, choice
from groundwork.pattern import Border, BorderCourse, Paving, PavingDesign, PavingPiece, two_alike

_NONE, _ACROSS, _ALONG, _DOUBLE = BorderCourse
_OTHERS = {
    _NONE: (_ALONG, _ACROSS),
    _ALONG: (_ACROSS, _DOUBLE),
    _ACROSS: (_ALONG, _DOUBLE),
    _DOUBLE: (_ACROSS, _ALONG),
}


@dataclass(frozen=True)
class Remedy:
    """A way out: `share` with the unit beside it, `shift` the start by half a module, or another `border`; the paving
    then, and what it comes to. Of a shared piece how long each of the two is, metres."""

    how: str
    paving: Paving
    comes_to: Choice
    each: float = 0.0


def remedies(paving: Paving, name: str) -> tuple[Remedy, ...]:
    """Every way out for a piece, the fewest slivers first. Raises `KeyError`."""
    piece = paving.pieces[name]
    found = [Remedy(how, other, choice(other), each) for how, other, each in _ways(paving, piece)]
    return tuple(sorted(found, key=lambda each: (each.comes_to.slivers, each.comes_to.cuts)))


def _ways(paving: Paving, piece: PavingPiece) -> Iterator[tuple[str, Paving, float]]:
    design = paving.design
    if both := two_alike(dict(paving.pieces), piece.name, design.widest_joint):
        x0, y0, x1, y1 = both[0].shape.bounds
        u0, v0, u1, v1 = both[0].box.bounds
        short = x1 - x0 if (u1 - u0) - (x1 - x0) > (v1 - v0) - (y1 - y0) else y1 - y0
        yield "share", replace(paving, shared=paving.shared | {piece.name}), short
    step = design.pitch / 2
    for over, ahead in ((step, 0.0), (0.0, step)):
        moved = replace(design, over=design.over + over, ahead=design.ahead + ahead)
        yield ("shift over" if over else "shift ahead"), Paving(paving.area, moved), step
    for course in _OTHERS[design.border.course]:
        try:
            other = Paving(paving.area, _with_border(paving, course))
            yield f"border {course}", other, 0.0
        except ValueError:
            continue


def _with_border(paving: Paving, course: BorderCourse) -> PavingDesign:
    design = paving.design
    border = Border(course, design.border.corner)
    by = border.breadth(design.unit) - design.border.breadth(design.unit)
    return replace(design, border=border, over=design.over + by, ahead=design.ahead + by)
