"""The crew's week against exhaustive search, plans by hand, and reasons that are least."""

import itertools
import random
from dataclasses import replace

import pytest

from groundwork.week import Follows, WeekJob, WeekQuestion, WeekTask, solved, why_late
from groundwork.week.cost import LATE, MOVE, SOON, SPAN, cost_of, late_by
from groundwork.week.greedy import better_plan, first_plan
from groundwork.week.values import placed_slots

DAYS = [24.0 * day + 7 + 4 * half for day in range(5) for half in range(2)]
"""When the half days of a week begin, hours from Monday midnight on."""


def question(*tasks: WeekTask, slots: int = 10, **more) -> WeekQuestion:
    given = {
        "people": ("ann", "bo"), "machines": {"plate": 1},
        "jobs": tuple(WeekJob(key) for key in dict.fromkeys(task.job for task in tasks)),
    }  # fmt: skip
    return WeekQuestion(at=DAYS[:slots], hours=4.0, tasks=tasks, **given | more)


def exhaustive(of: WeekQuestion) -> int | None:
    """The least cost, by trying every beginning of every task with every group of people."""
    options = []
    for task in of.tasks:
        mine = []
        for team in range(1, min(task.most, len(of.people)) + 1):
            for people in itertools.combinations(of.people, team):
                if not task.people <= set(people):
                    continue
                for begins in range(task.from_slot, of.slots):
                    long = placed_slots(task, begins, team, of.slots, of.hours)
                    if long is not None and task.begins in (None, begins):
                        mine.append((begins, begins + long, people))
        options.append(mine)
    best = None
    for chosen in itertools.product(*options):
        by = {task.key: each for task, each in zip(of.tasks, chosen, strict=True)}
        if all(fits(of, task, by) for task in of.tasks) and (best is None or cost(of, by) < best):
            best = cost(of, by)
    return best


def fits(of: WeekQuestion, task: WeekTask, by: dict) -> bool:
    begins, ends, people = by[task.key]
    if any(slot in of.off.get(who, ()) for who in people for slot in range(begins, ends)):
        return False
    for before in task.after:
        if begins < of.ready_after(by[before.task][1], before.hours):
            return False
    for other in of.tasks:
        first, last, others = by[other.key]
        if other.key != task.key and begins < last and first < ends:
            if set(people) & set(others):
                return False
            if any(of.machines[m] < 2 for m in set(task.machines) & set(other.machines)):
                return False
    return True


def cost(of: WeekQuestion, by: dict) -> int:
    total = 0
    for job in of.jobs:
        mine = [by[task.key] for task in of.tasks if task.job == job.key]
        done = max(ends for _begins, ends, _people in mine)
        total += SOON * done + MOVE * len({who for *_when, people in mine for who in people})
        if job.due is not None:
            total += LATE * max(done - job.due, 0)
    for machine in of.machines:
        spans = [by[task.key][:2] for task in of.tasks if machine in task.machines]
        if spans:
            total += SPAN * (max(last for _first, last in spans) - min(first for first, _last in spans))
    return total


def small(seed: int) -> WeekQuestion:
    """A small question at random: three tasks of two jobs in five half days."""
    chance = random.Random(seed)
    tasks = [
        WeekTask(f"t{n}", chance.choice("xy"), chance.choice([3.0, 4.0, 8.0, 12.0]), chance.choice([1, 2]),
                 chance.choice([(), ("plate",)]), closed=frozenset(chance.sample(range(5), chance.choice([0, 0, 1]))))
        for n in range(3)
    ]  # fmt: skip
    if chance.random() < 0.6:
        tasks[2] = replace(tasks[2], after=(Follows("t0", chance.choice([0.0, 0.0, 20.0])),))
    jobs = tuple(WeekJob(key, chance.choice([None, 1, 2, 4])) for key in dict.fromkeys(task.job for task in tasks))
    off = {"ann": frozenset({chance.randrange(5)})} if chance.random() < 0.4 else {}
    return question(*tasks, slots=5, jobs=jobs, off=off)


@pytest.mark.parametrize("seed", range(12))
def test_no_week_is_better_than_the_best_of_all(seed: int) -> None:
    of = small(seed)
    best, found = exhaustive(of), solved(of, 20)
    assert (found and found.cost) == best
    if found:
        by = {each.task: (each.begins, each.ends, each.people) for each in found.placed}
        assert all(fits(of, task, by) for task in of.tasks) and cost(of, by) == best and found.gap == 0


