"""How many units a layout takes: two pieces come out of one where the saw leaves room for both."""

from collections.abc import Iterable, Sequence

import numpy as np

from groundwork.surfaces import Floats

KERF = 0.003
"""What a saw's blade takes, metres (common practice); nothing where units are split."""
STRAIGHT = 1e-6
"""A piece is cut straight across where it is as wide as its unit and as large as its extents, metres and m²."""


def units_for(sides: tuple[float, float], extents: Floats, areas: Floats, kerf: float = KERF) -> int:
    """Units of one size that pieces come out of: `extents` (n, 2) along and across, metres, and `areas` (n,), m². The
    longest goes with the longest that still fits beside it; what is not cut straight across takes its unit alone."""
    if not len(areas):
        return 0
    way = 0 if sides[0] >= sides[1] else 1
    long, wide = extents[:, way], extents[:, 1 - way]
    straight = (wide > sides[1 - way] - STRAIGHT) & (areas > long * wide - STRAIGHT)
    return int((~straight).sum()) + _paired(np.sort(long[straight]).tolist(), sides[way], kerf)


def _paired(lengths: Sequence[float], length: float, kerf: float) -> int:
    needed, short, last = 0, 0, len(lengths) - 1
    while short <= last:
        if short < last and lengths[short] + lengths[last] + kerf <= length + 1e-9:
            short += 1
        last -= 1
        needed += 1
    return needed


def units_of(cut: Iterable[tuple[tuple[float, float], Floats, Floats]], kerf: float = KERF) -> int:
    """Units that pieces of several sizes, and of units laid either way round, come out of: for each way the sides of
    the whole unit, the `extents` and the `areas` of its pieces."""
    by_size: dict[tuple[float, float], list[tuple[Floats, Floats]]] = {}
    for (along, across), extents, areas in cut:
        long, short = max(along, across), min(along, across)
        by_size.setdefault((long, short), []).append((extents if along >= across else extents[:, ::-1], areas))
    return sum(
        units_for(size, np.concatenate([e for e, _a in pieces]), np.concatenate([a for _e, a in pieces]), kerf)
        for size, pieces in by_size.items()
    )
