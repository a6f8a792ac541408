"""Costs: the estimate by stage, kept in versions, against what was spent since; two ways of building side by side.
Only whoever may see money comes here."""

import json
from dataclasses import dataclass, replace
from datetime import date, timedelta
from decimal import Decimal
from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import get_language
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from groundwork.assess import Assessment, assess
from groundwork.layouts import pattern_options, start_side, usual_unit
from groundwork.laywork import LayoutChosen
from groundwork.measures import Measured
from groundwork.money import Against, Estimate, PriceBook, estimate_data
from groundwork.pattern import pattern_keys
from groundwork.schools import school, schools
from groundwork.soundness import advise, completed
from nivelum.crews.policy import Verb
from nivelum.crews.requests import Request
from nivelum.exchange.printed import pdf_answer
from nivelum.jobs.access import Visit, job_view
from nivelum.jobs.lessons import paces_of
from nivelum.jobs.services import Snapshot, snapshot
from nivelum.laying.kinds import pattern_words
from nivelum.money.models import KeptEstimate, MoneyTerms
from nivelum.money.services import Plan, against_now, book_of, estimate_now, keep_estimate, plan_of, terms_of
from nivelum.money.shown import money, shown, stage_title, versions
from nivelum.orders.forms import DayField
from nivelum.orders.screens import order_screen
from nivelum.workshop.printing import Sheet, page_font, printed
from nivelum.workshop.shelf import PRINTED

MOST_LAID = 20_000
"""Units that are laid while somebody waits; patterns of more are not compared."""


class EstimateForm(forms.Form):
    """What an estimate is kept as, and when the work is thought to begin."""

    name = forms.CharField(max_length=60, required=False)
    begins = DayField()


@dataclass(frozen=True)
class CostsNow:
    """A job's estimate as it is now, with what it was reckoned from."""

    plan: Plan
    book: PriceBook
    terms: MoneyTerms
    begins: date
    estimate: Estimate


def _reckoned(visit: Visit, assessment: Assessment, begins: date) -> CostsNow:
    terms, book = terms_of(visit.job.crew), book_of(visit.job.crew)
    plan = plan_of(assessment, paces_of(visit.job), terms, begins)
    return CostsNow(plan, book, terms, begins, estimate_now(assessment, plan, book, terms, timezone.localdate()))


def _begins(job_id: Any) -> date:
    """The day the newest estimate was kept for, else tomorrow."""
    kept = KeptEstimate.objects.filter(job=job_id).values_list("begins", flat=True).first()
    return kept or timezone.localdate() + timedelta(days=1)


def _against(of: Against, currency: str, digits: int) -> dict[str, Any]:
    def said(amount: Decimal) -> str:
        return money(amount, currency, digits)

    return {
        "stages": [
            {"title": stage_title(s.stage), "estimated": said(s.estimated), "spent": said(s.spent),
             "to_come": said(s.to_come), "over": said(s.over), "is_over": s.over > 0}
            for s in of.stages
        ],
        "estimated": said(of.estimated), "spent": said(of.spent), "to_come": said(of.to_come),
        "end": said(of.at_the_end), "over": said(of.over), "is_over": of.over > 0, "is_under": of.over < 0,
        "by": said(abs(of.over)), "left": said(of.contingency_left), "is_eaten": of.over > of.contingency,
    }  # fmt: skip


def _costs(visit: Visit, shot: Snapshot, form: EstimateForm | None = None) -> dict[str, Any]:
    now = _reckoned(visit, shot.assessment, _begins(visit.job.id))
    kept = versions(visit.job)
    then = kept[0]["kept"].estimate if kept else None
    if then and then.terms.currency != now.terms.currency:
        then = None  # sums of two currencies are not held against each other
    spent = against_now(shot, then, now.plan, now.book, now.terms, timezone.localdate()) if then else None
    digits = now.terms.terms.digits
    last = now.plan.days[-1].last if now.plan.days else now.begins
    return order_screen(visit, shot, "costs") | {
        "estimate_shown": lambda: shown(now.estimate, visit.job.crew.unit),
        "estimate_key": f"{hash(now.estimate.lines)} {now.estimate.terms} {now.estimate.on}",
        "is_short": bool(now.estimate.unpriced), "total": money(now.estimate.total, now.terms.currency, digits),
        "versions": kept, "begins": now.begins, "ends": last,
        "hours": sum(now.plan.hours.values()),
        "against": _against(spent, now.terms.currency, digits) if spent else None,
        "same": bool(kept) and kept[0]["kept"].estimate.lines == now.estimate.lines,
        "keep_form": form or EstimateForm(initial={"begins": now.begins.isoformat()}),
    }  # fmt: skip


@require_GET
@job_view(Verb.SEE_MONEY)
def costs(request: Request, visit: Visit) -> HttpResponse:
    """The estimate by stage, its versions, then against now."""
    return render(request, "orders/costs.html", _costs(visit, snapshot(visit.job)))


@require_GET
@job_view(Verb.SEE_MONEY)
def costs_now(request: Request, visit: Visit) -> HttpResponse:
    """What others have changed."""
    return render(request, "orders/costs_now.html", _costs(visit, snapshot(visit.job)))


