"""Water that a base takes in: what it has to store, how long that takes to soak away, and whether a pipe from it
reaches daylight."""

from dataclasses import dataclass

from groundwork.base import BaseSpecification, SurfaceKey
from groundwork.brief import Outlet, Soil
from groundwork.surfaces import DesignSurface

STORM_DURATION = 24 * 3600.0
LONGEST_DRAIN_DOWN = 72 * 3600.0
"""Permeable interlocking paving guidance; quoted from memory."""

PRESUMED_INFILTRATION = {
    Soil.ROCK: 1e-8, Soil.GRAVEL: 1e-4, Soil.SAND: 1e-5, Soil.SILT: 1e-7, Soil.CLAY: 1e-9, Soil.PEAT: 1e-8,
}  # fmt: skip
"""What a soil is taken to let in until it is tested, m/s (common practice, no published source)."""


def storage_depth(storm: float, infiltration: float, voids: float, run_on: float = 0.0, ratio: float = 0.0) -> float:
    """Depth of stone, metres, that stores a storm: d = (ΔQ·R + P − f·T)/V_r over 24 hours, not under 0.

    `storm` P and `run_on` ΔQ in metres of water, `ratio` R of contributing to permeable area, `infiltration` f in
    m/s, `voids` V_r (permeable interlocking paving guidance; quoted from memory).

    >>> round(storage_depth(0.05, 0.0, 0.4), 9)
    0.125
    """
    return max(0.0, (run_on * ratio + storm - infiltration * STORM_DURATION) / voids)


def drain_down(depth: float, infiltration: float, voids: float) -> float:
    """Seconds in which `depth` of full stone soaks away: d·V_r/f (same source).

    >>> round(drain_down(0.3, 1e-6, 0.4))
    120000
    """
    return depth * voids / infiltration


@dataclass(frozen=True)
class OutletReach:
    """A pipe's invert where it leaves the base and where it has to come out; `spare` is how far it arrives over
    what it must, negative where it cannot."""

    surface: SurfaceKey
    leaves_at: float
    arrives_at: float
    spare: float

    @property
    def reaches(self) -> bool:
        return self.spare >= -1e-9


def outlet_reach(
    outlet: Outlet, design: DesignSurface, specification: BaseSpecification, collects_at: SurfaceKey
) -> OutletReach:
    """Whether a pipe from where the base collects its water reaches its outlet: invert = the collecting
    surface − cover, less fall × run (common practice)."""
    try:
        depth = specification.depth_of(collects_at)
    except KeyError:
        collects_at, depth = SurfaceKey.FORMATION, specification.excavation_depth
    leaves = design.level(outlet.at) - depth - outlet.cover
    arrives = leaves - outlet.fall * outlet.run
    return OutletReach(collects_at, leaves, arrives, arrives - outlet.level)
