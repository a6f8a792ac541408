"""Units to mend, and lips between them: which are open still, and in what order one walks to them."""

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from groundwork.jointwork import LipTaped, UnitFace, UnitFault, UnitMended
from groundwork.surfaces import Point

LIPS = {UnitFace.FLAT: 0.002, UnitFace.TEXTURED: 0.003, UnitFace.RIVEN: 0.005}
"""The highest lip by the units' faces, metres (industry guidance, quoted from memory)."""
LIP_U = 0.0005
"""Standard uncertainty of a lip by straightedge and wedge, metres (common practice)."""
SAME_PLACE = 0.15
"""Lips taped so near each other are of one place, metres."""


@dataclass(frozen=True)
class ToMend:
    """A unit to mend: where, and what is wrong; `lip`, metres, where that is it."""

    found: UnitFault | LipTaped
    at: Point
    lip: float | None = None


def newest_lips(taped: Iterable[LipTaped]) -> list[LipTaped]:
    """The lip at each place as it was taped last."""
    found: list[LipTaped] = []
    for each in taped:
        found = [other for other in found if math.dist(other.at, each.at) > SAME_PLACE]
        found.append(each)
    return found


def to_mend(
    faults: Mapping[str, UnitFault], lips: Sequence[LipTaped], mended: Iterable[UnitMended], most: float
) -> list[ToMend]:
    """Units to mend still, in the order one walks to them."""
    done = {each.found for each in mended}
    found = [ToMend(each, each.at) for name, each in faults.items() if name not in done]
    found += [
        ToMend(each, each.at, each.lip.metres)
        for each in lips
        if each.lip.metres > most + 1e-9 and each.id not in done
    ]
    return walked(found)


def walked(places: Sequence[ToMend]) -> list[ToMend]:
    """From the one nearest the lower left on, each time to the nearest that is left."""
    left = list(places)
    here = (min((each.at[0] for each in left), default=0.0), min((each.at[1] for each in left), default=0.0))
    found = []
    while left:
        following = min(left, key=lambda each: (math.dist(each.at, here), each.found.id))
        left.remove(following)
        found.append(following)
        here = following.at
    return found
