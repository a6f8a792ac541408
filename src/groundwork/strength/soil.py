"""How strong the ground is and how thick a base that asks for. Help for a decision: what carries heavy vehicles is
designed by an engineer.

A California bearing ratio (CBR) is in percent throughout.
"""

import math
from statistics import NormalDist

from scipy.optimize import brentq

from groundwork.base import POURED, BaseSpecification, Family, Role
from groundwork.brief import Soil
from groundwork.measures import INCH

TABLE = ((2.0, 0.350), (3.0, 0.300), (4.0, 0.250), (5.0, 0.225))
GREATEST_CBR = 100.0
SOFT = 3.0
"""Ground under this CBR is soft: fabrics lap further, geogrids lap instead of butting (common practice)."""

PRESUMED = {Soil.ROCK: 60.0, Soil.GRAVEL: 20.0, Soil.SAND: 10.0, Soil.SILT: 2.0, Soil.CLAY: 2.5, Soil.PEAT: 0.5}
"""What a soil is taken for until it is tested, wet and on the safe side (common practice, no published source)."""


def cbr_from_penetration(penetration: float, soil: str = "") -> float:
    """CBR of ground a cone goes into by `penetration` metres a blow; `soil` is `CH`, `CL` or anything else.

    ASTM D6951: 292/DPI^1.12 with DPI in mm a blow; CH 1/(0.002871 DPI); CL under CBR 10 1/(0.017019 DPI)².
    Cut at 100, beyond which the relation says nothing. Raises `ValueError` for no penetration.
    """
    if penetration <= 0:
        raise ValueError("a cone that does not go in gives no CBR")
    index = penetration * 1000
    general = 292 / index**1.12
    if soil == "CH":
        general = 1 / (0.002871 * index)
    elif soil == "CL" and (fine := 1 / (0.017019 * index) ** 2) < 10:
        general = fine
    return float(min(general, GREATEST_CBR))


def resilient_modulus_psi(cbr: float) -> float:
    """Resilient modulus of ground of that CBR, psi: 2555 CBR^0.64 (NCHRP 1-37A; FHWA-NHI-05-037 table 5-34).

    >>> round(resilient_modulus_psi(5))
    7157
    """
    return float(2555 * cbr**0.64)


def standard_normal_deviate(reliability: float) -> float:
    """Z_R for a reliability between 0 and 1: −1.645 at 0.95. Raises `ValueError` outside."""
    if not 0 < reliability < 1:
        raise ValueError("reliability lies between 0 and 1")
    return NormalDist().inv_cdf(1 - reliability)


def axles_carried(
    number: float, modulus_psi: float, reliability: float = 0.80, deviation: float = 0.45, loss: float = 1.9
) -> float:
    """The 80 kN (18 kip) axles a flexible pavement of that structural number carries.

    AASHTO Guide for Design of Pavement Structures 1993, figure 3.1: `deviation` is S₀, `loss` of
    serviceability ΔPSI, under 2.7. Raises `ValueError` for a number or a modulus that is not positive, and a loss
    out of that range.
    """
    if number <= 0 or modulus_psi <= 0 or not 0 < loss < 2.7:
        raise ValueError("structural number and modulus are positive, the loss of serviceability is under 2.7")
    exponent = (
        standard_normal_deviate(reliability) * deviation
        + 9.36 * math.log10(number + 1)
        - 0.20
        + math.log10(loss / 2.7) / (0.40 + 1094 / (number + 1) ** 5.19)
        + 2.32 * math.log10(modulus_psi)
        - 8.07
    )
    return float(10**exponent)


def structural_number(
    axles: float, modulus_psi: float, reliability: float = 0.80, deviation: float = 0.45, loss: float = 1.9
) -> float:
    """The structural number that carries `axles`; the same equation solved, between 0.01 and 25.

    Raises `ValueError` where the answer lies above 25; what needs less than 0.01 is answered with 0.01.

    The example beside figure 3.1 of the Guide (from memory):

    >>> round(structural_number(5e6, 5000, reliability=0.95, deviation=0.35), 1)
    5.0
    """
    if axles <= 0:
        raise ValueError("a number of axles is more than 0")

    def short(number: float) -> float:
        return math.log10(axles_carried(number, modulus_psi, reliability, deviation, loss)) - math.log10(axles)

    if short(0.01) >= 0:
        return 0.01
    if short(25.0) < 0:
        raise ValueError("more axles than the equation can answer")
    return float(brentq(short, 0.01, 25.0, xtol=1e-9))


def layer_sum(specification: BaseSpecification) -> float | None:
    """The structural number of a base: pavers with their bedding 0.44 an inch, dense base 0.14, sub-base and
    clean stone 0.11 (published, quoted from memory). None for a bound base, which the equation is not for."""
    if any(layer.family in POURED | {Family.MORTAR, Family.PANEL} for layer in specification.layers):
        return None
    total = 0.0
    for layer in specification.layers:
        inches = specification.compacted(layer) / INCH
        if layer.role in (Role.PAVING, Role.BEDDING):
            total += 0.44 * inches if specification.layers[0].family is Family.UNIT else 0.0
        elif layer.role is Role.BASE and layer.family is Family.DENSE:
            total += 0.14 * inches
        else:
            total += 0.11 * inches
    return total


def least_sub_base(cbr: float) -> float:
    """Unbound thickness for light traffic, metres: CBR 2: 350; 3: 300; 4: 250; 5: 225; over 6: 150 mm
    (published, quoted from memory). Between two rows the weaker one counts.

    Raises `ValueError` under CBR 2: the ground wants improving or an engineer first.

    >>> least_sub_base(3)
    0.3
    """
    if cbr < TABLE[0][0]:
        raise ValueError("under CBR 2 the ground is improved first, or an engineer designs the base")
    if cbr > 6:
        return 0.150
    return next(thickness for at_least, thickness in reversed(TABLE) if cbr >= at_least)


def fabric_overlap(cbr: float) -> tuple[float, float]:
    """The least and the usual greatest overlap of a separation fabric, metres: over CBR 3 300 to 450, 1 to 3 600 to
    1000, under 1 1000 or sewn (AASHTO M 288, quoted from memory).

    >>> fabric_overlap(2.0)
    (0.6, 1.0)
    """
    if cbr > 3:
        return 0.300, 0.450
    return (0.600, 1.000) if cbr >= 1 else (1.000, 1.000)
