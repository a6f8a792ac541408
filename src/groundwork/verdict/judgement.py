"""Is this level good enough, and if not, what to do: guarded acceptance with the reading's uncertainty.

In when |deviation| + U is within the limit, out when |deviation| − U is beyond it, else too close to call;
U = 1.645 u, so that a wrong call is made at most one time in twenty (JCGM 106:2012, guarded acceptance).

Whoever shoots again until it says good has so many chances to be told wrong. Each further shot therefore has half
the risk of the one before it: however often a place is shot again, it is called wrongly at most one time in fourteen
where its true level lies on the limit, and less often beyond it.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cache, lru_cache
from itertools import combinations
from statistics import NormalDist

import numpy as np
import numpy.typing as npt

from groundwork.base import SurfaceKey, Tolerance
from groundwork.measures import Words

COVERAGE = 1.645
"""U over u of one shot: its risk at the limit is one in twenty."""
MOST_LOOKS = 12
ROUNDING = 1e-9
"""A level typed as its limit is on it, metres."""
LEAST_SHOWN = 0.001
"""The finest division a deviation is shown to, metres."""
FILL_LIFT = 0.075
"""The thickest over-dig filled in one lift (common practice, no published source)."""


@cache
def coverage(shots: int) -> float:
    """U over u where a place was shot so often: the risk at the limit, halved with each shot after the first."""
    if shots <= 1:
        return COVERAGE
    return NormalDist().inv_cdf(1 - 0.05 / 2 ** (min(shots, MOST_LOOKS) - 1))


@dataclass(frozen=True)
class Sight:
    """One reading's level, with what is its own (`reading_u`) and what it shares with every other reading
    from the same set-up at this place (`shared_u`); standard uncertainties in metres. `parts` is what of the shared
    comes from each sight of the runs: set-ups that hang on the same sights err together."""

    level: float
    set_up: str
    reading_u: float
    shared_u: float
    parts: tuple[tuple[str, float], ...] = ()


@dataclass(frozen=True)
class Sum:
    """The sights from one set-up on one state of a place, in sum: how many, their levels together, metres."""

    set_up: str
    number: int
    levels: float
    reading_u: float
    shared_u: float
    parts: tuple[tuple[str, float], ...] = ()

    def with_(self, sight: Sight) -> "Sum":
        return Sum(self.set_up, self.number + 1, self.levels + sight.level, max(self.reading_u, sight.reading_u),
                   max(self.shared_u, sight.shared_u), self.parts)  # fmt: skip


def summed(sights: Iterable[Sight], sums: tuple[Sum, ...] = ()) -> tuple[Sum, ...]:
    """Sights added to what was summed before, by set-up in the order each was first read from."""
    found = {each.set_up: each for each in sums}
    for sight in sights:
        known = found.get(sight.set_up) or Sum(sight.set_up, 0, 0.0, 0.0, 0.0, sight.parts)
        found[sight.set_up] = known.with_(sight)
    return tuple(found.values())


def combine(sights: Sequence[Sight]) -> tuple[float, float]:
    """Level and standard uncertainty of one place from several sights on unchanged ground."""
    return combined(summed(sights))


def combined(sums: Sequence[Sum]) -> tuple[float, float]:
    """Level and standard uncertainty of one place, metres, from the sums of its sights, however many there were."""
    level, u, _weights = weighed(sums)
    return level, u


def weighed(sums: Sequence[Sum]) -> tuple[float, float, Sequence[float]]:
    """Level and standard uncertainty of one place, metres, and how much each set-up's mean has a say in it.

    Repeats from one set-up shrink only the reading's part; two set-ups of one run share what they hang on. The best
    linear unbiased estimate of the set-ups' means by their covariance (generalised least squares: Aitken).
    """
    means = [each.levels / each.number for each in sums]
    own = [_variance(each.reading_u, each.shared_u, each.number) for each in sums]
    if len(sums) == 1:
        return means[0], math.sqrt(own[0]), (1.0,)
    shared = tuple(_shared(one.parts, other.parts) for one, other in combinations(sums, 2))
    weights, every = _solved(tuple(own), shared)
    return float(weights @ np.array(means) / every), float(1 / math.sqrt(every)), (weights / every).tolist()


@lru_cache(maxsize=4096)
def _solved(own: tuple[float, ...], shared: tuple[float, ...]) -> tuple[npt.NDArray[np.floating], float]:
    """Weights of means by their variances and, pair by pair, their covariances, m²; and the sum of the weights. Many
    places of a site are as sure as each other."""
    covariance = np.diag(own)
    for (n, k), both in zip(combinations(range(len(own)), 2), shared, strict=True):
        covariance[n, k] = covariance[k, n] = both
    weights = np.linalg.solve(covariance, np.ones(len(own)))
    return weights, float(weights.sum())


def alone(sight: Sight, shots: int) -> float:
    """How far clear of the limits a place is judged, metres, that was so often shot like this from one set-up."""
    return coverage(shots) * math.sqrt(_variance(sight.reading_u, sight.shared_u, shots))


def _variance(reading_u: float, shared_u: float, number: int) -> float:
    """Of the mean of so many readings from one set-up, m²."""
    return reading_u**2 / number + shared_u**2


def _shared(one: tuple[tuple[str, float], ...], other: tuple[tuple[str, float], ...]) -> float:
    """The covariance of two heights by what each sight of the runs adds to both; none where they are not of runs."""
    known = dict(other)
    return math.fsum(part * known.get(entry, 0.0) for entry, part in one)


class Call(StrEnum):
    GOOD = "good"
    HIGH = "high"
    LOW = "low"
    TOO_CLOSE = "too close"


SIMPLE = frozenset({SurfaceKey.SCREED, SurfaceKey.BEDDING, SurfaceKey.FINISHED})
"""Surfaces whose limits are as small as the tools are unsure: they are good up to the limit itself (JCGM 106:2012,
simple acceptance), and out only where that is sure. Below them acceptance is guarded."""


def call(deviation: float, uncertainty: float, tolerance: Tolerance, shots: int = 1, *, simple: bool = False) -> Call:
    """The verdict on a deviation (positive above design) with standard uncertainty `uncertainty`, metres, from so
    many shots; by `simple` acceptance, or guarded."""
    guard = coverage(shots) * uncertainty
    clear = -ROUNDING if simple else guard
    if -tolerance.low + clear <= deviation <= tolerance.high - clear:
        return Call.GOOD
    if deviation - guard > tolerance.high:
        return Call.HIGH
    if deviation + guard < -tolerance.low:
        return Call.LOW
    return Call.TOO_CLOSE


class Standing(StrEnum):
    """Where a station stands after everything that happened at it."""

    UNSHOT = "not shot"
    UNKNOWN = "unknown"
    GOOD = "good"
    MADE_GOOD = "made good"
    TOO_CLOSE = "too close"
    DIG = "dig"
    OVER_DUG = "over-dug"
    FILLED = "filled"
    UNEXPLAINED = "unexplained"
    UNSOUND_FILL = "unsound fill"
    HIGH = "high"
    LOW = "low"

    @property
    def is_sound(self) -> bool:
        return self in (Standing.GOOD, Standing.MADE_GOOD)


PHRASES = {
    "unshot": "not shot yet",
    "unknown": "what it was read from no longer holds: shoot again",
    "good": "good",
    "near": "good, close to its limit",
    "made_good": "good, made up with stone",
    "again": "too close: shoot again",
    "close": "too close after {shots} shots: ",
    "dig": "dig {amount}",
    "over_dug": "over-dug {amount}: fill with stone, compact",
    "over_dug_lifts": "over-dug {amount}: fill with stone in {lifts} lifts, compact each",
    "filled": "filled: shoot again",
    "unexplained": "came up {amount}: say what filled it",
    "soil": "soil in it: dig it out, fill with stone",
    "thick": "filled too thick: take it out, fill in {lifts} lifts",
}
"""Every action's phrase."""


