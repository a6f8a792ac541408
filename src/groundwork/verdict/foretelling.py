"""What a reading will come to before it is sent: a table that travels with the page, so that a verdict needs no
signal.

The rules stay in `verdict`: the table is made by asking them on either side of every place where their answer may
change. Whoever holds it only multiplies, adds and compares.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from groundwork.base import Tolerance
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
    counts: dict[str, int]
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
    judged: Callable[[float], Judgement | None], tolerance: Tolerance, known: dict[float, Outcomes] | None = None
) -> Foretold | None:
    """The table of what `judged` makes of a reading, metres; None where nothing can be read. The deviation has to be
    a straight line of the reading, as it is for every method; its uncertainty must not change with it.

    `known` keeps outcomes by the guard they were found with, for places that differ in nothing but their level.
    """
    none, one = judged(0.0), judged(1.0)
    if none is None or one is None or none.deviation is None or one.deviation is None or none.uncertainty is None:
        return None
    offset, factor = none.deviation, one.deviation - none.deviation
    guard = none.guard
    if known is not None and guard in known:
        return Foretold(offset, factor, known[guard], guard)

    def at(deviation: float) -> Judgement:
        found = judged((deviation - offset) / factor)
        if found is None:
            raise ValueError("a reading that was judged is not judged any more")
        return found

    rows: list[Outcome] = []
    for edge, above in pairwise(_edges(tolerance, guard)):
        low, high = edge.over(guard), above.over(guard)
        first, second = (low * 3 + high) / 4, (low + high * 3) / 4
        row = _outcome(edge, first, at(first), second, at(second))
        if not rows or (rows[-1].standing, rows[-1].phrase, rows[-1].counts, rows[-1].base) != (
            row.standing, row.phrase, row.counts, row.base,
        ):  # fmt: skip
            rows.append(row)
    if known is not None:
        known[guard] = tuple(rows)
    return Foretold(offset, factor, tuple(rows), guard)


def _edges(tolerance: Tolerance, guard: float) -> Sequence[Edge]:
    """Every deviation at which an answer may change, each once, from below."""
    limits = (Edge(limit, side) for limit in (tolerance.high, -tolerance.low) for side in (1, -1))
    simply = map(Edge, (tolerance.high + ROUNDING, -tolerance.low - ROUNDING))
    lifts = (Edge(-FILL_LIFT * number - 1e-9 * FILL_LIFT) for number in range(1, DEEPEST))
    edges = {edge.over(guard): edge for edge in (*limits, *simply, *lifts, *map(Edge, (-FAR, FAR, 0.0, 1e-9 - SKIN)))}
    return [edges[over] for over in sorted(edges)]


def _outcome(edge: Edge, first: float, one: Judgement, second: float, other: Judgement) -> Outcome:
    """The outcome between two edges, seen at two places between them: there the length in the phrase is |base +
    deviation|, with the same base at both."""
    amount, next_amount = one.action.lengths.get("amount"), other.action.lengths.get("amount")
    base = None
    if amount is not None and next_amount is not None:
        rises = (next_amount - amount) / (second - first) > 0
        base = round((amount if rises else -amount) - first, 9)
    return Outcome(edge, one.standing, one.action.phrase, dict(one.action.counts), base)
