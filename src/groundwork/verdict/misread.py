"""Readings that look misread: off by a round amount or a slip of the figures, or far from what lies around.

What lies around is a plane through the deviations of the nearest stations, fitted so that one bad neighbour does not
pull it; honest steep ground lies on it and is not suspected. The person decides. Common practice, no published
source, for the slips; the spread of a prediction is that of least squares.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike, NDArray
from scipy.spatial import cKDTree

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


@dataclass(frozen=True, eq=False)
class Surroundings:
    """Deviations from design (n,) known at `places` (n, 2), metres; `roughness` is the least spread such a surface
    has."""

    places: NDArray[np.float64]
    deviations: NDArray[np.float64]
    roughness: float

    @cached_property
    def _tree(self) -> cKDTree:
        return cKDTree(self.places)

    def expected(self, at: ArrayLike, own: ArrayLike) -> list[Expectation]:
        """What they make of each place of `at` (m, 2). `own` (m,) is the number among them of a place that is known
        itself, which is judged by the others alone; -1 of any other."""
        at, own = np.asarray(at, dtype=float).reshape(-1, 2), np.asarray(own, dtype=int)
        found = [Expectation(0.0, FEW_NEIGHBOURS, 0)] * len(at)
        for others, alike in ((len(self.places) - 1, own >= 0), (len(self.places), own < 0)):
            if others > 0 and alike.any():
                near = self._near(at[alike], own[alike], min(others, NEIGHBOURS))
                for place, each in zip(np.flatnonzero(alike), self._foretold(at[alike], near), strict=True):
                    found[place] = each
        return found

    def _foretold(self, at: NDArray[np.float64], near: NDArray[np.int_]) -> list[Expectation]:
        """What those numbered `near` (m, k) make of the places `at` (m, 2)."""
        levels = self.deviations[near]
        if near.shape[1] == 1:
            return [Expectation(float(level), FEW_NEIGHBOURS, 1) for level in levels[:, 0]]
        design = np.concatenate([np.ones((*near.shape, 1)), self.places[near] - at[:, None]], axis=2)
        fitted, weights = _robust_planes(design, levels)
        count = near.shape[1]
        residuals = levels - np.einsum("mkc,mc->mk", design, fitted)
        typical = 1.4826 * np.median(np.abs(residuals), axis=1) if count > FITTED else np.zeros(len(at))
        crossed = np.einsum("mkc,mk,mkd->mcd", design, weights, design)
        leverage = np.linalg.pinv(crossed, hermitian=True)[:, 0, 0]
        spread = np.maximum(typical, self.roughness) * np.sqrt(1 + leverage)
        in_line = np.linalg.matrix_rank(design, tol=1e-6) < FITTED
        spread = np.where(in_line, np.hypot(spread, FEW_NEIGHBOURS / 2), spread)
        return [Expectation(*each, count) for each in zip(fitted[:, 0].tolist(), spread.tolist(), strict=True)]

    def _near(self, at: NDArray[np.float64], own: NDArray[np.int_], count: int) -> NDArray[np.int_]:
        """The numbers of the `count` nearest of each place (m, count) but itself; of those as far, the first."""
        some = min(len(self.places), 2 * count + 1)
        far, near = (np.reshape(found, (len(at), some)) for found in self._tree.query(at, k=some))
        far = np.where(near == own[:, None], np.inf, np.round(far, 9))
        return np.take_along_axis(near, np.lexsort((near, far), axis=1)[:, :count], axis=1)


def expectation(place: Point, places: Sequence[Point], deviations: Sequence[float], roughness: float) -> Expectation:
    """What the stations shot so far make of a place: `deviations` from design at `places`, metres."""
    known = np.asarray(places, dtype=float).reshape(-1, 2), np.asarray(deviations, dtype=float)
    return Surroundings(*known, roughness).expected([place], [-1])[0]


def _robust_planes(
    designs: NDArray[np.float64], levels: NDArray[np.float64]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """The planes (m, 3) of least absolute deviations through `levels` (m, k) at `designs` (m, k, 3), by reweighting:
    one wild neighbour moves one little. Returns also the weights (m, k). Always twelve turns: what further ones would
    move one by is less than the spread it is given with."""
    weights = np.ones(levels.shape)
    fitted: NDArray[np.float64] = np.zeros((len(levels), designs.shape[2]))
    for _turn in range(12):
        root = np.sqrt(weights)
        solved = np.linalg.pinv(designs * root[..., None], rcond=designs.shape[1] * np.finfo(float).eps)
        fitted = np.asarray(np.einsum("mck,mk->mc", solved, levels * root))
        weights = np.minimum(1.0, 0.005 / np.maximum(np.abs(levels - np.einsum("mkc,mc->mk", designs, fitted)), 1e-6))
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
