"""The proposal: by a constraint solver, least lateness against what was promised, then least going to and fro, then
least time of machines on hire, then the soonest."""

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from groundwork.week.cost import LATE, MOVE, SOON, SPAN, Place, cost_of, done_by, late_by
from groundwork.week.greedy import better_plan
from groundwork.week.values import WeekQuestion, placed_slots

A_WHILE = 0.2
"""Seconds between two times it tells how far it is."""
PATIENCE, AT_FIRST = 8.0, 0.5
"""Seconds, and the share of them in which orders are tried before the solver goes on from the best."""
WORKERS = 2
NONE_LATER = 10**9


@dataclass(frozen=True)
class Placed:
    """A task as it is proposed: from one half day up to another, by whom."""

    task: str
    begins: int
    ends: int
    people: tuple[str, ...]


@dataclass(frozen=True)
class WeekPlan:
    """The proposal. `late` is by how many half days each job that was promised is late; `gap` by what share it may
    still be bettered, none where it is proved the best; `cost` is what was made least."""

    placed: tuple[Placed, ...]
    late: Mapping[str, int]
    cost: int
    gap: float
    stopped: bool = False

    def of(self, task: str) -> Placed:
        return next(each for each in self.placed if each.task == task)


@dataclass(frozen=True)
class Relaxed:
    """What is left out of a question: half days off of somebody, the number of a machine, the weather, what sets,
    what was said of tasks, other jobs; and a job that has to be in time."""

    off: frozenset[str] = frozenset()
    machines: frozenset[str] = frozenset()
    weather: bool = False
    setting: bool = False
    said: bool = False
    jobs: frozenset[str] = frozenset()
    in_time: str = ""
    ends: Mapping[str, int] = field(default_factory=dict)
    """By which half day other jobs have to be done, where they were promised."""


@dataclass
class _Model:
    """The solver's model of a question."""

    model: Any
    start: dict[str, Any] = field(default_factory=dict)
    end: dict[str, Any] = field(default_factory=dict)
    at: dict[tuple[str, str], Any] = field(default_factory=dict)
    late: dict[str, Any] = field(default_factory=dict)
    team: dict[str, Any] = field(default_factory=dict)
    long: dict[str, Any] = field(default_factory=dict)
    ready: list[tuple[Any, str, float]] = field(default_factory=list)
    done: dict[str, Any] = field(default_factory=dict)
    there: dict[tuple[str, str], Any] = field(default_factory=dict)
    hired: dict[str, tuple[Any, Any]] = field(default_factory=dict)


def solved(
    question: WeekQuestion, seconds: float = PATIENCE, tell: Callable[[float, float], bool] = lambda _s, _g: False
) -> WeekPlan | None:
    """The best proposal within so many seconds; `tell` is told how far it is, as a share of its time, and the gap,
    and says whether to stop. None where there is none, as where what was said of tasks cannot be."""
    from ortools.sat.python import cp_model  # noqa: PLC0415 (seconds to load, and only here)

    began, told = time.monotonic(), [0.0]
    asked, found = list[bool](), list[bool]()

    def is_stopped(gap: float = 1.0) -> bool:
        """Tells how far it is, a few times a second, and hears whether to stop."""
        now = time.monotonic()
        if now - told[0] > A_WHILE or gap < 1:
            told[0] = now
            if tell(min((now - began) / seconds, 1.0), gap):
                asked.append(True)
        return bool(asked)

    first = better_plan(question, AT_FIRST * seconds, is_stopped)
    if first and asked:
        return _plan(question, first, 0.0, stopped=True)
    made = _model(question, Relaxed(), cp_model)
    if first:
        _hint(made, question, first)

    def tells(gap: float) -> None:
        if is_stopped(gap) and found:  # there is something to show
            solver.stop_search()

    class Told(cp_model.CpSolverSolutionCallback):
        def on_solution_callback(self) -> None:
            found.append(True)
            best = self.objective_value
            tells(min((best - self.best_objective_bound) / best, 1.0) if best else 0.0)

    solver = _solver(cp_model, max(seconds - (time.monotonic() - began), 0.1 * seconds))
    solver.best_bound_callback = lambda _bound: tells(1.0)
    status = solver.solve(made.model, Told())
    found_one = status in (cp_model.OPTIMAL, cp_model.FEASIBLE)
    if first and not (found_one and solver.objective_value <= cost_of(question, first)):
        return _plan(question, first, solver.best_objective_bound, bool(asked))
    if not found_one:
        return None
    placed = {
        task.key: (
            solver.value(made.start[task.key]), solver.value(made.end[task.key]),
            tuple(who for who in question.people if solver.value(made.at[who, task.key])),
        )
        for task in question.tasks
    }  # fmt: skip
    return _plan(question, placed, solver.best_objective_bound, bool(asked))


