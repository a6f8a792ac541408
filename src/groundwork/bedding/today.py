"""How far to screed: as much as will be covered before work stops or the rain comes, bay by bay."""

from collections.abc import Sequence

from groundwork.bedding.rails import Bay

LAYING_RATE = 4.0
"""Units laid, m² a person-hour, where a crew has no rate of its own (common practice, no published source)."""
FLAG_RATE = 2.0
"""The same of flags."""
FLAGS = frozenset({"porcelain", "natural-stone"})


def covered(bays: Sequence[Bay], square_metres: float) -> list[tuple[Bay, float]]:
    """The bays, in order, that so much covers, each with the share of it; none for nothing."""
    found, left = [], square_metres
    for bay in bays:
        if left <= 1e-9:
            break
        found.append((bay, min(1.0, left / bay.area)))
        left -= bay.area
    return found
