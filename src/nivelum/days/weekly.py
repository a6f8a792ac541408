"""What the crew's week is asked of: what is left on its jobs, who is there, the machines, the weather; and what was
made of it, kept."""

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from datetime import date, datetime, time, timedelta
from typing import Any

from django.db.models import Max
from django.utils import timezone

from groundwork.outdoors import Says, limits_of, worked_hours
from groundwork.programme import PlanTask, WorkingTime, tasks_left
from groundwork.week import MOST_SLOTS, Follows, WeekJob, WeekQuestion, WeekTask
from nivelum.crews.models import Crew, CrewRole, Person
from nivelum.days.models import KeptWeek, WeekSaid
from nivelum.days.plans import DaysNow, moved_of, promised_of
from nivelum.days.words import task_words
from nivelum.jobs.lessons import hours_so_far, paces_of
from nivelum.jobs.models import Job
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.weather.models import DayOff
from nivelum.weather.services import days_off, newest, weather_of, work_terms, working_time

WEEKS, HALVES = 3, 2
"""Weeks that are shown; halves of a day."""
LONGEST = 400
ROOM, AT_LEAST = 1.5, 10
"""By how much more half days than the work fills are looked at, and so many besides."""
MOST_JOBS = 12
"""Jobs of a crew that are asked about: those somebody was last on."""
TOGETHER = 8.0
"""Person-hours of tasks one after the other that are one: half a day of two."""
WORKS = frozenset({CrewRole.LEAD.value, CrewRole.CREW.value})


Closed = dict[tuple[str, float], frozenset[int]]
"""Half days on which a work waits, by the work and how long it has to stay dry: worked out once for all jobs."""


@dataclass(frozen=True)
class HalfDay:
    """A half of a working day: the first or the second, and when it begins, by the clock on site."""

    on: date
    half: int
    begins: datetime


@dataclass(frozen=True)
class AskedWeek:
    """A crew's week as it is asked of the solver, and what is called what."""

    question: WeekQuestion
    halves: tuple[HalfDay, ...]
    titles: Mapping[str, str]
    jobs: Mapping[str, str]
    people: Mapping[str, str]

    @property
    def digest(self) -> str:
        """Of all that is asked: the same is answered once."""
        return hashlib.sha256(repr((self.question, self.halves)).encode()).hexdigest()


def half_days(now: datetime, working: WorkingTime) -> tuple[HalfDay, ...]:
    """The halves of working days from the next one that has not begun, as many as are looked at."""
    found, day, last = list[HalfDay](), now.date(), now.date() + timedelta(days=LONGEST)
    while day < last and len(found) < MOST_SLOTS:
        if working.works(day):
            for half in range(HALVES):
                begins = working.opens(day) + timedelta(hours=half * working.hours / HALVES)
                if begins >= now - timedelta(minutes=30):
                    found.append(HalfDay(day, half, begins))
        day += timedelta(days=1)
    return tuple(found[:MOST_SLOTS])


def in_hand(crew: Crew) -> list[Job]:
    """A crew's jobs that are not handed over, those somebody was last on, by name; one query."""
    rows = Job.objects.filter(crew=crew).exclude(summary__is_finished=True).select_related("crew")
    newest = rows.annotate(last=Max("entries__at")).order_by("-last")[:MOST_JOBS]
    return sorted(newest, key=lambda job: job.name)


def workers(crew: Crew) -> list[Person]:
    """Whoever works on site; one query."""
    return list(Person.objects.filter(memberships__crew=crew, memberships__role__in=WORKS).order_by("name"))


