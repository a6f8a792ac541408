"""What happened at a place, folded as it comes into what still counts, and what that comes to."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import Enum, auto
from functools import cached_property

from groundwork.base import SurfaceKey, Tolerance
from groundwork.measures import Words
from groundwork.verdict.judgement import (
    PHRASES,
    SIMPLE,
    SKIN,
    SKINNED,
    STONE_WORK,
    WORK,
    Call,
    Judgement,
    Sight,
    Standing,
    Sum,
    call,
    combined,
    coverage,
    lifts_for,
    summed,
    weighed,
)


@dataclass(frozen=True)
class Foreseen:
    """A shot's deviation is `offset` + `factor` × the reading, metres; it is judged `guard` clear of the limits."""

    offset: float
    factor: float
    guard: float


@dataclass(frozen=True)
class Shot:
    """All sights on one place between two pieces of work on it; no sights where their set-up is struck out."""

    sights: tuple[Sight, ...]


@dataclass(frozen=True)
class Filling:
    """A logged fill at a station: crushed stone or not, compacted in so many lifts."""

    stone: bool
    lifts: int


@dataclass(frozen=True)
class Aim:
    """What a place of a surface is held to: its design level, metres, and how far it may be off."""

    design: float
    tolerance: Tolerance
    kind: SurfaceKey = SurfaceKey.FORMATION


@dataclass(frozen=True)
class Reworked:
    """What was done at a place before its newest shot, as far as it still counts: dug too deep by so much, and put
    back since: how often, in how many lifts in all, all of it stone."""

    over_dug: float | None = None
    fills: int = 0
    lifts: int = 0
    stone: bool = True


class _Ends(Enum):
    """What a place saw last."""

    NOTHING = auto()
    FILLED = auto()
    SHOT = auto()
    LOST = auto()


@dataclass(frozen=True)
class Account:
    """What happened at a place, folded into what still counts: as small after ten thousand readings as after one.

    On the formation an over-dig stays in the account until stone is logged for it: a station that came up by
    itself is not good, because what filled it is not known (soil as fill settles). On other surfaces it is the
    last shot that counts.
    """

    aim: Aim
    made: Reworked = Reworked()
    sums: tuple[Sum, ...] = ()
    ends: _Ends = _Ends.NOTHING

    @property
    def is_untouched(self) -> bool:
        return self.ends is _Ends.NOTHING

    def filled(self, fill: Filling) -> "Account":
        made = self.closed
        put_back = Reworked(made.over_dug, made.fills + 1, made.lifts + fill.lifts, made.stone and fill.stone)
        return Account(self.aim, put_back, (), _Ends.FILLED)

    def shot(self, sights: Iterable[Sight], same_ground: bool = False) -> "Account":
        """Shot anew, or once more on ground that is as it was at the shot before; no sights where what they were
        read against no longer holds."""
        goes_on = same_ground and self.ends in (_Ends.SHOT, _Ends.LOST)
        sums = summed(sights, self.sums if goes_on else ())
        return Account(self.aim, self.made if goes_on else self.closed, sums, _Ends.SHOT if sums else _Ends.LOST)

    @cached_property
    def closed(self) -> Reworked:
        """What counts once the ground under the newest shot is worked on."""
        if self.sums and self._measured[0] is Call.LOW:
            return Reworked(over_dug=self.aim.design - self._measured[1])
        return self.made

    def foreseen(self, at_nought: Sight, at_one: Sight, same_ground: bool = False) -> Foreseen:
        """What shooting it will come to before it is judged, from what a reading of nought and one of a metre come
        to."""
        after = self.shot((at_nought,), same_ground)
        level, u, weights = weighed(after.sums)
        of = next(n for n, each in enumerate(after.sums) if each.set_up == at_nought.set_up)
        factor = weights[of] / after.sums[of].number * (at_one.level - at_nought.level)
        return Foreseen(level - self.aim.design, factor, coverage(after.shots) * u)

    @property
    def shots(self) -> int:
        """How many sights the newest shot has."""
        return sum(each.number for each in self.sums)

    @cached_property
    def _measured(self) -> tuple[Call, float, float, float]:
        """The newest shot's call, level, deviation and standard uncertainty, metres."""
        level, u = combined(self.sums)
        aim = self.aim
        deviation = level - aim.design
        return call(deviation, u, aim.tolerance, self.shots, simple=aim.kind in SIMPLE), level, deviation, u

    @cached_property
    def judgement(self) -> Judgement:
        """What it comes to."""
        if self.ends is _Ends.NOTHING:
            return Judgement(Standing.UNSHOT, Words(PHRASES["unshot"]))
        if self.ends is _Ends.FILLED:
            return Judgement(Standing.FILLED, Words(PHRASES["filled"]))
        if self.ends is _Ends.LOST:
            return Judgement(Standing.UNKNOWN, Words(PHRASES["unknown"]))
        verdict, level, deviation, u = self._measured
        kind, shots = self.aim.kind, self.shots
        standing, action = _standing(kind, verdict, deviation, shots)
        if standing is Standing.GOOD and call(deviation, u, self.aim.tolerance, shots) is not Call.GOOD:
            action = Words(PHRASES["near"])
        if standing is Standing.GOOD and kind is SurfaceKey.FORMATION:
            standing, action = _made_up(deviation, self.made)
        return Judgement(standing, action, level, deviation, u, shots)


