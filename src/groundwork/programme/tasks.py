"""What is left to do, in the order it is done: from stages, lifts, bays; what has to set between, what weather each
wants."""

import math
import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cache
from pathlib import Path

from groundwork.assess import Assessment
from groundwork.base import Family, Role
from groundwork.curing import DATUM, days_of_setting, earned
from groundwork.daywork import TaskMoved
from groundwork.labour import Task
from groundwork.laywork import RowsLaid
from groundwork.logbook import warmth
from groundwork.measures import Words
from groundwork.outdoors import Outdoors
from groundwork.programme.played import PlayTask, Sets

LEFT_AT_LEAST = 0.1
"""Of a stage that nobody has signed this share is left, however long was worked at it (common practice)."""
MOST_PARTS = 6
"""Bed and paving are played in so many turns at the most."""
MORTAR_SETS = 1
"""Days at 20 °C before joints are filled on mortar, where a school does not say (common practice)."""
BED, LAID = "bedding", "laying"


@dataclass(frozen=True)
class PlanTask:
    """What is left of a stage, or of a part of it: person-hours, what machines it is done with, and how it is played.
    `says` is what it is called beside its stage."""

    key: str
    stage: str
    person_hours: float
    says: Words | None
    machines: tuple[str, ...]
    work: Outdoors
    dry_for: float = 0.0
    sets: tuple[Sets, ...] = ()

    def playing(self, people: int, moved: Mapping[str, TaskMoved]) -> PlayTask:
        """As so many people play it."""
        not_before = next((m.not_before for key in (self.key, self.stage) if (m := moved.get(key))), None)
        return PlayTask(self.key, self.person_hours / people, (str(self.work), self.dry_for), self.sets, not_before)


@cache
def fixed_hours() -> Mapping[str, float]:
    """Hours of the stages that have no amount."""
    return dict(tomllib.loads(Path(__file__).with_name("programme.toml").read_text(encoding="utf-8"))["hours"])


def work_of(there: Assessment, stage: str) -> tuple[Outdoors, float]:
    """A stage as the weather sees it, and how long it has to stay dry after it."""
    base, fill = there.job.specification, there.jointing.fill
    match stage:
        case "excavation":
            return Outdoors.DIG, 0.0
        case "subgrade":
            return Outdoors.FINES, 0.0
        case "separation":
            return Outdoors.FABRIC, 0.0
        case "early-edges" | "late-edges":
            poured = any(
                run.plan.what.is_set_in_concrete
                for run in there.edges.foreseen_runs.values()
                if there.orders.edge_stage(run) == stage
            )
            return (Outdoors.CONCRETE if poured else Outdoors.ANY), 0.0
        case "base-lifts":
            dense = any(layer.family is Family.DENSE for layer in base.under_bedding)
            return (Outdoors.FINES if dense else Outdoors.CLEAN), 0.0
        case "bound-base":
            return Outdoors.CONCRETE, 0.0
        case "bedding" | "laying":
            bed = base.layer(Role.BEDDING)
            if bed is not None and bed.family is Family.MORTAR:
                return Outdoors.MORTAR, 0.0
            return (Outdoors.BED if stage == "bedding" else Outdoors.UNITS), 0.0
        case "joints" if fill.over_dew is not None or (fill.dry and fill.after):
            return Outdoors.BONDED, fill.dry
        case "joints" if fill.key == "mortar":
            return Outdoors.MORTAR, 0.0
        case "joints" if fill.key in ("dry sand", "kiln-dried sand"):
            return Outdoors.SWEEPING, 0.0
    return Outdoors.ANY, 0.0


def tasks_left(
    there: Assessment, paces: Mapping[str, float], worked: Mapping[str, float], a_day: float, now: datetime
) -> tuple[PlanTask, ...]:
    """Everything that is not signed, in its order. `a_day` is how many person-hours the crew has in a day, `worked`
    what went into each stage so far, `now` by the clock on site."""
    found = [task for task in _left(there, paces, worked) if task.person_hours > 0]
    whole = {task.stage: task.person_hours for task in found}
    parts = (
        min(max(math.ceil(whole.get(LAID, 0.0) / a_day - 1e-9), 1), MOST_PARTS) if {BED, LAID} <= set(whole) else 1
    )
    turned = list(_in_turns(found, parts))
    return tuple(replace(task, sets=tuple(_sets(there, task, turned, now))) for task in turned)


