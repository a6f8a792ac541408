"""How dense can it get, and how dense is it? The curve of a compaction test, densities in the field."""

from groundwork.laboratory.compaction import (
    WATER,
    CompactionCurve,
    NotACurve,
    curve,
    zero_air_voids,
)
from groundwork.laboratory.density import (
    ONE_UNDER,
    CompactionVerdict,
    acceptance,
    combined_gravity,
    deformation_modulus,
    dry_density,
    hole_volume,
    least_relative_compaction,
    oversize_corrected_density,
    relative_compaction,
    water_to_add,
)

__all__ = [
    "ONE_UNDER",
    "WATER",
    "CompactionCurve",
    "CompactionVerdict",
    "NotACurve",
    "acceptance",
    "combined_gravity",
    "curve",
    "deformation_modulus",
    "dry_density",
    "hole_volume",
    "least_relative_compaction",
    "oversize_corrected_density",
    "relative_compaction",
    "water_to_add",
    "zero_air_voids",
]
