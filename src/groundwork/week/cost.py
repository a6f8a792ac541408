"""What a proposal costs: what is made least, and by how much jobs are late."""

from collections.abc import Mapping

from groundwork.week.values import WeekQuestion

LATE, MOVE, SPAN, SOON = 2000, 40, 4, 1
"""What a half day late, somebody at another job, a half day of a machine on hire and of a job count for."""

Place = tuple[int, int, tuple[str, ...]]
"""From a half day up to another, and by whom."""


def done_by(question: WeekQuestion, placed: Mapping[str, Place]) -> dict[str, int]:
    """By the end of how many half days each job is done."""
    done: dict[str, int] = {}
    for task in question.tasks:
        done[task.job] = max(done.get(task.job, 0), placed[task.key][1])
    return done


def late_by(question: WeekQuestion, placed: Mapping[str, Place]) -> dict[str, int]:
    """By how many half days each job that was promised is late."""
    done = done_by(question, placed)
    return {job.key: max(done.get(job.key, 0) - job.due, 0) for job in question.jobs if job.due is not None}


def cost_of(question: WeekQuestion, placed: Mapping[str, Place]) -> int:
    """All of it, by what each counts for."""
    cost = LATE * sum(late_by(question, placed).values()) + SOON * sum(done_by(question, placed).values())
    cost += MOVE * len({(task.job, who) for task in question.tasks for who in placed[task.key][2]})
    for machine in question.machines:
        at_it = [placed[task.key] for task in question.tasks if machine in task.machines]
        if at_it:
            cost += SPAN * (max(each[1] for each in at_it) - min(each[0] for each in at_it))
    return cost
