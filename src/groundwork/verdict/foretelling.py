"""What a reading will come to before it is sent: a table that travels with the page, so that a verdict needs no
signal.

The rules stay in `verdict`: the table is made by asking them on either side of every place where their answer may
change. Whoever holds it only multiplies, adds and compares.
"""

from bisect import bisect
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cache
from itertools import combinations, pairwise

from groundwork.base import Tolerance
from groundwork.verdict.account import Foreseen
from groundwork.verdict.judgement import FILL_LIFT, ROUNDING, SKIN, Judgement, Standing

DEEPEST = 12
"""Lifts of fill that are told apart."""
FAR = DEEPEST * FILL_LIFT
"""No deviation is foretold further from design than this, metres: it is left to the server."""


@dataclass(frozen=True, order=True)
class Edge:
    """A deviation at which an answer may change, metres: `at`, so many `guards` above or below."""

    at: float
    guards: int = 0

    def over(self, guard: float) -> float:
        return self.at + self.guards * guard


@dataclass(frozen=True)
class Outcome:
    """What a deviation over `edge` comes to, up to the next outcome's: the standing, the phrase with its counts, and
    the length in it, |`base` + deviation|, metres; None where the phrase has none."""

    edge: "Edge"
    standing: Standing
    phrase: str
    counts: dict[str, float]
    base: float | None


@dataclass(frozen=True)
class Foretold:
    """A deviation is `offset` + `factor` × the reading, metres; `outcomes` by rising deviation, `guard` clear of the
    limits; nothing is foretold beyond `most` either way."""

    offset: float
    factor: float
    outcomes: tuple[Outcome, ...]
    guard: float
    most: float = FAR


Outcomes = tuple[Outcome, ...]


def foretold(
    judged: Callable[[float], Judgement | None],
    foreseen: Foreseen,
    tolerance: Tolerance,
    known: dict[int, Outcomes],
) -> Foretold:
    """The table of what `judged` makes of a reading, metres. The deviation, as it is `foreseen`, has to be a straight
    line of the reading, as it is for every method; its uncertainty must not change with it.

    `known` keeps outcomes by the order of their edges, for places that differ in nothing but their level and how
    sure they are of it: between two edges an answer is the same, wherever the guard has put them.
    """
    place = order(tolerance, foreseen.guard)
    if place not in known:
        known[place] = _rows(judged, _edges(tolerance, foreseen.guard), foreseen)
    return Foretold(foreseen.offset, foreseen.factor, known[place], foreseen.guard)


def order(tolerance: Tolerance, guard: float) -> int:
    """Which of the orders of its edges a guard, metres, puts them in: as long as it is the same, answers are."""
    return bisect(_crossings(tolerance), guard)


def _rows(judged: Callable[[float], Judgement | None], edges: Sequence[Edge], foreseen: Foreseen) -> Outcomes:
    """What `judged` says between one edge and the next, like ones together."""
    guard = foreseen.guard

    def at(deviation: float) -> Judgement:
        found = judged((deviation - foreseen.offset) / foreseen.factor)
        if found is None:
            raise ValueError("a reading that was judged is not judged any more")
        return found

    rows: list[Outcome] = []
    for edge, above in pairwise(edges):
        low, high = edge.over(guard), above.over(guard)
        first, second = (low * 3 + high) / 4, (low + high * 3) / 4
        row = _outcome(edge, first, at(first), second, at(second))
        if not rows or (rows[-1].standing, rows[-1].phrase, rows[-1].counts, rows[-1].base) != (
            row.standing, row.phrase, row.counts, row.base,
        ):  # fmt: skip
            rows.append(row)
    return tuple(rows)


@cache
def _every_edge(tolerance: Tolerance) -> tuple[Edge, ...]:
    """Every deviation at which an answer may change."""
    limits = (Edge(limit, side) for limit in (tolerance.high, -tolerance.low) for side in (1, -1))
    simply = map(Edge, (tolerance.high + ROUNDING, -tolerance.low - ROUNDING))
    lifts = (Edge(-FILL_LIFT * number - 1e-9 * FILL_LIFT) for number in range(1, DEEPEST))
    return (*limits, *simply, *lifts, *map(Edge, (-FAR, FAR, 0.0, 1e-9 - SKIN)))


@cache
def _crossings(tolerance: Tolerance) -> tuple[float, ...]:
    """The guards, rising, at which two edges change places, metres: between two of them their order is the same."""
    found = {
        (other.at - one.at) / (one.guards - other.guards)
        for one, other in combinations(_every_edge(tolerance), 2)
        if one.guards != other.guards
    }
    return tuple(sorted(guard for guard in found if guard >= 0))


def _edges(tolerance: Tolerance, guard: float) -> Sequence[Edge]:
    """Every edge, each once, from below."""
    edges = {edge.over(guard): edge for edge in _every_edge(tolerance)}
    return [edges[over] for over in sorted(edges)]


def _outcome(edge: Edge, first: float, one: Judgement, second: float, other: Judgement) -> Outcome:
    """The outcome between two edges, seen at two places between them: there the length in the phrase is |base +
    deviation|, with the same base at both."""
    amount, next_amount = one.action.lengths.get("amount"), other.action.lengths.get("amount")
    base = None
    if amount is not None and next_amount is not None:
        rises = (next_amount - amount) / (second - first) > 0
        base = round((amount if rises else -amount) - first, 9) + 0.0  # no nought below nought
    return Outcome(edge, one.standing, one.action.phrase, dict(one.action.counts), base)
