"""What sets and what dries: when a slab may be walked on, built on, driven on, by how warm it was and is said to
be."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from groundwork.assess import Assessment
from groundwork.curing import BESIDE, PLATED, Warmth, earned, matured_at
from groundwork.logbook import warmth
from groundwork.measures import Words
from groundwork.weather import Forecast, dries_in, evapotranspiration, sun_overhead

TOO_WET = 0.02
"""A share of the dry mass over the optimum from which a lift waits to dry (common practice)."""
EVAPORATES = 0.408


@dataclass(frozen=True)
class Setting:
    """Something that sets or dries, since when, and what may then be done; `at` is None where that never comes as it
    is, `share` how far it is."""

    what: Words
    then: Words
    since: datetime
    at: datetime | None
    share: float
    is_estimate: bool = False


def told_by(forecast: Forecast | None, usual: float) -> Callable[[datetime], float | None]:
    """How warm a forecast says a moment is, °C; outside of it as it usually is."""

    def told(moment: datetime) -> float | None:
        hour = forecast.at(moment) if forecast else None
        return hour.celsius if hour else usual

    return told


def settings(
    there: Assessment, forecast: Forecast | None, usual: float, now: datetime, latitude: float | None
) -> tuple[Setting, ...]:
    """Everything that sets or dries now, and what has done so within a day."""
    found = _settings(there, told_by(forecast, usual), forecast, now, latitude)
    return tuple(each for each in found if each.at is None or each.at > now - timedelta(days=1))


def _settings(
    there: Assessment, told: Callable[[datetime], float | None], forecast: Forecast | None, now: datetime,
    latitude: float | None,
) -> Iterator[Setting]:  # fmt: skip
    curing = there.works.curing
    if curing:
        warm = replace(curing.warm, else_=told)
        for what, needed, datum in curing.matures:
            yield _of(Words("the slab"), Words(_MAY[what]), curing.since, needed, warm, now, datum)
    plated = PLATED[there.job.brief.traffic.wheels]
    for side in there.edges.runs:
        wait = there.edges.haunch(side)
        if wait:
            warm = replace(warmth(there.logbook, wait.made.celsius), else_=told)
            names = {"side": str(side + 1)}
            for then, needed in ((Words("lay against it"), BESIDE), (Words("compact beside it"), plated)):
                yield _of(Words("haunch along side {side}", names=names), then, wait.made.at, needed, warm, now)
    if there.jointing.fill.after and there.bedding.batches:
        last = max((batch.mixed for batch in there.bedding.batches), key=lambda mixed: mixed.at)
        warm = replace(warmth(there.logbook, last.celsius), else_=told)
        yield _of(Words("the mortar bed"), Words("fill the joints"), last.at, BESIDE, warm, now)
    yield from _opens(there, now)
    if forecast and latitude is not None:
        yield from _drying(there, forecast, now, latitude)


_MAY = {"walked on": "walk on it", "bedding and paving": "build on it", "cars": "drive on it"}


def _of(
    what: Words, then: Words, since: datetime, needed: float, warm: Warmth, now: datetime, datum: float = -10.0
) -> Setting:  # fmt: skip
    at = matured_at(since, needed, warm, datum)
    return Setting(what, then, since, at, min(earned(since, now, warm, datum) / needed, 1.0))


def _opens(there: Assessment, now: datetime) -> Iterator[Setting]:
    filled, opens = there.jointing.filled_at, there.jointing.opens
    if filled and opens:
        for then, at in ((Words("walk on it"), opens[0]), (Words("drive on it"), opens[1])):
            if at and at > filled:
                yield Setting(Words("filled joints"), then, filled, at, min((now - filled) / (at - filled), 1.0))


def _drying(there: Assessment, forecast: Forecast, now: datetime, latitude: float) -> Iterator[Setting]:
    """A lift with fines that is wetter than its optimum by more than it may be: an estimate."""
    day = forecast.between(datetime.combine(now.date(), datetime.min.time()), now + timedelta(days=1))
    lift = there.works.in_hand
    tested, best = lift.moisture, lift.optimum
    if not day or tested is None or tested.share is None or best is None or lift.plan is None:
        return
    over = tested.share - best - TOO_WET
    if over > 1e-9:
        least, most = min(hour.celsius for hour in day), max(hour.celsius for hour in day)
        a_day = evapotranspiration(least, most, sun_overhead(latitude, now.date()) * EVAPORATES)
        days = dries_in(over, lift.plan.compacted, lift.plan.material.density, a_day)
        at = now + timedelta(days=days) if days < 30 else None
        yield Setting(Words("the lift in hand, {percent} % too wet", names={"percent": f"{over * 100:.1f}"}),
                      Words("compact it"), now, at, 0.0, is_estimate=True)  # fmt: skip
