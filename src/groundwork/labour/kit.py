"""Tools and kit by stage; the days each stage takes one after the other, and what is hired from when to when."""

import tomllib
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cache
from pathlib import Path
from typing import Any

WAITS = {"bound-base": 4, "early-edges": 1}
"""Days after a stage on which nothing goes on: until a slab is built on, and until one compacts beside a haunch
(common practice at some 15 °C; what was poured has its own days by the temperature it had)."""


@dataclass(frozen=True)
class KitItem:
    """Something to have at hand at a stage; `hire` is what one hires it as, nothing where crews have their own."""

    stage: str
    what: str
    hire: str = ""


@dataclass(frozen=True)
class StageDays:
    """A stage with its person-hours, from its first working day to its last."""

    stage: str
    hours: float
    first: date
    last: date


@dataclass(frozen=True)
class Hire:
    """Something hired from a day to a day, both counted, and so many `days` that it is paid for."""

    what: str
    first: date
    last: date
    days: int


@cache
def _table() -> tuple[dict[str, Any], ...]:
    return tuple(tomllib.loads(Path(__file__).with_name("kit.toml").read_text(encoding="utf-8"))["kit"])


def kit(stages: Iterable[str], so: frozenset[str]) -> tuple[KitItem, ...]:
    """What is at hand at each of the stages, where what is `so` has it there: on the whole job, or at a stage, as
    `mixed:bedding`."""
    return tuple(
        KitItem(stage, row["what"], row.get("hire", ""))
        for stage in stages
        for row in _table()
        if stage in row["stages"] and (not (when := row.get("when")) or when in so or f"{when}:{stage}" in so)
    )


def working_days(first: date, off: frozenset[int] = frozenset({5, 6})) -> "Iterable[date]":
    """Days on which work goes on, from the first on; `off` are weekdays, Monday 0."""
    day = first
    while True:
        if day.weekday() not in off:
            yield day
        day += timedelta(days=1)


def planned_days(
    hours: Mapping[str, float], begins: date, people: int, hours_a_day: float, off: frozenset[int] = frozenset({5, 6})
) -> tuple[StageDays, ...]:
    """Stage after stage, in the order given, each with its person-hours shared by all; a day may end one and begin
    the next. Raises `ValueError` for nobody, or no hours in a day."""
    if people < 1 or hours_a_day <= 0 or len(off) > 6:
        raise ValueError("somebody has to work on some day")
    found, days = list[StageDays](), iter(working_days(begins, off))
    day, used = next(days), 0.0
    for stage, needed in hours.items():
        if used >= hours_a_day - 1e-9:
            day, used = next(days), 0.0
        first, left = day, needed / people
        while left > hours_a_day - used + 1e-9:
            left -= hours_a_day - used
            day, used = next(days), 0.0
        used += left
        found.append(StageDays(stage, needed, first, day))
        if wait := WAITS.get(stage):
            while (day - found[-1].last).days <= wait:
                day = next(days)
            used = 0.0
    return tuple(found)


def hired(items: Sequence[KitItem], days: Sequence[StageDays]) -> tuple[Hire, ...]:
    """What is hired: from the first day of the first stage that needs it to the last of the last, unless it would
    stand for more than a working week between two: then twice."""
    when = {each.stage: each for each in days}
    found: list[Hire] = []
    for what in dict.fromkeys(item.hire for item in items if item.hire):
        spans = sorted((when[i.stage].first, when[i.stage].last) for i in items if i.hire == what and i.stage in when)
        joined: list[tuple[date, date]] = []
        for first, last in spans:
            if joined and (first - joined[-1][1]).days <= IDLE:
                joined[-1] = (joined[-1][0], max(last, joined[-1][1]))
            else:
                joined.append((first, last))
        found += (Hire(what, first, last, (last - first).days + 1) for first, last in joined)
    return tuple(sorted(found, key=lambda hire: (hire.first, hire.what)))


IDLE = 3
"""Calendar days that something hired may stand before one sends it back and fetches it again (common practice)."""
