"""Money and orders of the demo: a crew's made-up prices, what was ordered for a job and came, an estimate kept."""

import uuid
from collections.abc import Mapping
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django.utils import timezone

from groundwork import orderwork as o
from groundwork.layerwork import Delivered
from groundwork.orders import ways_to_order
from nivelum.crews.models import Crew, Person
from nivelum.jobs.lessons import paces_of
from nivelum.jobs.models import Job
from nivelum.jobs.services import Author, append_value, snapshot
from nivelum.money.models import MoneyTerms
from nivelum.money.services import book_of, estimate_now, keep_estimate, plan_of, set_price, terms_of


def price_for(crew: Crew, person: Person, data: Mapping[str, Any]) -> None:
    """A crew's terms, and its prices since a while ago: cost, thing, unit, amount."""
    terms = data["terms"]
    MoneyTerms.objects.create(
        crew=crew, currency=terms["currency"], contingency=Decimal(terms["contingency"]), tax=Decimal(terms["tax"]),
        people=terms["people"],
    )  # fmt: skip
    since = timezone.localdate() - timedelta(days=data["since_days_ago"])
    for cost, what, unit, amount in data["prices"]:
        set_price(crew, person, cost, what, unit, Decimal(amount), since)


def order_for(job: Job, people: Mapping[str, Person], data: Mapping[str, Any]) -> None:
    """An estimate, then what was ordered for a job, promised and come, hours, what is on hire."""
    today = timezone.localdate()
    if by := data.get("estimate_by"):
        _estimate(job, people[by], today)
    metric = job.crew.unit.is_metric
    for row in data.get("orders", ()):
        author = Author(people[row["by"]])
        way = {w.key: w for w in ways_to_order(o.Measure(row["measure"]), metric=metric)}[row["way"]]
        made = o.OrderMade(
            str(uuid.uuid4()), row["what"], way.measure, way.key, way.holds, row["number"],
            today + timedelta(days=row["wanted_in"]), row["supplier"],
        )  # fmt: skip
        append_value(job, made, author)
        if "promised_in" in row:
            day = today + timedelta(days=row["promised_in"])
            append_value(job, o.OrderMoved(str(uuid.uuid4()), made.id, o.OrderState.PROMISED, day), author)
        for ticket, number in row.get("came", ()):
            come = str(uuid.uuid4())
            if row.get("by_weight"):
                append_value(job, Delivered(come, ticket, made.what, number * way.holds, order=made.id), author)
            else:
                append_value(job, o.OrderCome(come, made.id, number, ticket), author)
    for row in data.get("hours", ()):
        day = today - timedelta(days=row["days_ago"])
        worked = o.HoursWorked(
            str(uuid.uuid4()), row["stage"], day, row["people"], row["hours"], row.get("machine", 0.0)
        )
        append_value(job, worked, Author(people[row["by"]]))
    for row in data.get("hired", ()):
        first = today - timedelta(days=row["days_ago"])
        append_value(job, o.Hired(str(uuid.uuid4()), row["what"], first), Author(people[row["by"]]))


def _estimate(job: Job, person: Person, begins: date) -> None:
    shot, terms = snapshot(job), terms_of(job.crew)
    plan = plan_of(shot.assessment, paces_of(job), terms, begins)
    estimate = estimate_now(shot.assessment, plan, book_of(job.crew), terms, begins)
    keep_estimate(job, estimate, plan, begins, shot.number, person, "")