@require_POST
@job_view(Verb.SEE_MONEY)
def keep(request: Request, visit: Visit) -> HttpResponse:
    """Keeps the estimate as the next version."""
    shot, form = snapshot(visit.job), EstimateForm(request.POST)
    if not form.is_valid():
        return render(request, "orders/costs.html", _costs(visit, shot, form), status=422)
    begins = form.cleaned_data["begins"]
    of = _reckoned(visit, shot.assessment, begins)
    kept = keep_estimate(
        visit.job, of.estimate, of.plan, begins, shot.number, visit.person, form.cleaned_data["name"]
    )
    messages.success(request, _("Kept as version {n}.").format(n=kept.number))
    return redirect("costs", job_id=visit.job.id)


def _version(visit: Visit, number: str) -> KeptEstimate | None:
    if not (number.isascii() and number.isdecimal() and len(number) < 6):
        return None
    return KeptEstimate.objects.filter(job=visit.job, number=int(number)).first()


@require_GET
@job_view(Verb.SEE_MONEY)
def estimate_pdf(request: Request, visit: Visit) -> HttpResponse:
    """A version of the estimate as a sheet; as it is now where none is named."""
    shot, unit = snapshot(visit.job), visit.job.crew.unit
    number = request.GET.get("version", "")
    kept = (
        KeptEstimate.objects.filter(job=visit.job, number=int(number)).first()
        if number.isdecimal() and len(number) < 6
        else None
    )
    begins = kept.begins if kept else _begins(visit.job.id)
    now = None if kept else _reckoned(visit, shot.assessment, begins)
    of = kept.estimate if kept else now.estimate  # type: ignore[union-attr] # one of them is there
    whose = json.dumps([str(visit.job.id), "estimate", number if kept else ""])
    state = json.dumps([estimate_data(of), str(begins), visit.job.crew.rod, visit.job.crew.region, get_language()])
    begun = request.GET.get("begun", "")

    def sheet() -> Sheet:
        context = {"job": visit.job, "kept": kept, "shown": shown(of, unit), "begins": begins, "font": page_font()}
        return Sheet(render_to_string("orders/estimate_print.html", context))

    return pdf_answer(
        request, visit.job, reverse("costs", args=[visit.job.id]), "estimate",
        lambda: (begun and PRINTED.again(whose, begun)) or PRINTED.get(whose, state, sheet, printed),
    )  # fmt: skip


@dataclass(frozen=True)
class Beside:
    """One way of building it, beside another: what it comes to, hours, days, by kind of cost."""

    title: str
    total: str
    costs: list[tuple[str, str]]
    hours: float
    days: int
    unpriced: list[str]
    amount: Decimal


def _beside(visit: Visit, title: str, assessment: Assessment) -> Beside:
    of = _reckoned(visit, assessment, _begins(visit.job.id))
    said = shown(of.estimate, visit.job.crew.unit)
    days = (of.plan.days[-1].last - of.begins).days + 1 if of.plan.days else 0
    hours = sum(of.plan.hours.values())
    return Beside(title, said.total, said.costs, hours, days, said.unpriced, of.estimate.total)


def _with_school(shot: Snapshot, key: str) -> Assessment:
    job = shot.assessment.job
    return assess(replace(job, specification=completed(job, school(key)), entries=()))


def _with_pattern(shot: Snapshot, key: str) -> Assessment:
    """The job as designed, paved in a pattern of its own units, or of the usual ones."""
    job = shot.assessment.job
    known = shot.assessment.laying.chosen
    unit = known.unit if known else usual_unit(job)
    sides = [Measured(f"{side * 1000:g}", side) for side in (unit.length, unit.width, unit.joint)]
    side = known.side if known and known.side < len(job.outline) else start_side(job)
    return assess(replace(job, entries=(LayoutChosen("beside", key, sides[0], sides[1], sides[2], side),)))


@require_GET
@job_view(Verb.SEE_MONEY)
def compare(request: Request, visit: Visit) -> HttpResponse:
    """Two bases, or two patterns, in money, hours and days."""
    shot = snapshot(visit.job)
    job = shot.assessment.job
    bases = {key: _(each.title) for key, each in schools().items()}
    unit = shot.assessment.laying.chosen.unit if shot.assessment.laying.chosen else usual_unit(job)
    lays = shot.assessment.laying.is_there and job.area.area / unit.area <= MOST_LAID
    fit = [option.pattern.key for option in pattern_options(job, unit)] if lays else []
    patterns = {key: pattern_words(key) for key in fit if key in pattern_keys()}
    asked = [request.GET.get(name, "") for name in ("one", "other")]
    found: list[Beside] = []
    if asked[0] != asked[1] and all(key in bases for key in asked):
        found = [_beside(visit, bases[key], _with_school(shot, key)) for key in asked]
    elif asked[0] != asked[1] and all(key in patterns for key in asked):
        found = [_beside(visit, patterns[key], _with_pattern(shot, key)) for key in asked]
    apart = None
    if found:
        terms = terms_of(visit.job.crew).terms
        less = min(found, key=lambda each: each.amount)
        apart = (less.title, money(abs(found[0].amount - found[1].amount), terms.currency, terms.digits))
    school_now = shot.assessment.case.school.key
    return render(request, "orders/compare.html", order_screen(visit, shot, "costs") | {
        "bases": bases.items(), "patterns": patterns.items(), "asked": asked, "beside": found, "apart": apart,
        "school_now": school_now, "best_other": next(a.school.key for a in advise(job) if a.school.key != school_now),
        "same": bool(asked[0]) and asked[0] == asked[1],
    })  # fmt: skip
