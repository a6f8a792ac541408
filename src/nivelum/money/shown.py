"""Money as it is shown: formatted as the reader's language and the crew's currency have it."""

from dataclasses import dataclass
from datetime import date
from decimal import Decimal
from typing import Any

from babel.core import UnknownLocaleError
from babel.numbers import format_currency, format_decimal
from django.utils.translation import get_language, gettext
from django.utils.translation import gettext_lazy as _

from groundwork.costing import CREW, DAY, DRIVER, HOUR
from groundwork.measures import Unit
from groundwork.money import Cost, Estimate, Item, Line
from groundwork.schools import stagebook
from nivelum.jobs.models import Job
from nivelum.money.models import KeptEstimate
from nivelum.money.things import WAYS, thing

COSTS = {
    Cost.MATERIAL: _("Materials"), Cost.LABOUR: _("Hours"), Cost.HIRE: _("Hire"),
    Cost.DISPOSAL: _("Taken away"),
}  # fmt: skip
PEOPLE = {CREW: _("crew"), DRIVER: _("driver of the excavator")}
HIRED = {
    "excavator": _("small excavator and dumper"), "plate": _("plate"), "mixer": _("mixer"), "saw": _("saw"),
    "locator": _("service locator"),
}  # fmt: skip
TIMES = {HOUR: (_("{n} hour"), _("{n} hours")), DAY: (_("{n} day"), _("{n} days"))}


def _locale() -> str:
    return (
        (get_language() or "en").replace("-", "_").replace("_gb", "_GB").replace("_us", "_US").replace("_au", "_AU")
    )


def money(amount: Decimal, currency: str, digits: int = 2) -> str:
    """An amount in its currency, with as many digits as it is reckoned in."""
    shown = "¤#,##0" + ("." + "0" * digits if digits else "")
    sign = "−" if amount < 0 else ""
    try:
        return sign + format_currency(abs(amount), currency, shown, locale=_locale(), currency_digits=False)
    except UnknownLocaleError:
        return f"{sign}{currency} {abs(amount)}"


def called(cost: Cost, what: str, unit: Unit) -> str:
    """What is paid for, by its name."""
    if cost is Cost.LABOUR:
        return str(PEOPLE.get(what, what))
    if cost is Cost.HIRE:
        return str(HIRED.get(what, what))
    return thing(what, unit)


def counted(number: Decimal, of: str) -> str:
    """So many of what it is sold in."""
    one, more = TIMES.get(of) or WAYS.get(of) or ("{n}", "{n}")
    return str(one if number == 1 else more).format(n=format_decimal(number, "#,##0.##", locale=_locale()))


@dataclass(frozen=True)
class ShownLine:
    """A line of an estimate in words."""

    what: str
    number: str
    price: str
    sum: str


@dataclass(frozen=True)
class ShownStage:
    """A stage of it."""

    title: str
    lines: list[ShownLine]
    net: str
    contingency: str
    total: str


@dataclass(frozen=True)
class ShownEstimate:
    """An estimate in words and figures."""

    stages: list[ShownStage]
    costs: list[tuple[str, str]]
    net: str
    contingency: str
    contingency_share: Decimal
    before_tax: str
    tax: str
    tax_share: Decimal
    total: str
    unpriced: list[str]
    on: date


def shown_item(item: Item, unit: Unit) -> tuple[str, str]:
    """What is paid for and how much of it."""
    return called(item.cost, item.what, unit), counted(item.number, item.unit)


def _line(line: Line, of: Estimate, unit: Unit) -> ShownLine:
    what, number = shown_item(line.item, unit)
    if line.price is None or line.sum is None:
        return ShownLine(what, number, "—", gettext("no price yet"))
    digits = max(of.terms.digits, -int(line.price.normalize().as_tuple().exponent))
    price = money(line.price, of.terms.currency, digits)
    return ShownLine(what, number, price, money(line.sum, of.terms.currency, of.terms.digits))


def stage_title(key: str) -> str:
    """A stage by its name; its key where no school has it any more."""
    known = stagebook().get(key)
    return gettext(known.title) if known else key


def shown(of: Estimate, unit: Unit) -> ShownEstimate:
    """An estimate for people."""

    def said(amount: Decimal) -> str:
        return money(amount, of.terms.currency, of.terms.digits)

    stages = [
        ShownStage(stage_title(each.stage), [_line(line, of, unit) for line in each.lines], said(each.net),
                   said(each.contingency), said(each.total))
        for each in of.stages
    ]  # fmt: skip
    unpriced = list(dict.fromkeys(called(x.item.cost, x.item.what, unit) for x in of.unpriced))
    costs = [(str(words), said(of.of(cost))) for cost, words in COSTS.items()]
    return ShownEstimate(
        stages, costs, said(of.net), said(of.contingency), of.terms.contingency, said(of.before_tax), said(of.tax),
        of.terms.tax, said(of.total), unpriced, of.on,
    )  # fmt: skip


def newest_estimate(job: Job) -> ShownEstimate | None:
    """The newest that was kept of a job; None where none was. One query."""
    kept = KeptEstimate.objects.filter(job=job).first()
    return shown(kept.estimate, job.crew.unit) if kept else None


def versions(job: Job) -> list[dict[str, Any]]:
    """Every estimate that was kept, newest first, with what it came to; one query."""
    found = []
    for kept in KeptEstimate.objects.filter(job=job):
        data = kept.data
        total = money(Decimal(data["comes_to"]["total"]), data["currency"], data["digits"])
        found.append({"kept": kept, "total": total, "hours": sum(kept.hours.values())})
    return found