def judge(
    history: Iterable[Shot | Filling],
    design: float,
    tolerance: Tolerance,
    kind: SurfaceKey = SurfaceKey.FORMATION,
) -> Judgement:
    """What a station's history comes to: `history` in the order it happened, `design` the level of the surface."""
    account = Account(Aim(design, tolerance, kind))
    for event in history:
        account = account.filled(event) if isinstance(event, Filling) else account.shot(event.sights)
    return account.judgement


def _standing(kind: SurfaceKey, verdict: Call, deviation: float, shots: int) -> tuple[Standing, Words]:
    amount, dig = {"amount": abs(deviation)}, kind is SurfaceKey.FORMATION
    high, low, trim, raise_ = WORK.get(kind, STONE_WORK)
    if verdict is Call.TOO_CLOSE:
        if shots == 1:
            return Standing.TOO_CLOSE, Words(PHRASES["again"])
        phrase = PHRASES["close"] + (trim if deviation > 0 else raise_)
        return Standing.TOO_CLOSE, Words(phrase, amount, {"shots": shots})
    if verdict is Call.HIGH:
        return Standing.DIG if dig else Standing.HIGH, Words(high, amount)
    if verdict is Call.GOOD:
        return Standing.GOOD, Words(PHRASES["good"])
    if not dig:
        skin = kind not in WORK and -deviation < SKIN - 1e-9
        return Standing.LOW, Words(SKINNED if skin else low, amount)
    lifts = lifts_for(-deviation)
    phrase = PHRASES["over_dug_lifts"] if lifts > 1 else low
    return Standing.OVER_DUG, Words(phrase, amount, {"lifts": lifts} if lifts > 1 else {})


def _made_up(deviation: float, made: Reworked) -> tuple[Standing, Words]:
    """A formation at its level, by what was put back on the way."""
    if not made.stone:
        return Standing.UNSOUND_FILL, Words(PHRASES["soil"])
    if made.over_dug is not None and not made.fills:
        return Standing.UNEXPLAINED, Words(PHRASES["unexplained"], {"amount": made.over_dug + deviation})
    if made.over_dug is not None and made.lifts < (lifts := lifts_for(made.over_dug)):
        return Standing.UNSOUND_FILL, Words(PHRASES["thick"], counts={"lifts": lifts})
    if made.fills:
        return Standing.MADE_GOOD, Words(PHRASES["made_good"])
    return Standing.GOOD, Words(PHRASES["good"])
