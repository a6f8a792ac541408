"""What the ground under a job carries, and how thick a base that asks for: the answers of `strength` for one case."""

from dataclasses import dataclass
from typing import Any

from groundwork.measures import POUND_PER_SQUARE_INCH
from groundwork.soundness.rules import BY_THE_SOILS_TABLE, Case
from groundwork.strength import (
    axles_carried,
    fabric_overlap,
    layer_sum,
    least_sub_base,
    resilient_modulus_psi,
    structural_number,
)


@dataclass(frozen=True)
class GroundStrength:
    """`needed` and `has` are structural numbers; `least` the unbound thickness the table asks, None under CBR 2."""

    bearing_ratio: float
    tested: bool
    modulus_psi: float
    modulus_mpa: float
    needed: float | None
    too_many: bool
    has: float | None
    carries: float | None
    least: float | None
    unbound: float
    overlap: tuple[float, float]
    by_table: bool

    @property
    def enough(self) -> bool:
        return self.needed is not None and self.has is not None and self.has >= self.needed


def ground_strength(case: Case, asked: dict[str, Any]) -> GroundStrength:
    """The answers for a case; `asked` holds axles, reliability in percent, deviation and loss of serviceability."""
    cbr = case.bearing_ratio
    modulus = resilient_modulus_psi(cbr)
    reliability, deviation, loss = asked["reliability"] / 100, asked["deviation"], asked["loss"]
    has, needed, too_many = layer_sum(case.base), None, False
    if asked.get("axles"):
        try:
            needed = structural_number(asked["axles"], modulus, reliability, deviation, loss)
        except ValueError:
            too_many = True
    try:
        least = least_sub_base(cbr)
    except ValueError:
        least = None
    return GroundStrength(
        bearing_ratio=cbr,
        tested=bool(case.job.cone_logs),
        modulus_psi=modulus,
        modulus_mpa=modulus * POUND_PER_SQUARE_INCH / 1e6,
        needed=needed,
        too_many=too_many,
        has=has,
        carries=axles_carried(has, modulus, reliability, deviation, loss) if has else None,
        least=least,
        unbound=case.base.unbound,
        overlap=fabric_overlap(cbr),
        by_table=case.traffic in BY_THE_SOILS_TABLE,
    )
