"""Why a day cannot be held: the least of what was asked that cannot be together."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from groundwork.week.solve import Relaxed, is_possible
from groundwork.week.values import WeekQuestion

A_LOOK = 1.5
"""Seconds for each look."""


@dataclass(frozen=True)
class HeldBy:
    """What holds a job past its day, each such that without it the day could be held, or nothing of it known: `what`
    of `which`. `is_least` where that is proved."""

    reasons: tuple[tuple[str, str], ...]
    is_least: bool


def why_late(question: WeekQuestion, job: str, late: Mapping[str, int], seconds: float = A_LOOK) -> HeldBy | None:
    """What of a question keeps a job from its day, other jobs, days off, machines, what sets, the weather, what
    somebody said; nothing of these where the work by itself is too much. None where it can be held. Other jobs that
    were promised are to be no later for it than they are proposed, `late` by so many half days; those of which
    nobody promised or said anything give way."""
    question = _what_binds(question, job)
    ends = {o.key: o.due + late.get(o.key, 0) for o in question.jobs if o.due is not None and o.key != job}
    out, proved = Relaxed(in_time=job, ends=ends), True
    if is_possible(question, out, 2 * seconds):
        return None
    kept = list[tuple[str, str]]()
    for reason in _reasons(question, job):
        without = _without(out, *reason)
        possible = is_possible(question, without, seconds)
        if possible is False:
            out = without  # it cannot be held even so: that is no part of why
        else:
            proved = proved and possible is True
            kept.append(reason)
    return HeldBy(tuple(kept), proved)


def _what_binds(question: WeekQuestion, job: str) -> WeekQuestion:
    """A question without the jobs that can wait until after all that is looked at."""
    said = {task.job for task in question.tasks if task.people or task.begins is not None}
    jobs = tuple(each for each in question.jobs if each.key == job or each.due is not None or each.key in said)
    keys = {each.key for each in jobs}
    return replace(question, jobs=jobs, tasks=tuple(task for task in question.tasks if task.job in keys))


def _reasons(question: WeekQuestion, job: str) -> Iterator[tuple[str, str]]:
    """What may be left out, what is easiest to change last."""
    if any(task.closed for task in question.tasks):
        yield "weather", ""
    if any(before.hours for task in question.tasks for before in task.after):
        yield "setting", ""
    yield from (("machine", machine) for machine in question.machines)
    yield from (("off", who) for who in question.people if question.off.get(who))
    yield from (("job", other.key) for other in question.jobs if other.key != job and other.due is not None)
    if any(task.people or task.begins is not None or task.from_slot for task in question.tasks):
        yield "said", ""


def _without(out: Relaxed, what: str, which: str) -> Relaxed:
    match what:
        case "weather":
            return replace(out, weather=True)
        case "setting":
            return replace(out, setting=True)
        case "said":
            return replace(out, said=True)
        case "machine":
            return replace(out, machines=out.machines | {which})
        case "off":
            return replace(out, off=out.off | {which})
    return replace(out, jobs=out.jobs | {which})