def asked_week(crew: Crew, now: datetime) -> AskedWeek:
    """A crew's week, to be asked. A handful of queries, and one a job."""
    weather = weather_of(crew)
    off = days_off(crew)
    working = working_time(crew, weather, off)
    kept = newest(crew)
    terms = work_terms(crew, weather, working)
    halves, people = half_days(now, working), workers(crew)
    said = list(WeekSaid.objects.filter(crew=crew).select_related("person"))
    tasks, titles, jobs, named = list[WeekTask](), dict[str, str](), list[WeekJob](), dict[str, str]()
    closed = Closed()
    for job in in_hand(crew):
        shot = snapshot(job)
        of = DaysNow(now, kept, weather, working, terms, paces_of(job))
        mine, words = _tasks_of(
            shot, of, halves, [each for each in said if each.job_id == job.pk], len(people), closed
        )
        if mine:
            tasks += mine
            titles |= words
            named[str(job.pk)] = job.name
            jobs.append(WeekJob(str(job.pk), _due(shot, halves)))
    machines = {machine: weather.count(machine) for task in tasks for machine in task.machines}
    halves = halves[: _slots(tasks, halves, max(len(people), 1) * working.hours / HALVES, now)]
    first = datetime.combine(now.date(), time())
    question = WeekQuestion(
        tuple((half.begins - first) / timedelta(hours=1) for half in halves), working.hours / HALVES,
        tuple(str(person.pk) for person in people), machines, tuple(jobs), tuple(tasks), _off(off, halves, people),
    )  # fmt: skip
    return AskedWeek(question, halves, titles, named, {str(person.pk): person.name for person in people})


def _slots(tasks: Iterable[WeekTask], halves: tuple[HalfDay, ...], a_half: float, now: datetime) -> int:
    """How many half days are looked at: three weeks, or as many as all the work may take, and what is put off."""
    work = sum(task.hours for task in tasks) / a_half * ROOM + AT_LEAST
    waits = sum(before.hours for task in tasks for before in task.after) / 24 * HALVES / 4
    off = max((task.from_slot for task in tasks), default=0)
    shown = sum(half.begins < now + timedelta(weeks=WEEKS) for half in halves)
    return min(max(shown, round(work + waits + off)), len(halves))


def _due(shot: Snapshot, halves: Iterable[HalfDay]) -> int | None:
    promised = promised_of(shot.assessment)
    if promised is None or promised.day is None:
        return None
    return sum(half.on <= promised.day for half in halves)


def _off(rows: Iterable[DayOff], halves: tuple[HalfDay, ...], people: Iterable[Person]) -> dict[str, frozenset[int]]:
    days: dict[int, set[date]] = {}
    for each in rows:
        if each.person_id is not None:
            days.setdefault(each.person_id, set()).add(each.on)
    return {
        str(person.pk): frozenset(n for n, half in enumerate(halves) if half.on in days[person.pk])
        for person in people
        if person.pk in days
    }


def _tasks_of(
    shot: Snapshot, of: DaysNow, halves: tuple[HalfDay, ...], said: list[WeekSaid], people: int, closed: Closed
) -> tuple[list[WeekTask], dict[str, str]]:
    """A job's tasks, small ones together; what each is called."""
    there, unit = shot.assessment, shot.job.crew.unit
    left = tasks_left(there, of.paces, hours_so_far(shot), of.terms.people * of.working.hours, of.now)
    moved = moved_of(there)
    groups = list[list[PlanTask]]()
    for task in left:
        apart = task.sets or task.key in moved or task.stage in moved or any(each.task == task.key for each in said)
        if groups and not apart and sum(each.person_hours for each in groups[-1]) + task.person_hours <= TOGETHER:
            groups[-1].append(task)
        else:
            groups.append([task])
    found, words, ends = list[WeekTask](), dict[str, str](), dict[str, str]()
    for group in groups:
        first = group[0]
        key = f"{shot.job.pk}|{first.key}"
        ends |= {task.key: key for task in group}
        after = [Follows(found[-1].key)] if found else []
        from_slot = _from(halves, moved.get(first.key) or moved.get(first.stage))
        for each in first.sets:
            hours = (each.matures if each.left is None else each.left) / max(of.usual_celsius - each.datum, 1.0)
            if each.after in ends:
                after.append(Follows(ends[each.after], hours))
            else:
                ready = of.now + timedelta(hours=hours)
                from_slot = max(from_slot, sum(half.begins < ready for half in halves))
        if from_slot >= len(halves):
            break  # put off beyond all that is looked at, with what comes after it
        made = WeekTask(
            key, str(shot.job.pk), sum(each.person_hours for each in group), min(people, of.terms.people) or 1,
            tuple(dict.fromkeys(machine for each in group for machine in each.machines)), tuple(after),
            frozenset().union(*(_closed(each, of, halves, closed) for each in group)), from_slot,
        )  # fmt: skip
        found.append(_as_said(made, [each for each in said if each.task == first.key], halves))
        titles = [task_words(each, unit) for each in group]
        words[key] = titles[0] if len(titles) == 1 else f"{titles[0]} – {titles[-1]}"
    return found, words