def _left(there: Assessment, paces: Mapping[str, float], worked: Mapping[str, float]) -> Iterator[PlanTask]:
    tasks: dict[str, list[Task]] = {}
    for task in there.labour.tasks(paces):
        tasks.setdefault(task.stage, []).append(task)
    kit: dict[str, list[str]] = {}
    for item in there.labour.kit:
        if item.hire:
            kit.setdefault(item.stage, []).append(item.hire)
    for answer in there.stages.line:
        key = answer.stage.key
        if answer.gate.is_signed:
            continue
        hours = sum(task.hours for task in tasks.get(key, ())) or fixed_hours().get(key, 0.0)
        machines = tuple(dict.fromkeys(kit.get(key, ())))
        work, dry_for = work_of(there, key)
        whole = PlanTask(key, key, hours, None, machines, work, dry_for)
        if key == "base-lifts" and (lifts := _lifts(there)):
            yield from _by_lift(whole, lifts)
        else:
            left = max(hours - worked.get(key, 0.0), hours * LEFT_AT_LEAST)
            if key == LAID and there.laying.paving is not None and there.logbook.of_kind(RowsLaid):
                left = hours * max(there.laying.left_area / float(there.site.area.area), 0.0)
            yield replace(whole, person_hours=left)


def _lifts(there: Assessment) -> dict[str, tuple[float, bool]]:
    """Each lift of stone with its thickness, and whether it is tight."""
    return {
        key: (lift.plan.compacted, lift.next_step.kind == "tight")
        for key, lift in there.works.lifts.items()
        if lift.plan is not None
    }


def _by_lift(whole: PlanTask, lifts: Mapping[str, tuple[float, bool]]) -> Iterator[PlanTask]:
    """Lift by lift, each by its thickness; those that are tight are done."""
    thick = sum(thickness for thickness, _tight in lifts.values())
    if all(tight for _thickness, tight in lifts.values()):
        yield replace(whole, person_hours=whole.person_hours * LEFT_AT_LEAST)
    for n, (thickness, tight) in enumerate(lifts.values(), start=1):
        if not tight:
            says = Words("lift {n} of {all}", counts={"n": n, "all": len(lifts)})
            hours = whole.person_hours * thickness / thick
            yield replace(whole, key=f"{whole.stage}.{n}", person_hours=hours, says=says)


def _in_turns(tasks: list[PlanTask], parts: int) -> Iterator[PlanTask]:
    """The bed is screeded and covered in turns, no more of it than is covered on the day."""
    bed, laid = (next((t for t in tasks if t.stage == stage), None) for stage in (BED, LAID))
    for task in tasks:
        if parts == 1 or bed is None or laid is None or task not in (bed, laid):
            yield task
        elif task is bed:
            for n in range(1, parts + 1):
                for each in (bed, laid):
                    says = Words("part {n} of {all}", counts={"n": n, "all": parts})
                    yield replace(each, key=f"{each.stage}.{n}", person_hours=each.person_hours / parts, says=says)


def _sets(there: Assessment, task: PlanTask, tasks: list[PlanTask], now: datetime) -> Iterator[Sets]:
    """What has to set before a task: what its school has set, a slab before anything stands on it, mortar before its
    joints are filled."""
    keys = [each.key for each in tasks]
    before = keys[: keys.index(task.key)]

    def last_of(stage: str) -> str:
        return next((each.key for each in reversed(tasks) if each.stage == stage and each.key in before), "")

    waits = [(wait.after, wait.days) for wait in there.case.school.waits_before(task.stage)]
    if task.stage == "joints" and there.jointing.fill.after and not waits:
        waits = [(LAID, MORTAR_SETS)]
    for stage, days in waits:
        if after := last_of(stage):
            yield Sets(after, days_of_setting(days), DATUM)
        elif stage in there.stages.steps and (made := _made_at(there, stage)):
            since, celsius = made
            left = days_of_setting(days) - earned(since, now, warmth(there.logbook, celsius))
            if left > 0:
                yield Sets(stage, days_of_setting(days), DATUM, left)
    on_slab = _on_the_slab(there)
    if task.stage == on_slab:
        if after := last_of("bound-base"):
            yield Sets(after, days_of_setting(there.case.school.pour_waits), DATUM)
        elif curing := there.works.curing:
            needed = days_of_setting(curing.days)
            left = needed - earned(curing.since, now, curing.warm)
            if left > 0:
                yield Sets("bound-base", needed, DATUM, left)


def _on_the_slab(there: Assessment) -> str:
    """The first stage that puts something on a slab."""
    keys = list(there.stages.steps)
    if "bound-base" not in keys:
        return ""
    return next((key for key in keys[keys.index("bound-base") + 1 :] if key in (BED, LAID)), "")


def _made_at(there: Assessment, stage: str) -> tuple[datetime, float] | None:
    """When what sets was made at a stage, and how warm it was, where it was recorded."""
    if stage == "early-edges":
        waits = [wait for side in there.edges.runs if (wait := there.edges.haunch(side))]
        last = max(waits, key=lambda wait: wait.made.at, default=None)
        return (last.made.at, last.made.celsius) if last else None
    last_batch = max((batch.mixed for batch in there.bedding.batches), key=lambda mixed: mixed.at, default=None)
    return (last_batch.at, last_batch.celsius) if last_batch else None