SCREED_WORK = (
    "screed off {amount}",
    "low by {amount}: add and screed again, if the base under it is right",
    "screed off {amount}",
    "add {amount} and screed",
)
WORK: dict[SurfaceKey, tuple[str, str, str, str]] = {
    SurfaceKey.FORMATION: (PHRASES["dig"], PHRASES["over_dug"], "dig {amount}", "fill {amount} with stone, compact"),
    SurfaceKey.BOUND_BASE: (
        "high by {amount}: grind it off, or cut out and recast",
        "low by {amount}: cut out and recast, no thin skin",
        "grind {amount}",
        "ask the engineer",
    ),
    SurfaceKey.BEDDING: SCREED_WORK,
    SurfaceKey.SCREED: SCREED_WORK,
    SurfaceKey.FINISHED: (
        "high by {amount}: lift, take bedding out, lay again",
        "low by {amount}: lift, add bedding, lay again",
        "lift and lower {amount}",
        "lift and raise {amount}",
    ),
}
"""What to do where a surface is high, low, and after two shots still too close above or below."""
STONE_WORK = (
    "take off {amount}, compact",
    "add {amount} of stone, compact",
    "take off {amount}",
    "loosen, add {amount} of stone, compact",
)
SKIN = 0.040
"""A thinner addition of stone does not knit: the top is loosened first (common practice, no published source)."""
SKINNED = "low by {amount}: loosen the top, add stone, compact"


@dataclass(frozen=True)
class Judgement:
    """What a place comes to and what to do about it; level, deviation (positive above design) and standard
    uncertainty in metres, None where it was not shot or nothing is known; `shots` readings of the ground as it is.
    """

    standing: Standing
    action: Words
    level: float | None = None
    deviation: float | None = None
    uncertainty: float | None = None
    shots: int = 0

    @property
    def guard(self) -> float:
        """How far from a limit it has to be to be sure, metres; nothing where it was not shot."""
        return coverage(self.shots) * (self.uncertainty or 0.0)

    @property
    def side(self) -> str:
        """`above`, `below` or `at` design level; at, where the deviation is under half a millimetre."""
        if self.deviation is None or abs(self.deviation) <= LEAST_SHOWN / 2:
            return "at"
        return "above" if self.deviation > 0 else "below"

    @property
    def wants_a_repeat(self) -> bool:
        """Whether the next reading should be on the same ground: once; after that, trimming decides it."""
        return self.standing is Standing.TOO_CLOSE and self.shots == 1


def lifts_for(depth: float) -> int:
    """Lifts in which an over-dig of `depth` is filled."""
    return max(1, math.ceil(depth / FILL_LIFT - 1e-9))