def _from(halves: tuple[HalfDay, ...], moved: Any) -> int:
    return sum(half.on < moved.not_before for half in halves) if moved else 0


def _closed(task: PlanTask, of: DaysNow, halves: tuple[HalfDay, ...], known: Closed) -> frozenset[int]:
    """Half days on which a task waits for most of the time, by the forecast."""
    if of.forecast is None:
        return frozenset()
    if (of_work := (str(task.work), task.dry_for)) in known:
        return known[of_work]
    limits, found = limits_of(of.weather.limits), set[int]()
    for n, half in enumerate(halves):
        if half.begins >= of.forecast.ends:
            break
        until = half.begins + timedelta(hours=of.working.hours / HALVES)
        hours = worked_hours(task.work, of.forecast, half.begins, until, limits, task.dry_for)
        if hours and sum(each.says is Says.WAIT for each in hours) > len(hours) / 2:
            found.add(n)
    known[of_work] = frozenset(found)
    return known[of_work]


def _as_said(task: WeekTask, said: list[WeekSaid], halves: tuple[HalfDay, ...]) -> WeekTask:
    """With what somebody fixed of it; a half day that has gone by says nothing any more."""
    people = frozenset(str(each.person_id) for each in said if each.person_id)
    begins = next(
        (n for each in said if each.on for n, half in enumerate(halves) if (half.on, half.half) == (each.on,
        each.half)),
        None,
    )  # fmt: skip
    return replace(task, people=people, begins=begins)


def told_of(asked: AskedWeek) -> dict[str, Any]:
    """What is called what in an asked week, as JSON values: it goes along with the question and comes back with its
    answer, however long that takes."""
    return {
        "digest": asked.digest, "titles": dict(asked.titles), "jobs": dict(asked.jobs), "people": dict(asked.people),
        "halves": [[half.on.isoformat(), half.half] for half in asked.halves],
        "due": {job.key: job.due for job in asked.question.jobs},
        "machines": {task.key: list(task.machines) for task in asked.question.tasks},
    }  # fmt: skip


def keep_week(crew: Crew, made: bytes, by: str) -> KeptWeek | None:
    """Keeps what the solver made of a week; the same once. None where it made none."""
    data = json.loads(made)
    told = data["told"]
    if not data["placed"] and told["titles"]:
        return None
    last = KeptWeek.objects.filter(crew=crew).first()
    if last and last.digest == told["digest"]:
        return last
    placed = [
        {"task": each["task"], "job": (job := each["task"].partition("|")[0]), "title": told["titles"][each["task"]],
         "job_name": told["jobs"][job], "halves": told["halves"][each["begins"] : each["ends"]],
         "people": [[who, told["people"][who]] for who in each["people"]], "machines": told["machines"][each["task"]]}
        for each in data["placed"]
    ]  # fmt: skip
    jobs = [_kept_job(key, name, data, told) for key, name in told["jobs"].items()]
    return KeptWeek.objects.create(
        crew=crew, asked_by=by, digest=told["digest"], made_at=timezone.now(),
        data={"placed": placed, "jobs": jobs, "gap": data["gap"], "stopped": data["stopped"],
        "halves": told["halves"]},
    )  # fmt: skip


def _kept_job(key: str, name: str, data: dict[str, Any], told: dict[str, Any]) -> dict[str, Any]:
    held = data["why"].get(key)
    names = told["jobs"] | told["people"]
    return {
        "job": key, "name": name, "late": data["late"].get(key), "due": told["due"][key] is not None,
        "why": [[what, names.get(which, which)] for what, which in held["reasons"]] if held else [],
        "is_least": held["is_least"] if held else True, "asked_why": held is not None,
    }  # fmt: skip
