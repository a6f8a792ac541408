"""The verbs of money: what a job comes to by its crew's prices and pace, kept, and held against what was spent."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from groundwork.assess import Assessment
from groundwork.costing import Spent, hires, hours, lines_to_come, materials, spent_lines
from groundwork.labour import Hire, StageDays, Task, hired, planned_days
from groundwork.money import Against, Estimate, PriceBook, against, estimate_data, estimated
from nivelum.crews.models import Crew, Person
from nivelum.jobs.lessons import hours_so_far
from nivelum.jobs.models import Job
from nivelum.jobs.services import Snapshot, lock
from nivelum.money.models import KeptEstimate, MoneyTerms, PriceSet


def terms_of(crew: Crew) -> MoneyTerms:
    """How a crew reckons; as one that has said nothing does. One query."""
    return MoneyTerms.objects.filter(crew=crew).first() or MoneyTerms(crew=crew)


def book_of(crew: Crew) -> PriceBook:
    """A crew's prices; one query."""
    return PriceBook(each.price for each in PriceSet.objects.filter(crew=crew))


@dataclass(frozen=True)
class Plan:
    """A job's work at a crew's pace: its tasks, the days of its stages, what is hired for them."""

    tasks: tuple[Task, ...]
    days: tuple[StageDays, ...]
    hires: tuple[Hire, ...]

    @property
    def hours(self) -> dict[str, float]:
        """Person-hours by stage."""
        found: dict[str, float] = {}
        for task in self.tasks:
            found[task.stage] = found.get(task.stage, 0.0) + task.hours
        return found


def plan_of(assessment: Assessment, paces: Mapping[str, float], terms: MoneyTerms, begins: date) -> Plan:
    """Stage after stage from the day it begins."""
    labour = assessment.labour
    tasks = labour.tasks(paces)
    whole = Plan(tasks, (), ())
    days = planned_days(whole.hours, begins, terms.people, float(terms.hours_a_day), terms.days_off)
    return Plan(tasks, days, hired(labour.kit, days))


def hired_at(assessment: Assessment) -> dict[str, str]:
    """The stage each thing on hire is first for."""
    found: dict[str, str] = {}
    for item in assessment.labour.kit:
        if item.hire and item.stage != "set-out":
            found.setdefault(item.hire, item.stage)
    return found


def estimate_now(assessment: Assessment, plan: Plan, book: PriceBook, terms: MoneyTerms, on: date) -> Estimate:
    """What it comes to by the prices of a day."""
    metric = assessment.job.unit.is_metric
    items = [
        *materials(assessment.orders.supplies, book, on, metric=metric), *hours(plan.tasks),
        *hires(plan.hires, hired_at(assessment)),
    ]  # fmt: skip
    stages = {stage: n for n, stage in enumerate(assessment.stages.steps)}
    items.sort(key=lambda item: (stages.get(item.stage, 99), list(type(item.cost)).index(item.cost)))
    return estimated(items, book, terms.terms, on)


def against_now(
    shot: Snapshot, then: Estimate, plan: Plan, book: PriceBook, terms: MoneyTerms, today: date
) -> Against:
    """What was spent so far and what is to come still, against an estimate."""
    assessment = shot.assessment
    metric = assessment.job.unit.is_metric
    of = Spent(
        assessment.orders.supplies, hours_so_far(shot), assessment.labour.ran, assessment.labour.on_hire,
        hired_at(assessment),
    )  # fmt: skip
    ended = frozenset(answer.stage.key for answer in assessment.stages.line if answer.gate.is_signed)
    spent = spent_lines(of, book, terms.terms, today, metric=metric)
    left = lines_to_come(of, plan.tasks, plan.hires, ended, book, terms.terms, today, metric=metric)
    return against(then, list(spent), list(left))


@transaction.atomic
def keep_estimate(
    job: Job, of: Estimate, plan: Plan, begins: date, at_entry: int, person: Person, name: str
) -> KeptEstimate:
    """Keeps an estimate as the job's next version; the newest where that says the same."""
    lock(job)
    newest, data = KeptEstimate.objects.filter(job=job).first(), estimate_data(of)
    if newest and (newest.data, newest.begins, newest.name) == (data, begins, name):
        return newest  # pressed twice
    rounded = {stage: round(each, 2) for stage, each in plan.hours.items()}
    return KeptEstimate.objects.create(
        job=job, number=newest.number + 1 if newest else 1, name=name, at_entry=at_entry, begins=begins, data=data,
        hours=rounded,
        made_by=person.name,
    )  # fmt: skip


def set_price(crew: Crew, person: Person, cost: str, what: str, unit: str, amount: Decimal, since: date) -> PriceSet:
    """Sets a price from a day on; one of the same day gives way."""
    found, _made = PriceSet.objects.update_or_create(
        crew=crew, cost=cost, what=what, unit=unit, since=since, defaults={"amount": amount, "set_by": person.name}
    )
    return found


def today() -> date:
    """By the clock on site."""
    return timezone.localdate()