def test_curing_on_one_job_is_laying_on_another() -> None:
    """A slab is poured on Monday morning and sets for 72 hours: laid on from Friday on, and the other job in
    between."""
    found = solved(question(
        WeekTask("pour", "slab", 8, 2), WeekTask("pave", "slab", 8, 2, after=(Follows("pour", 72.0),)),
        WeekTask("lay", "court", 32, 2), jobs=(WeekJob("slab", 8), WeekJob("court", 5)),
    ))  # fmt: skip
    assert found is not None and found.late == {"slab": 0, "court": 0}
    assert (found.of("pour").begins, found.of("lay").begins, found.of("pave").begins) == (0, 1, 7)
    # By hand: Monday eleven o'clock and 72 hours is Thursday eleven, so Thursday's second half is the first.


def test_what_somebody_said_is_kept() -> None:
    task = WeekTask("lay", "court", 8, 2, people=frozenset({"bo"}), begins=4)
    found = solved(question(task))
    assert found is not None and found.of("lay").begins == 4 and "bo" in found.of("lay").people
    both = question(
        replace(task, people=frozenset({"bo"})), WeekTask("cut", "yard", 4, 1, people=frozenset({"bo"}), begins=4)
    )
    assert solved(both) is None  # nobody is in two places


WORK = WeekTask("lay", "court", 16, 2)
DUE = (WeekJob("court", 2), WeekJob("yard", 1))


@pytest.mark.parametrize(
    ("of", "why"),
    [
        (question(replace(WORK, hours=20), jobs=DUE[:1]), []),  # 20 hours of two are three half days, whatever else
        (question(WORK, jobs=DUE[:1], off={"bo": frozenset({0, 1})}), [("off", "bo")]),
        (question(replace(WORK, closed=frozenset({0})), jobs=DUE[:1]), [("weather", "")]),
        (question(WeekTask("pour", "court", 4), replace(WORK, hours=4, after=(Follows("pour", 24.0),)), jobs=DUE[:1]),
         [("setting", "")]),
        (question(replace(WORK, from_slot=1), jobs=DUE[:1]), [("said", "")]),
        (question(replace(WORK, machines=("plate",)),
                  WeekTask("seat", "yard", 4, 1, ("plate",)), jobs=DUE), [("job", "yard")]),
    ],
)  # fmt: skip
def test_why_a_day_cannot_be_held(of: WeekQuestion, why: list) -> None:
    """The court was promised by the second half day, and just one thing keeps it."""
    held = why_late(of, "court", {}, 10)
    assert held is not None and held.is_least and list(held.reasons) == why


def test_a_day_that_can_be_held_has_no_reason() -> None:
    assert why_late(question(WORK, jobs=DUE[:1]), "court", {}, 10) is None


def test_two_reasons_together_are_both_named() -> None:
    """One is off in the first half day, it rains in the second: either alone could be borne until the third."""
    of = question(
        replace(WORK, hours=16, closed=frozenset({1})), jobs=(WeekJob("court", 3),), off={"bo": frozenset({0})}
    )  # fmt: skip
    held = why_late(of, "court", {}, 10)
    assert held is not None and set(held.reasons) == {("weather", ""), ("off", "bo")}


