"""Whether a lift is tight, what holds it, and what to do next."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from typing import Any

from groundwork.layerwork import Direction, Feel
from groundwork.lifts.history import DRY_BY, NEAR_OPTIMUM, LiftRecord
from groundwork.lifts.plan import CoursePlan
from groundwork.lifts.rules import lift_findings
from groundwork.measures import Finding, Severity, Words


@dataclass(frozen=True)
class NextStep:
    """What to do next on a lift, as words and for a screen to act on."""

    kind: str
    words: Words


class LiftState(StrEnum):
    """How a lift stands, by what is to be done next on it."""

    NOT_BEGUN = "not begun"
    IN_WORK = "in work"
    HELD = "held"
    TIGHT = "tight"


class Lift(LiftRecord):
    """A lift with what its record comes to; `more` is what is found on it beside the L rules."""

    def __init__(self, *record: Any, more: Sequence[Finding] = (), **named: Any) -> None:
        super().__init__(*record, **named)
        self.more = tuple(more)

    @property
    def state(self) -> LiftState:
        if not self.is_begun:
            return LiftState.NOT_BEGUN
        if self.next_step.kind in ("tight", "levels"):
            return LiftState.TIGHT
        return LiftState.HELD if self.next_step.kind in ("light", "rework", "stop") else LiftState.IN_WORK

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """The L rules on what was done to it."""
        return (*lift_findings(self), *self.more)

    @property
    def stops(self) -> tuple[Finding, ...]:
        return tuple(f for f in self.findings if f.severity is Severity.STOP)

    @property
    def is_tight(self) -> bool:
        """Whether it was made and nothing holds it."""
        return self.is_begun and not self.stops

    @cached_property
    def next_step(self) -> NextStep:
        return next(_steps(self))


def _steps(lift: Lift) -> Iterator[NextStep]:  # noqa: PLR0912 (one case a step)
    """What to do next, the first thing first."""
    machine, plan = lift.machine_now(), lift.plan
    if machine is None:
        yield NextStep("machine", Words("say which machine compacts here"))
        return
    if plan is not None:
        if not lift.passes_done and not any(c.passes for c in lift.coverage):
            if plan.too_light:
                words = "too thick for {machine}: {n} lifts, or a heavier machine"
                yield NextStep(
                    "light", Words(words, counts={"n": plan.layer_lifts or 1}, names={"machine": machine.name})
                )
            if not lift.spread:
                yield NextStep("spread", Words("spread {loose} loose", {"loose": plan.loose}))
        if lift.optimum is not None and not all(c.is_done for c in lift.coverage):
            yield from _water_step(lift, plan)
    if left := [(c, n) for c in lift.coverage if (n := lift.passes_left(c, machine))]:
        most = max(n for _c, n in left)
        ways = {c.next_way for c, _n in left}
        way = next(iter(ways)) if len(ways) == 1 else Direction.ACROSS
        found = "passes left: {n}, next " + str(way)
        if len(left) < len(lift.coverage):
            found = "passes left on {patches}: {n}, next " + str(way)
        yield NextStep(
            "pass", Words(found, counts={"n": most}, names={"patches": ", ".join(c.patch.name for c, _n in left)})
        )
    if "L05" in {f.rule for f in lift.findings}:
        yield NextStep("settle", Words("read the rod before and after one more pass"))
    if lift.failed:
        yield NextStep("rework", Words("not tight at {places}: go over it again, test again there",
                                   names={"places": ", ".join(lift.failed)}))  # fmt: skip
    if lift.untested:
        what = "test at {places}" if lift.course else "test the ground at one of {places}"
        yield NextStep("test", Words(what, names={"places": ", ".join(lift.untested)}))
    if lift.untamped:
        yield NextStep("tamp", Words("tamp the edges by hand: {n} left", counts={"n": len(lift.untamped)}))
    if lift.stops:
        yield NextStep(
            "stop", Words("held by {rules}", names={"rules": ", ".join(sorted({f.rule for f in lift.stops}))})
        )
    if lift.levels_left:
        yield NextStep("levels", Words("shoot its top: {n} left", counts={"n": lift.levels_left}))
    yield NextStep("tight", Words("tight: go on"))


def _water_step(lift: Lift, plan: CoursePlan) -> Iterator[NextStep]:
    now, optimum = lift.moisture, lift.optimum
    if now is None or optimum is None:
        yield NextStep("moisture", Words("squeeze a handful: is it wet enough?"))
        return
    share = now.share if now.share is not None else optimum - DRY_BY if now.feel is Feel.DRY else None
    if share is not None and share < optimum - (0 if now.feel is Feel.DRY else NEAR_OPTIMUM) - 1e-9:
        litres = plan.water(share, optimum) or 0.0
        words = Words("too dry: add {litres}, mix it in, squeeze again", water={"litres": litres / 1000})
        yield NextStep("water", words)
    if now.feel is Feel.SOUPY or (now.share is not None and now.share > optimum + NEAR_OPTIMUM + 1e-9):
        yield NextStep("drain", Words("too wet: let it drain, then squeeze again"))
