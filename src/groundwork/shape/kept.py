"""An area as JSON values, and back."""

from collections.abc import Mapping, Sequence
from typing import Any

from groundwork.shape.islands import Island
from groundwork.shape.ring import Ring


def ring_of(data: Mapping[str, Any]) -> Ring:
    """The closed line of `data` that fits the job file's schema."""
    corners = tuple((float(x), float(y)) for x, y in data["outline_m"])
    return Ring(corners, tuple(map(float, data.get("bulges", ()))))


def islands_of(data: Mapping[str, Any]) -> tuple[Island, ...]:
    return tuple(
        Island(row["kind"], row.get("name", ""), ring_of(row), row.get("takes_water", False))
        for row in data.get("islands", ())
    )


def area_data(ring: Ring, islands: Sequence[Island] = ()) -> dict[str, Any]:
    """What `ring_of` and `islands_of` read; straight sides and an area without islands say nothing of them."""
    rows = [
        {"kind": each.kind, "name": each.name, "takes_water": each.takes_water} | area_data(each.ring)
        for each in islands
    ]
    found: dict[str, Any] = {"outline_m": [list(corner) for corner in ring.corners]}
    if not ring.is_straight:
        found["bulges"] = list(ring.bulges)
    return found | ({"islands": rows} if rows else {})