def large() -> WeekQuestion:
    """Ten jobs of five tasks, four people, five machines, three weeks."""
    chance = random.Random(7)
    at = [24.0 * (day + 2 * (day // 5)) + 7 + 4 * half for day in range(15) for half in range(2)]
    machines = ("excavator", "plate", "mixer", "saw", "roller")
    tasks = []
    for job in range(10):
        for n in range(5):
            after = (Follows(f"{job}.{n - 1}", 48.0 if n == 2 else 0.0),) if n else ()
            closed = frozenset(chance.sample(range(30), 3))
            tasks.append(WeekTask(f"{job}.{n}", str(job), chance.choice([2.0, 4.0, 6.0, 8.0]), 2,
                                  (machines[(job + n) % 5],) if n % 2 == 0 else (), after, closed))  # fmt: skip
    jobs = tuple(WeekJob(str(job), chance.choice([None, 16, 24, 30])) for job in range(10))
    return WeekQuestion(at, 4.0, ("ann", "bo", "cy", "di"), dict.fromkeys(machines, 1), jobs, tuple(tasks))


@pytest.mark.parametrize("seed", range(12))
def test_the_first_proposal_may_be_and_is_no_better_than_the_best(seed: int) -> None:
    of = small(seed)
    first, best = first_plan(of), exhaustive(of)
    if first:
        assert all(fits(of, task, first) for task in of.tasks) and cost(of, first) >= best
    else:
        assert best is None or of.off or any(task.closed for task in of.tasks)


def test_what_a_proposal_costs_is_what_it_is_by_hand() -> None:
    """Two of a job, one of the other, the plate from the first half day to the third; a job two half days late."""
    of = question(
        WeekTask("a1", "a", 4.0, 2, ("plate",)), WeekTask("a2", "a", 4.0), WeekTask("b1", "b", 4.0, 2, ("plate",)),
        jobs=(WeekJob("a", 1), WeekJob("b")),
    )  # fmt: skip
    by = {"a1": (0, 1, ("ann",)), "a2": (2, 3, ("ann", "bo")), "b1": (2, 3, ("cy",))}
    assert late_by(of, by) == {"a": 2}
    assert cost_of(of, by) == 2 * LATE + (3 + 3) * SOON + 3 * MOVE + 3 * SPAN == cost(of, by)


def test_orders_that_are_tried_better_the_first_and_stay_possible() -> None:
    at = [24.0 * (day + 2 * (day // 5)) + 7 + 4 * half for day in range(40) for half in range(2)]
    of = replace(large(), at=at)
    first, better = first_plan(of), better_plan(of, 5.0)
    assert first and better and all(fits(of, task, better) for task in of.tasks)
    assert cost(of, better) < cost(of, first)


def test_a_promised_job_is_first_though_many_are_asked_about() -> None:
    """Eleven jobs for four people, one of them promised: by hand its tasks take six half days."""
    tasks = [
        WeekTask(f"{job}.{n}", job, 12.0, 3, ("plate",) if n == 1 else (), (Follows(f"{job}.{n - 1}"),) if n else ())
        for job in "abcdefghijk"
        for n in range(6)
    ]
    at = [24.0 * (day + 2 * (day // 5)) + 7 + 4 * half for day in range(40) for half in range(2)]
    jobs = tuple(WeekJob(job, 6 if job == "k" else None) for job in "abcdefghijk")
    of = WeekQuestion(at, 4.0, ("ann", "bo", "cy", "di"), {"plate": 1}, jobs, tuple(tasks))
    found = solved(of, 3.0)
    assert found is not None and found.late == {"k": 0}


def test_two_of_a_machine_are_at_two_jobs_at_once() -> None:
    tasks = [WeekTask(job, job, 4.0, 1, ("plate",)) for job in "ab"]
    one, two = (solved(question(*tasks, machines={"plate": number}), 5.0) for number in (1, 2))
    assert one and two
    assert sorted(each.begins for each in one.placed) == [0, 1]
    assert [each.begins for each in two.placed] == [0, 0]


def test_jobs_nobody_promised_anything_of_are_no_reason() -> None:
    """What is late is too much by itself; the other job waits."""
    of = question(WeekTask("a", "a", 24.0, 2), WeekTask("b", "b", 8.0, 2), jobs=(WeekJob("a", 2), WeekJob("b")))
    held = why_late(of, "a", {"a": 1})
    assert held is not None and held.reasons == () and held.is_least
    promised = replace(of, jobs=(WeekJob("a", 3), WeekJob("b", 1)))
    both = why_late(promised, "a", {"a": 1, "b": 0})
    assert both is not None and both.reasons == (("job", "b"),)


@pytest.mark.long
def test_ten_jobs_four_people_five_machines_three_weeks() -> None:
    """Within its time, with the gap that is left; nothing overlaps."""
    of = large()
    told: list[float] = []
    found = solved(of, 8.0, lambda share, _gap: bool(told.append(share)))
    assert found is not None and 0 <= found.gap <= 1 and told and max(told) <= 1
    by = {each.task: (each.begins, each.ends, each.people) for each in found.placed}
    assert all(fits(of, task, by) for task in of.tasks)
    stopped = solved(of, 30.0, lambda _share, _gap: True)
    assert stopped is not None and stopped.stopped
