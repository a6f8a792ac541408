"""Cone penetrometer logs: read as typed or as CSV, split into layers of even resistance."""

import re
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from groundwork.brief import ConeLog
from groundwork.measures import Said
from groundwork.strength.soil import cbr_from_penetration

MOST_READINGS = 500
FEWEST = 3
READING_NOISE = 0.001
"""A depth read off the rod is good to a millimetre."""
DEEPEST = 3.0
TESTED_DEPTH = 0.600
THIN = 0.075


class ConeLogError(Said):
    """A log that cannot be read; the message says in which line and what would be right."""


@dataclass(frozen=True)
class ConeLayer:
    """Ground from depth `top` to `bottom`, metres, that the cone goes into by `penetration` metres a blow."""

    top: float
    bottom: float
    penetration: float
    cbr: float


def parse_log(name: str, text: str, soil: str = "") -> ConeLog:
    """A log from lines of blows since the last line and depth so far in millimetres, apart by space, comma, semicolon
    or tab; a first line of words is a heading. A first line with 0 blows gives the depth the cone starts at.

    Raises `ConeLogError` with the line that is wrong.
    """
    lines = [(n, line.strip()) for n, line in enumerate(text.removeprefix("\ufeff").splitlines(), start=1)]
    lines = [(n, line) for n, line in lines if line]
    if lines and not re.search(r"\d", lines[0][1]):
        lines = lines[1:]
    if len(lines) < FEWEST:
        raise ConeLogError("a log wants at least {fewest} lines, like “5 32”: blows, then depth in mm", fewest=FEWEST)
    if len(lines) > MOST_READINGS:
        raise ConeLogError("more than {most} lines", most=MOST_READINGS)
    blows: list[int] = []
    depths: list[float] = []
    total, last = 0, -1.0
    for n, line in lines:
        parts = re.split(r"[\s,;]+", line.strip(",; "))
        if (
            len(parts) != 2
            or not re.fullmatch(r"\d{1,4}", parts[0])
            or not re.fullmatch(r"\d{1,5}(\.\d+)?", parts[1])
        ):
            raise ConeLogError("line {n}: “{text}” is not blows and a depth in mm, like “5 32”", n=n, text=line[:24])
        count, depth = int(parts[0]), float(parts[1]) / 1000
        if count == 0 and blows:
            raise ConeLogError("line {n}: no blows since the line before it", n=n)
        if depth <= last:
            raise ConeLogError("line {n}: the cone is no deeper than in the line before it", n=n)
        if depth > DEEPEST:
            raise ConeLogError(
                "line {n}: deeper than a cone is driven by hand: at most {most}", n=n, lengths={"most": DEEPEST}
            )
        total += count
        blows.append(total)
        depths.append(depth)
        last = depth
    if blows[0]:
        blows, depths = [0, *blows], [0.0, *depths]
    return ConeLog(name, tuple(blows), tuple(depths), soil)


def log_text(log: ConeLog) -> str:
    """The log as `parse_log` reads it."""
    steps = np.diff(log.blows, prepend=0)
    return "\n".join(f"{step} {depth * 1000:g}" for step, depth in zip(steps, log.depths, strict=True))


@lru_cache(maxsize=256)
def layers(log: ConeLog) -> tuple[ConeLayer, ...]:
    """The layers of a log, top first: straight pieces of depth against blows, as many as the Bayesian information
    criterion finds worth having, placed by least squares."""
    blows, depths = np.array(log.blows, dtype=float), np.array(log.depths)
    breaks = change_points(blows, depths)
    found = []
    for start, end in pairwise(breaks):
        driven = float(blows[end] - blows[start])
        penetration = float((depths[end] - depths[start]) / driven)
        if end - start >= FEWEST - 1:
            penetration = max(float(np.polyfit(blows[start : end + 1], depths[start : end + 1], 1)[0]), 1e-5)
        cbr = cbr_from_penetration(penetration, log.soil)
        found.append(ConeLayer(float(depths[start]), float(depths[end]), penetration, cbr))
    return tuple(found)


def change_points(blows: NDArray[np.float64], depths: NDArray[np.float64]) -> list[int]:
    """Indices of the readings where straight pieces of `depths` against `blows` (shape n) meet, both ends included.

    Exact least squares over all ways to split, by dynamic programming; pieces share the reading they meet at and
    hold at least two steps. The number of pieces is the one of least n·ln(RSS/n) + 3·pieces·ln n, with
    the noise of reading as a floor.
    """
    count = len(blows)
    least = FEWEST - 1
    cost = _costs(blows, depths)
    most = max(1, (count - 1) // least)
    best = np.full((min(most, 8) + 1, count), np.inf)
    came = np.zeros_like(best, dtype=int)
    best[0, 0] = 0.0
    for pieces in range(1, len(best)):
        for end in range(least * pieces, count):
            ways = best[pieces - 1, : end - least + 1] + cost[: end - least + 1, end]
            came[pieces, end] = int(ways.argmin())
            best[pieces, end] = ways[came[pieces, end]]
    floor = count * READING_NOISE**2 / 12
    scores = [count * np.log((rss + floor) / count) + 3 * n * np.log(count) for n, rss in enumerate(best[:, -1])]
    pieces = 1 + int(np.argmin(scores[1:]))
    places = [count - 1]
    for n in range(pieces, 0, -1):
        places.append(int(came[n, places[-1]]))
    return places[::-1]


def _costs(x: NDArray[np.float64], y: NDArray[np.float64]) -> NDArray[np.float64]:
    """The residual sum of squares of the line through the readings i to j, both included, at [i, j]."""
    sums = np.cumsum(np.stack([np.ones_like(x), x, y, x * x, x * y, y * y]), axis=1)
    before = np.concatenate([np.zeros((6, 1)), sums[:, :-1]], axis=1)
    n, sx, sy, sxx, sxy, syy = sums[:, None, :] - before[:, :, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        vx, vy, vxy = sxx - sx * sx / n, syy - sy * sy / n, sxy - sx * sy / n
        rss = np.maximum(vy - np.where(vx > 0, vxy * vxy / vx, 0.0), 0.0)
    return np.asarray(np.where(n >= 2, rss, np.inf))


def weakest(log: ConeLog) -> float:
    """The CBR of the weakest layer at least 75 mm thick in the first 600 mm of a log, or of them all together
    where none is that thick (common practice)."""
    near = [layer for layer in layers(log) if layer.top - log.depths[0] < TESTED_DEPTH]
    thick = [layer for layer in near if layer.bottom - layer.top >= THIN] or near
    return min(layer.cbr for layer in thick)