def _plan(question: WeekQuestion, placed: Mapping[str, Place], bound: float, stopped: bool) -> WeekPlan:
    cost = cost_of(question, placed)
    gap = min(max((cost - bound) / cost, 0.0), 1.0) if cost else 0.0
    tasks = tuple(Placed(task.key, *placed[task.key]) for task in question.tasks)
    return WeekPlan(tasks, late_by(question, placed), cost, gap, stopped)


def _hint(made: _Model, question: WeekQuestion, by: Mapping[str, Place]) -> None:
    """Tells the solver a proposal, every variable of it: it goes on from there."""
    done, late = done_by(question, by), late_by(question, by)
    at = {(who, task.job) for task in question.tasks for who in by[task.key][2]}
    known: list[tuple[Any, int]] = [(made.late[job], late[job]) for job in made.late]
    known += [(made.done[job], done[job]) for job in made.done]
    known += [(is_there, place in at) for place, is_there in made.there.items()]
    known += [(ready, question.ready_after(by[task][1], hours)) for ready, task, hours in made.ready]
    for key, (begins, ends, people) in by.items():
        known += [(made.start[key], begins), (made.end[key], ends), (made.long[key], ends - begins)]
        known += [(made.team[key], len(people)), *((made.at[who, key], who in people) for who in question.people)]
    for machine, (first, last) in made.hired.items():
        mine = [by[task.key] for task in question.tasks if machine in task.machines]
        known += [(first, min(each[0] for each in mine)), (last, max(each[1] for each in mine))]
    for variable, value in known:
        made.model.add_hint(variable, value)


def is_possible(question: WeekQuestion, relaxed: Relaxed, seconds: float) -> bool | None:
    """Whether anything is possible with so much left out; None where that is not known in time."""
    from ortools.sat.python import cp_model  # noqa: PLC0415

    made = _model(question, relaxed, cp_model, goal=False)
    status = _solver(cp_model, seconds).solve(made.model)
    if status in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return True
    return False if status == cp_model.INFEASIBLE else None


def _solver(cp_model: Any, seconds: float) -> Any:
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = WORKERS
    solver.parameters.random_seed = 1
    # What these look for takes longer than there is time, before anything is tried.
    solver.parameters.symmetry_level = 0
    solver.parameters.cp_model_probing_level = 0
    solver.parameters.linearization_level = 0
    return solver


def _model(question: WeekQuestion, relaxed: Relaxed, cp_model: Any, goal: bool = True) -> _Model:
    made = _Model(cp_model.CpModel())
    tasks = [task for task in question.tasks if task.job not in relaxed.jobs]
    intervals: dict[str, list[Any]] = {who: [] for who in question.people}
    using: dict[str, list[Any]] = {}
    for task in tasks:
        _task(made, question, task, relaxed, intervals, using)
    for task in tasks:
        _after(made, question, task, relaxed)
    for who, mine in intervals.items():
        if who not in relaxed.off:
            mine += [made.model.new_fixed_size_interval_var(n, 1, "") for n in question.off.get(who, ())]
        made.model.add_no_overlap(mine)
    for machine, at_it in using.items():
        if machine not in relaxed.machines:
            made.model.add_cumulative(at_it, [1] * len(at_it), question.machines.get(machine, 1))
    _goal(made, question, tasks, relaxed, goal)
    return made


