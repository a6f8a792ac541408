"""What does the ground carry, and how thick has a base to be on it?"""

from groundwork.strength.cone import (
    ConeLogError,
    layers,
    log_text,
    parse_log,
    weakest,
)
from groundwork.strength.soil import (
    PRESUMED,
    SOFT,
    TABLE,
    axles_carried,
    fabric_overlap,
    layer_sum,
    least_sub_base,
    resilient_modulus_psi,
    structural_number,
)

__all__ = [
    "PRESUMED",
    "SOFT",
    "TABLE",
    "ConeLogError",
    "axles_carried",
    "fabric_overlap",
    "layer_sum",
    "layers",
    "least_sub_base",
    "log_text",
    "parse_log",
    "resilient_modulus_psi",
    "structural_number",
    "weakest",
]
