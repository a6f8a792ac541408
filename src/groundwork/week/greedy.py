"""A first proposal, task after task, each as soon as may be, job before job in an order that is tried again and
again: what the solver begins with, and what there is where it finds nothing better in its time."""

import random
import time
from collections.abc import Callable, Mapping
from typing import NamedTuple

from groundwork.week.cost import Place, cost_of
from groundwork.week.values import WeekQuestion, WeekTask, placed_slots

TRIES = 1000
"""Orders that are tried at the most."""


class TurnOfJobs(NamedTuple):
    """Which job comes before which, the least first, and how many work on one at once at the most."""

    rank: Mapping[str, float]
    most: Mapping[str, int]


def usual_order(question: WeekQuestion) -> TurnOfJobs:
    """Those that are due first before others, the shorter of two before the longer."""
    rank = {}
    for job in question.jobs:
        work = sum(task.hours for task in question.tasks if task.job == job.key)
        rank[job.key] = (question.slots if job.due is None else job.due) + work * 1e-4
    return TurnOfJobs(rank, {})


def better_plan(
    question: WeekQuestion, seconds: float, is_stopped: Callable[[], bool] = lambda: False, seed: int = 1
) -> Mapping[str, Place] | None:
    """The best of the proposals that other orders come to, a job put elsewhere or its team made smaller at a time;
    None where none was found. Whether it is stopped is asked after every order."""
    chance, until = random.Random(seed), time.monotonic() + seconds  # noqa: S311 — an order, not a secret
    order = usual_order(question)
    best = first_plan(question, order)
    least = None if best is None else cost_of(question, best)
    jobs = [job.key for job in question.jobs]
    for _n in range(TRIES if jobs else 0):
        if time.monotonic() > until or is_stopped():
            break
        tried, job = order, chance.choice(jobs)
        if chance.random() < 0.5:
            low, high = min(order.rank.values()), max(order.rank.values())
            tried = order._replace(rank={**order.rank, job: chance.uniform(low - 1, high + 1)})
        else:
            tried = order._replace(most={**order.most, job: chance.randint(1, max(len(question.people), 1))})
        found = first_plan(question, tried)
        cost = None if found is None else cost_of(question, found)
        if cost is not None and (least is None or cost <= least):
            order, best, least = tried, found, cost
    return best


def first_plan(question: WeekQuestion, order: TurnOfJobs | None = None) -> Mapping[str, Place] | None:
    """Every task placed, those of the job that comes first in an order before others, what was fixed before all; None
    where one finds no place so."""
    rank, most = order or usual_order(question)
    rows, placed = _Rows(question), dict[str, Place]()
    follow: dict[str, list[WeekTask]] = {task.key: [] for task in question.tasks}
    waits = dict.fromkeys(follow, 0)
    for task in question.tasks:
        for key in {before.task for before in task.after} & set(follow):
            follow[key].append(task)
            waits[task.key] += 1
    ready = [task for task in question.tasks if not waits[task.key]]
    while ready:
        task = min(ready, key=lambda t: (t.begins is None and not t.people, rank[t.job], t.key))
        ready.remove(task)
        place = rows.place(task, placed, most.get(task.job, task.most))
        if place is None:
            return None
        placed[task.key] = place
        rows.take(task, place)
        for other in follow[task.key]:
            waits[other.key] -= 1
            if not waits[other.key]:
                ready.append(other)
    return placed if len(placed) == len(question.tasks) else None


class _Rows:
    """Half days of people and machines, a bit each: who is busy, what is in use, all of it."""

    def __init__(self, question: WeekQuestion) -> None:
        self._question = question
        self._busy = {who: sum(1 << slot for slot in question.off.get(who, ())) for who in question.people}
        named = {machine for task in question.tasks for machine in task.machines}
        self._used = {machine: [0] * question.machines.get(machine, 1) for machine in named}
        self._at: dict[str, set[str]] = {job.key: set() for job in question.jobs}

    def take(self, task: WeekTask, place: Place) -> None:
        begins, ends, people = place
        bits = _bits(begins, ends)
        for who in people:
            self._busy[who] |= bits
        for machine in task.machines:
            of_it = self._used[machine]
            of_it[next(n for n, row in enumerate(of_it) if not row & bits)] |= bits
        self._at[task.job].update(people)

    def place(self, task: WeekTask, placed: Mapping[str, Place], most: int) -> Place | None:
        """Where a task ends soonest, by those who are at its job already before others."""
        of = self._question
        after = (of.ready_after(placed[b.task][1], b.hours) for b in task.after if b.task in placed)
        first = max(task.from_slot, *after, 0)
        teams = range(min(max(most, len(task.people)), task.most, len(of.people)), max(len(task.people), 1) - 1, -1)
        best: Place | None = None
        for begins in range(first, of.slots) if task.begins is None else [task.begins]:
            if begins < first or (best and begins >= best[1]):
                break
            for team in teams:
                long = placed_slots(task, begins, team, of.slots, of.hours)
                if long is None or (best and begins + long >= best[1]):
                    continue
                people = self._team(task, team, _bits(begins, begins + long))
                if people is not None:
                    best = begins, begins + long, people
        return best

    def _team(self, task: WeekTask, team: int, bits: int) -> tuple[str, ...] | None:
        """So many who are free then, where the machines are too."""
        if any(all(row & bits for row in self._used[machine]) for machine in task.machines):
            return None
        free = [who for who, busy in self._busy.items() if not busy & bits]
        if not task.people <= set(free):
            return None
        there = self._at[task.job]
        others = sorted((who for who in free if who not in task.people), key=lambda who: who not in there)
        people = (*sorted(task.people), *others)[:team]
        return people if len(people) == team else None


def _bits(begins: int, ends: int) -> int:
    return ((1 << (ends - begins)) - 1) << begins
