"""Readings that look misread: off by a round amount or a slip of the figures, or far from what lies around.

What lies around is a plane through the deviations of the nearest stations, fitted so that one bad neighbour does not
pull it; honest steep ground lies on it and is not suspected. The person decides. Common practice, no published
source, for the slips; the spread of a prediction is that of least squares.
"""

import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from groundwork.measures import FOOT, INCH, MeasureError, Unit, Words, format_reading, parse_rod
from groundwork.surfaces import Point

NEIGHBOURS = 8
FITTED = 3
SURE, FAR = 3.5, 6.0
"""How many standard deviations from what lies around: where a slip would explain it, and without one."""
FEW_NEIGHBOURS = 0.08
"""Spread of a level that no neighbour foretells, or one, metres; half of it across the line of several in a row."""
LOOK_ALIKES = {"6": "9", "9": "6", "1": "7", "7": "1", "3": "8", "8": "3"}


@dataclass(frozen=True)
class Expectation:
    """The deviation to expect at a place and its standard deviation, metres."""

    deviation: float
    spread: float
    neighbours: int


@dataclass(frozen=True)
class Suspicion:
    """Why a reading looks misread; `instead` is the reading that would fit, where a slip explains it."""

    slip: str
    words: Words
    off: float
    instead: float | None = None


def expectation(place: Point, places: Sequence[Point], deviations: Sequence[float], roughness: float) -> Expectation:
    """What the stations shot so far make of a place: `deviations` from design at `places`, metres; `roughness` is
    the least spread such a surface has."""
    if not places:
        return Expectation(0.0, FEW_NEIGHBOURS, 0)
    offsets = np.asarray(places, dtype=float) - place
    near = np.argsort(np.hypot(*offsets.T))[:NEIGHBOURS]
    offsets, levels = offsets[near], np.asarray(deviations, dtype=float)[near]
    if len(levels) == 1:
        return Expectation(float(levels[0]), FEW_NEIGHBOURS, 1)
    design = np.column_stack([np.ones(len(levels)), offsets])
    fitted, weights = _robust_plane(design, levels)
    residuals = levels - design @ fitted
    typical = 1.4826 * float(np.median(np.abs(residuals))) if len(levels) > FITTED else 0.0
    spread = max(typical, roughness)
    leverage = float(np.linalg.pinv((design * weights[:, None]).T @ design)[0, 0])
    if np.linalg.matrix_rank(design, tol=1e-6) < FITTED:
        across = FEW_NEIGHBOURS / 2
        return Expectation(float(fitted[0]), math.hypot(spread * math.sqrt(1 + leverage), across), len(levels))
    return Expectation(float(fitted[0]), spread * math.sqrt(1 + leverage), len(levels))


