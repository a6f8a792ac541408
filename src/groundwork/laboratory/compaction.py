"""A laboratory's compaction curve: dry density against moisture, its peak, and what cannot be."""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from scipy.interpolate import CubicSpline

from groundwork.measures import Said
from groundwork.surfaces import Floats

FEWEST_POINTS = 4
WATER = 1000.0
"""Density of water, kg/m³."""
MISSES = 0.01
"""Where a parabola misses a point by more than this share of the maximum, a spline goes through the points instead
(common practice, no published source)."""
USUAL_GRAVITY = 2.65
"""Specific gravity of crushed stone where none is given (common practice, no published source)."""


class NotACurve(Said):
    """Points that are no compaction curve; the message says why."""


def zero_air_voids(moisture: float | Floats, gravity: float) -> float | Floats:
    """The dry density at which no air is left, kg/m³: Gs ρw/(1 + w Gs), `moisture` a share of the dry mass.

    >>> round(zero_air_voids(0.10, 2.65), 1)
    2094.9
    """
    return gravity * WATER / (1 + moisture * gravity)


@dataclass(frozen=True)
class CompactionCurve:
    """`moistures`, shares of the dry mass, and `densities`, dry, kg/m³, point by point from the driest.

    Raises `NotACurve` for fewer than four points, two at one moisture, a point beyond the zero air voids line, or
    a peak that lies outside the points.
    """

    moistures: tuple[float, ...]
    densities: tuple[float, ...]
    gravity: float = USUAL_GRAVITY

    def __post_init__(self) -> None:
        if len(self.moistures) != len(self.densities) or len(self.moistures) < FEWEST_POINTS:
            raise NotACurve(
                "{number} points: at least {fewest} make a curve", number=len(self.moistures), fewest=FEWEST_POINTS
            )
        if not 2.0 <= self.gravity <= 4.0:
            raise NotACurve("a specific gravity of {gravity:g}: stone and soil have 2.0 to 4.0", gravity=self.gravity)
        order = np.argsort(self.moistures)
        moistures, densities = np.array(self.moistures)[order], np.array(self.densities)[order]
        if moistures[0] <= 0 or moistures[-1] >= 1:
            raise NotACurve("moisture lies between 0 and 100 %")
        if (densities <= 0).any():
            raise NotACurve("a density is more than nothing")
        if (np.diff(moistures) < 1e-6).any():
            raise NotACurve("two points at one moisture: say which counts")
        over = densities > zero_air_voids(moistures, self.gravity) * (1 + 1e-9)
        if over.any():
            wet = moistures[int(np.flatnonzero(over)[0])] * 100
            raise NotACurve(
                "the point at {wet:g} % lies beyond the zero air voids line: no soil is that dense", wet=wet
            )
        object.__setattr__(self, "moistures", tuple(moistures.tolist()))
        object.__setattr__(self, "densities", tuple(densities.tolist()))
        ends = max(self.densities[0], self.densities[-1])
        if ends >= max(self.densities[1:-1]) or not moistures[0] < self.optimum < moistures[-1]:
            raise NotACurve("the peak is outside the points: one more on the far side of it is wanted")

    @cached_property
    def _parabola(self) -> Floats:
        return np.polyfit(self.moistures, self.densities, 2)

    @cached_property
    def fit(self) -> Literal["parabola", "spline"]:
        """Which line goes by the points: a parabola by least squares, or a cubic spline through them."""
        off = np.abs(np.polyval(self._parabola, self.moistures) - self.densities).max()
        bends_down = self._parabola[0] < 0
        return "parabola" if bends_down and off <= MISSES * max(self.densities) else "spline"

    @cached_property
    def _spline(self) -> CubicSpline:
        return CubicSpline(self.moistures, self.densities)

    def density_at(self, moisture: Floats) -> Floats:
        """The fitted dry density, kg/m³."""
        return np.asarray(
            np.polyval(self._parabola, moisture) if self.fit == "parabola" else self._spline(moisture), dtype=float
        )

    @cached_property
    def optimum(self) -> float:
        """The moisture of the peak, a share of the dry mass."""
        if self.fit == "parabola":
            return float(-self._parabola[1] / (2 * self._parabola[0]))
        turns = [float(x) for x in self._spline.derivative().roots(extrapolate=False)]
        return max([*turns, self.moistures[0], self.moistures[-1]], key=lambda x: float(self._spline(x)))

    @cached_property
    def maximum(self) -> float:
        """The greatest dry density, kg/m³."""
        return float(self.density_at(np.array([self.optimum]))[0])


def curve(points: Sequence[tuple[float, float]], gravity: float = USUAL_GRAVITY) -> CompactionCurve:
    """The curve through (moisture, dry density) points. Raises `NotACurve`."""
    return CompactionCurve(tuple(p[0] for p in points), tuple(p[1] for p in points), gravity)
