"""How dense a layer is, from what was weighed or read in the field, and whether that is enough.

Densities in kg/m³, masses in kg, moisture as a share of the dry mass.
"""

import statistics
from collections.abc import Sequence
from dataclasses import dataclass

from scipy import stats

from groundwork.brief import Traffic
from groundwork.laboratory.compaction import WATER

ONE_UNDER = 0.03
"""No single test further under the specification than this (common practice, no published source)."""
MOST_OVERSIZE = 0.40
"""Beyond this share of oversize the correction no longer holds (ASTM D4718, quoted from memory)."""


def dry_density(wet: float, moisture: float) -> float:
    """ρ/(1 + w): UFC 3-220-20 (DM 7.2) equation 3-1. Raises `ValueError` for no density or a negative moisture.

    >>> round(dry_density(2140, 0.07), 3)
    2000.0
    """
    if wet <= 0 or moisture < 0:
        raise ValueError("a density is more than nothing, a moisture not less")
    return wet / (1 + moisture)


def relative_compaction(dry: float, maximum: float) -> float:
    """Dry density over the laboratory's maximum (NAVFAC DM 7.2 chapter 3). Raises `ValueError` for no density.

    >>> relative_compaction(1980, 2000)
    0.99
    """
    if dry <= 0 or maximum <= 0:
        raise ValueError("a density is more than nothing")
    return dry / maximum


def hole_volume(sand_used: float, in_the_cone: float, sand_density: float) -> float:
    """Volume of a test hole by the sand that fills it, m³ (ASTM D1556). Raises `ValueError` where none is left for
    the hole.

    >>> round(hole_volume(5.2, 1.6, 1400), 6)
    0.002571
    """
    if sand_density <= 0 or in_the_cone < 0 or sand_used <= in_the_cone:
        raise ValueError("more sand is used than stays in the cone")
    return (sand_used - in_the_cone) / sand_density


def oversize_corrected_density(fine: float, oversize: float, gravity: float) -> float:
    """The maximum dry density of the whole material from that of its fine part: UFC 3-220-20 (DM 7.2) equation 3-7,
    ASTM D4718. `oversize` is the share of the dry mass that was kept out of the mould, `gravity` its own.

    Raises `ValueError` beyond 40 % of oversize.

    >>> round(oversize_corrected_density(2000, 0.2, 2.65), 1)
    2103.2
    """
    if not 0 <= oversize <= MOST_OVERSIZE:
        raise ValueError("the correction holds up to 40 % of oversize")
    stone = gravity * WATER
    return fine * stone / (fine * oversize + stone * (1 - oversize))


def combined_gravity(fine: float, oversize: float, stone: float) -> float:
    """Specific gravity of the whole from those of its fine part and its stone, by their shares of the mass (any text
    on soils: volumes add up).

    >>> round(combined_gravity(2.70, 0.2, 2.60), 3)
    2.679
    """
    return 1 / ((1 - oversize) / fine + oversize / stone)


def oversize_corrected_moisture(fine: float, oversize: float, stone: float = 0.0) -> float:
    """Moisture of the whole from that of its fine part and its stone: UFC 3-220-20 equation 3-6."""
    return oversize * stone + (1 - oversize) * fine


def least_relative_compaction(traffic: Traffic, is_base: bool) -> float:
    """Of the standard effort's maximum: base 98 %; under it 98 % for vehicles, 95 % on foot (common practice)."""
    return 0.98 if is_base or traffic.wheels else 0.95


@dataclass(frozen=True)
class CompactionVerdict:
    """Tests of one lift taken together; `spread` is the standard deviation, None for one test alone; `sure` what the
    mean is at least, 19 times of 20, by Student's t."""

    number: int
    mean: float
    least: float
    spread: float | None
    sure: float | None
    limit: float

    @property
    def mean_holds(self) -> bool:
        return self.mean >= self.limit - 1e-9

    @property
    def each_holds(self) -> bool:
        return self.least >= self.limit - ONE_UNDER - 1e-9

    @property
    def passes(self) -> bool:
        return self.mean_holds and self.each_holds


def acceptance(results: Sequence[float], limit: float) -> CompactionVerdict:
    """Tests held against a limit by their mean and one by one. Raises `ValueError` for none."""
    if not results:
        raise ValueError("no test")
    mean, least = statistics.fmean(results), min(results)
    if len(results) == 1:
        return CompactionVerdict(1, mean, least, None, None, limit)
    spread = statistics.stdev(results)
    sure = mean - float(stats.t.ppf(0.95, len(results) - 1)) * spread / len(results) ** 0.5
    return CompactionVerdict(len(results), mean, least, spread, sure, limit)


def deformation_modulus(settlement: float) -> float:
    """Evd of a light falling weight with a 300 mm plate, MPa: 22.5/s with s in mm, here in metres (German TP BF-StB
    part B 8.3). Raises `ValueError` for no settlement.

    >>> round(deformation_modulus(0.0005), 9)
    45.0
    """
    if settlement <= 0:
        raise ValueError("the plate settles by more than nothing")
    return 22.5 / (settlement * 1000)


def water_to_add(volume: float, dry: float, moisture: float, optimum: float) -> float:
    """Kilograms (litres) of water that bring a volume, m³, of that dry density from one moisture to another:
    V ρd (w_opt − w); negative where it is too wet.

    >>> round(water_to_add(2.0, 2000, 0.04, 0.06), 9)
    80.0
    """
    return volume * dry * (optimum - moisture)