def _robust_plane(
    design: NDArray[np.float64], levels: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Least absolute deviations by reweighting: one wild neighbour moves it little. Returns also the weights. Always
    twelve turns: what further ones would move it by is less than the spread it is given with."""
    weights = np.ones(len(levels))
    fitted: NDArray[np.float64] = np.zeros(design.shape[1])
    for _turn in range(12):
        root = np.sqrt(weights)
        fitted = np.asarray(np.linalg.lstsq(design * root[:, None], levels * root, rcond=None)[0], dtype=float)
        weights = np.minimum(1.0, 0.005 / np.maximum(np.abs(levels - design @ fitted), 1e-6))
    return fitted, weights


def suspect(
    raw: str,
    reading: float,
    fits: float,
    spread: float,
    unit: Unit,
    sight: float | None = None,
    others: Sequence[tuple[str, float]] = (),
) -> Suspicion | None:
    """Whether `reading`, typed as `raw`, looks misread where `fits` is what should be read by what lies around,
    give or take `spread`; metres. `sight` is the length of the sight, if known; `others` are readings that would be
    right by another account, each with its name: another set-up, the station before."""
    off = reading - fits
    if abs(off) <= SURE * spread:
        return None
    slips = [(name, value) for name, value in (*others, *_slips(raw, reading, unit, sight)) if value != reading]
    near = [(abs(value - fits), name, value) for name, value in slips if abs(value - fits) <= 1.5 * spread]
    if near:
        _miss, slip, instead = min(near, key=lambda each: each[0] + 0.002 * _ORDER.index(each[1]))
        phrase = "{typed} is {off} off what lies around; {instead} would fit: " + ("out by " * (slip in ROUND)) + slip
        names = {"typed": raw, "instead": format_reading(instead, unit)}
        return Suspicion(slip, Words(phrase, {"off": abs(off)}, names=names), off, instead)
    if abs(off) > FAR * spread:
        return Suspicion(
            FAR_OFF, Words("{typed} is {off} off what lies around", {"off": abs(off)}, names={"typed": raw}), off
        )
    return None


FAR_OFF = "far from its neighbours"
OTHER_SET_UP, TYPED_TWICE = "read from another set-up", "the reading before typed again"
SWAPPED, LOOK_ALIKE = "two figures swapped", "a figure taken for another"
LOST_FIGURE, DOUBLED_FIGURE = "a figure left out", "a figure typed twice"
DECIMAL, WRONG_UNIT, HAIR = "a slip of the decimal point", "another unit", "the upper or lower hair read"
ROUND = {
    "a metre": 1.0, "half a metre": 0.5, "200 mm": 0.2, "100 mm": 0.1, "50 mm": 0.05, "a foot": FOOT,
    "half a foot": FOOT / 2, "a tenth of a foot": FOOT / 10, "an inch": INCH,
}  # fmt: skip
METRIC_ROUND = ("a metre", "half a metre", "200 mm", "100 mm", "50 mm")
FEET_ROUND = ("a foot", "half a foot", "a tenth of a foot", "an inch")
_ORDER = [
    OTHER_SET_UP, TYPED_TWICE, SWAPPED, *METRIC_ROUND, *FEET_ROUND, LOOK_ALIKE, LOST_FIGURE, DOUBLED_FIGURE, DECIMAL,
    WRONG_UNIT, HAIR,
]  # fmt: skip


def _slips(raw: str, reading: float, unit: Unit, sight: float | None) -> Iterator[tuple[str, float]]:
    """What may have been meant by what was typed, each with the slip's name."""
    for name in METRIC_ROUND if unit.is_metric else (*FEET_ROUND, "a metre"):
        yield name, reading + ROUND[name]
        yield name, reading - ROUND[name]
    for scale in (10, 0.1, 100, 0.01):
        yield DECIMAL, reading * scale
    for scale in (12, 1 / 12, INCH / 0.01, 0.01 / INCH, FOOT, 1 / FOOT):
        yield WRONG_UNIT, reading * scale
    if sight:
        yield HAIR, reading + sight / 200
        yield HAIR, reading - sight / 200
    figures = [match.start() for match in re.finditer(r"\d", raw)]
    for here, following in pairwise(figures):
        swapped = list(raw)
        swapped[here], swapped[following] = raw[following], raw[here]
        yield from _meant(SWAPPED, "".join(swapped), unit)
        if raw[here] == raw[following]:
            yield from _meant(DOUBLED_FIGURE, raw[:here] + raw[here + 1 :], unit)
    for here in figures:
        if raw[here] in LOOK_ALIKES:
            yield from _meant(LOOK_ALIKE, raw[:here] + LOOK_ALIKES[raw[here]] + raw[here + 1 :], unit)
        for figure in "0123456789":
            yield from _meant(LOST_FIGURE, raw[:here] + figure + raw[here:], unit)


def _meant(slip: str, text: str, unit: Unit) -> Iterator[tuple[str, float]]:
    try:
        yield slip, parse_rod(text, unit).metres
    except MeasureError:
        return
