"""How far paving is laid: what each row comes to, at what rate it went, which bays are to be laid still."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Protocol, TypeVar

import shapely
from shapely.geometry.base import BaseGeometry

from groundwork.laywork import RowsLaid
from groundwork.pattern import Paving

LAID_ON = 0.9
"""A bay is laid on where so much of it is."""


class Outlined(Protocol):
    """A bay of a bed, as it lies on the plan."""

    @property
    def outline(self) -> BaseGeometry: ...

    @property
    def area(self) -> float: ...


B = TypeVar("B", bound=Outlined)


def area_by_row(paving: Paving) -> dict[int, float]:
    """What each row comes to, m² with its joints; a border goes with the last."""
    found = dict[int, float]()
    last, joints = max(paving.rows, default=0), float(paving.area.area) / paving.covered
    for piece in paving.pieces.values():
        row = piece.row or last
        found[row] = found.get(row, 0.0) + piece.shape.area * joints
    return found


def rate(laid: Iterable[RowsLaid], by_row: Mapping[int, float]) -> float | None:
    """m² a person-hour, from the hours that were counted; None where none were."""
    row, area, hours = 0, 0.0, 0.0
    for entry in laid:
        if entry.hours and entry.row > row:
            area += sum(by_row.get(each, 0.0) for each in range(row + 1, entry.row + 1))
            hours += entry.hours
        row = entry.row
    return area / hours if hours else None


def to_lay(bays: Sequence[B], laid: BaseGeometry | None) -> tuple[B, ...]:
    """Bays that are not laid on yet, but for a tenth of each."""
    if laid is None:
        return tuple(bays)
    return tuple(bay for bay in bays if shapely.intersection(bay.outline, laid).area < LAID_ON * bay.area)
