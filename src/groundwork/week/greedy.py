"""A first proposal, task after task, each as soon as may be: what the solver begins with, and what there is where it
finds nothing better in its time."""

from collections.abc import Mapping

from groundwork.week.values import WeekQuestion, WeekTask, placed_slots

Place = tuple[int, int, tuple[str, ...]]
"""From a half day up to another, and by whom."""


def first_plan(question: WeekQuestion) -> Mapping[str, Place] | None:
    """Every task placed, those of the job that is due first before others, what was fixed before all; None where one
    finds no place so."""
    due = {job.key: question.slots if job.due is None else job.due for job in question.jobs}
    left, placed = {task.key: task for task in question.tasks}, dict[str, Place]()
    busy: dict[str, set[int]] = {who: set(question.off.get(who, ())) for who in question.people}
    used: dict[tuple[str, int], int] = {}
    while left:
        ready = [t for t in left.values() if all(b.task not in left for b in t.after)]
        if not ready:
            return None
        task = min(ready, key=lambda t: (t.begins is None and not t.people, due[t.job], t.key))
        place = _place(question, task, placed, busy, used)
        if place is None:
            return None
        begins, ends, people = placed[task.key] = place
        for slot in range(begins, ends):
            for who in people:
                busy[who].add(slot)
            for machine in task.machines:
                used[machine, slot] = used.get((machine, slot), 0) + 1
        del left[task.key]
    return placed


def _place(
    question: WeekQuestion, task: WeekTask, placed: Mapping[str, Place], busy: Mapping[str, set[int]],
    used: Mapping[tuple[str, int], int],
) -> Place | None:  # fmt: skip
    first = max(
        [task.from_slot, *(question.ready_after(placed[b.task][1], b.hours) for b in task.after if b.task in placed)]
    )
    best: Place | None = None
    for begins in range(first, question.slots) if task.begins is None else [task.begins]:
        if begins < first or (best and begins >= best[1]):
            break
        for team in range(min(task.most, len(question.people)), max(len(task.people), 1) - 1, -1):
            long = placed_slots(task, begins, team, question.slots, question.hours)
            if long is None or (best and begins + long >= best[1]):
                continue
            slots = range(begins, begins + long)
            if any(used.get((m, slot), 0) >= question.machines.get(m, 1) for m in task.machines for slot in slots):
                continue
            free = [who for who in question.people if not any(slot in busy[who] for slot in slots)]
            people = [*task.people, *(who for who in free if who not in task.people)][:team]
            if len(people) == team and task.people <= set(free):
                best = begins, begins + long, tuple(people)
    return best