def _task(
    made: _Model, question: WeekQuestion, task: Any, relaxed: Relaxed, intervals: dict[str, list[Any]],
    using: dict[str, list[Any]],
) -> None:  # fmt: skip
    model, key = made.model, task.key
    open_ = task if not relaxed.weather else type(task)(**{**vars(task), "closed": frozenset()})
    most = max(min(task.most, len(question.people)), 1)
    said = not relaxed.said
    rows = [
        (begins, team, long)
        for team in range(1, most + 1)
        for begins in range(task.from_slot if said else 0, question.slots)
        if (long := placed_slots(open_, begins, team, question.slots, question.hours)) is not None
        and (task.begins is None or not said or begins == task.begins)
        and (not task.people or not said or team >= len(task.people))
    ]
    start = made.start[key] = model.new_int_var(0, question.slots, f"start {key}")
    end = made.end[key] = model.new_int_var(0, question.slots, f"end {key}")
    team_, long_ = model.new_int_var(1, most, ""), model.new_int_var(1, question.slots, "")
    model.add_allowed_assignments([start, team_, long_], rows) if rows else model.add_bool_or([])
    model.add(end == start + long_)
    made.team[key], made.long[key] = team_, long_
    for who in question.people:
        is_at = made.at[who, key] = model.new_bool_var(f"{who} at {key}")
        intervals[who].append(model.new_optional_interval_var(start, long_, end, is_at, ""))
        if who in task.people and said:
            model.add(is_at == 1)
    model.add(sum(made.at[who, key] for who in question.people) == team_)
    for machine in task.machines:
        using.setdefault(machine, []).append(model.new_interval_var(start, long_, end, ""))


def _after(made: _Model, question: WeekQuestion, task: Any, relaxed: Relaxed) -> None:
    for before in task.after:
        if before.task not in made.end:
            continue
        end = made.end[before.task]
        hours = 0.0 if relaxed.setting else before.hours
        if hours <= 0:
            made.model.add(made.start[task.key] >= end)
            continue
        ready = [question.ready_after(n, hours) for n in range(question.slots + 1)]
        at = made.model.new_int_var(0, question.slots, "")
        made.model.add_element(end, ready, at)
        made.ready.append((at, before.task, hours))
        made.model.add(made.start[task.key] >= at)


def _goal(made: _Model, question: WeekQuestion, tasks: list[Any], relaxed: Relaxed, goal: bool) -> None:
    model, cost = made.model, []
    for job in question.jobs:
        mine = [task.key for task in tasks if task.job == job.key]
        if not mine:
            continue
        done = model.new_int_var(0, question.slots, "")
        model.add_max_equality(done, [made.end[key] for key in mine])
        made.done[job.key] = done
        cost.append(SOON * done)
        if job.due is not None:
            late = made.late[job.key] = model.new_int_var(0, question.slots, "")
            model.add(late >= done - job.due)
            cost.append(LATE * late)
            if relaxed.in_time == job.key:
                model.add(done <= job.due)
        if job.key in relaxed.ends:
            model.add(done <= relaxed.ends[job.key])
        for who in question.people:
            is_there = model.new_bool_var("")
            made.there[who, job.key] = is_there
            for key in mine:
                model.add_implication(made.at[who, key], is_there)
            cost.append(MOVE * is_there)
    for machine in question.machines:
        at_it = [task.key for task in tasks if machine in task.machines]
        if at_it:
            first, last = model.new_int_var(0, question.slots, ""), model.new_int_var(0, question.slots, "")
            made.hired[machine] = first, last
            model.add_min_equality(first, [made.start[key] for key in at_it])
            model.add_max_equality(last, [made.end[key] for key in at_it])
            cost.append(SPAN * (last - first))
    if goal:
        model.minimize(sum(cost))
