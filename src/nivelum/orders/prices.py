"""The crew's price book: what things cost from which day on, and how the crew reckons."""

from collections.abc import Mapping
from decimal import Decimal
from typing import Any
from uuid import UUID

from django import forms
from django.contrib import messages
from django.core.exceptions import ValidationError
from django.db.models import Max
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.views.decorators.http import require_http_methods

from groundwork.costing import CREW, DAY, DRIVER, HOUR
from groundwork.labour import rates
from groundwork.measures import Said, Unit, in_words
from groundwork.money import Cost, read_amount
from groundwork.orders import ways_to_order
from groundwork.orderwork import Measure
from nivelum.crews.log import noted
from nivelum.crews.models import Crew, Deed, Membership
from nivelum.crews.policy import Verb, require
from nivelum.crews.requests import Request
from nivelum.jobs.models import Job
from nivelum.jobs.services import snapshot
from nivelum.lifts.forms.amounts import AmountField
from nivelum.money.models import DIGITS, Costs, MoneyTerms, PriceSet
from nivelum.money.services import set_price, terms_of
from nivelum.money.shown import HIRED, PEOPLE, called, money
from nivelum.money.things import thing, way_words
from nivelum.orders.forms import DayField

DAYS = [(n, words) for n, words in enumerate((
    gettext_lazy("Monday"), gettext_lazy("Tuesday"), gettext_lazy("Wednesday"), gettext_lazy("Thursday"),
    gettext_lazy("Friday"), gettext_lazy("Saturday"), gettext_lazy("Sunday"),
))]  # fmt: skip
NEWEST_JOBS = 5
"""So many of the crew's jobs say what it buys: those something was recorded on last."""


class MoneyField(forms.CharField):
    """An amount of money; cleans to a decimal."""

    def __init__(self, digits: int, **options: Any) -> None:
        self.digits = digits
        super().__init__(max_length=20, **options)

    def clean(self, value: Any) -> Decimal | None:
        text = super().clean(value)
        if not text and not self.required:
            return None
        try:
            return read_amount(text, self.digits)
        except Said as error:
            raise ValidationError(in_words(error, Unit.METRES, _)) from error


class PriceForm(forms.Form):
    """A price from a day on."""

    since = DayField()

    def __init__(self, *arguments: Any, digits: int, things: list[tuple[str, str]], **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["thing"] = forms.ChoiceField(choices=things)
        self.fields["amount"] = MoneyField(min(digits + 1, 3))

    @property
    def key(self) -> tuple[str, str, str]:
        """Cost, what, unit."""
        cost, what, unit = self.cleaned_data["thing"].split("|")
        return cost, what, unit


class TermsForm(forms.Form):
    """How the crew reckons, shares in percent."""

    currency = forms.CharField(max_length=3)
    contingency = AmountField(1, 0, 100)
    tax = AmountField(1, 0, 100)
    people = forms.IntegerField(min_value=1, max_value=50, widget=forms.TextInput)
    hours_a_day = AmountField(1, 1, 24)
    works_on = forms.TypedMultipleChoiceField(choices=DAYS, coerce=int)

    def clean_currency(self) -> str:
        code = str(self.cleaned_data["currency"]).strip().upper()
        MoneyTerms._meta.get_field("currency").run_validators(code)
        return code


def sellable(crew: Crew) -> list[tuple[str, str]]:
    """What a price can be set for, with its unit: what the crew's newest jobs take, what has a price already, hours,
    hire."""
    unit, found = crew.unit, dict[str, str]()
    needed: dict[tuple[str, Measure], None] = {}
    newest = Job.objects.filter(crew=crew).annotate(last=Max("entries__at")).order_by("-last")
    for job in newest.select_related("crew")[:NEWEST_JOBS]:
        needed |= {(s.what, s.measure): None for s in snapshot(job).assessment.orders.supplies}
    for paid_for, what, way_key in PriceSet.objects.filter(crew=crew).values_list("cost", "what", "unit").distinct():
        if Cost(paid_for) in (Cost.MATERIAL, Cost.DISPOSAL):
            found[f"{paid_for}|{what}|{way_key}"] = f"{thing(what, unit)}: {way_words(way_key)}"
    for what, measure in sorted(needed, key=lambda key: thing(key[0], unit)):
        cost = Cost.DISPOSAL if measure is Measure.LOOSE else Cost.MATERIAL
        for way in ways_to_order(measure, metric=unit.is_metric):
            found[f"{cost}|{what}|{way.key}"] = f"{thing(what, unit)}: {way_words(way.key)}"
    found |= {f"{Cost.LABOUR}|{who}|{HOUR}": f"{PEOPLE[who]}: {_('an hour')}" for who in (CREW, DRIVER)}
    found |= {f"{Cost.HIRE}|{what}|{DAY}": f"{words}: {_('a day')}" for what, words in HIRED.items()}
    return list(found.items())


def _terms_initial(terms: MoneyTerms) -> dict[str, Any]:
    return {
        "currency": terms.currency, "contingency": f"{terms.contingency * 100:f}".rstrip("0").rstrip("."),
        "tax": f"{terms.tax * 100:f}".rstrip("0").rstrip("."), "people": terms.people,
        "hours_a_day": f"{terms.hours_a_day:f}".rstrip("0").rstrip("."), "works_on": terms.works_on or list(range(5)),
    }  # fmt: skip


@require_http_methods(["GET", "HEAD", "POST"])
def prices(request: Request, crew_id: UUID) -> HttpResponse:
    """The price book, setting a price, and how the crew reckons."""
    own = get_object_or_404(Membership.objects.select_related("crew"), crew=crew_id, person=request.user)
    require(own.role, Verb.SEE_MONEY)
    crew, terms = own.crew, terms_of(own.crew)
    with crew.in_its_words():
        things, digits = sellable(crew), DIGITS.get(terms.currency, 2)
        options: dict[str, Any] = {"digits": digits, "things": things, "auto_id": "id_p_%s"}
        form = PriceForm(initial={"since": timezone.localdate().isoformat()}, **options)
        reckons = TermsForm(initial=_terms_initial(terms), auto_id="id_t_%s")
        if request.method == "POST" and "currency" in request.POST:
            reckons = TermsForm(request.POST, auto_id="id_t_%s")
            if reckons.is_valid():
                _keep_terms(crew, terms, reckons.cleaned_data)
                noted(crew, request.user, Deed.CHANGED, detail=_("how it reckons"))
                messages.success(request, _("Saved. Estimates from now on are reckoned so."))
                return redirect("prices", crew_id=crew_id)
        elif request.method == "POST":
            form = PriceForm(request.POST, **options)
            if form.is_valid():
                cost, what, of = form.key
                data = form.cleaned_data
                set_price(crew, request.user, cost, what, of, data["amount"], data["since"])
                messages.success(request, _("Set: {thing}.").format(thing=dict(things)[data["thing"]]))
                return redirect("prices", crew_id=crew_id)
        rows = _rows(crew, terms)
        context = {
            "own": own, "form": form, "reckons": reckons, "days": DAYS, "terms": terms, "rows": rows,
            "unit": crew.unit, "rates": [(_(rate.title), rate) for rate in rates().values()],
        }  # fmt: skip
        return render(request, "orders/prices.html", context, status=422 if form.errors or reckons.errors else 200)


def _keep_terms(crew: Crew, terms: MoneyTerms, data: Mapping[str, Any]) -> None:
    terms.crew, terms.currency = crew, data["currency"]
    terms.contingency, terms.tax = (Decimal(str(round(data[name] / 100, 4))) for name in ("contingency", "tax"))
    terms.people, terms.works_on = data["people"], data["works_on"]
    terms.hours_a_day = Decimal(str(round(data["hours_a_day"], 2)))
    terms.save()


def _rows(crew: Crew, terms: MoneyTerms) -> list[dict[str, Any]]:
    """What holds today, thing by thing, with those before it and those to come."""
    found: dict[tuple[str, str, str], dict[str, Any]] = {}
    today, digits = timezone.localdate(), DIGITS.get(terms.currency, 2)
    for each in PriceSet.objects.filter(crew=crew).order_by("cost", "what", "unit", "since"):
        least = -int(each.amount.normalize().as_tuple().exponent)
        said = money(each.amount, terms.currency, max(digits, least))
        row = found.setdefault((each.cost, each.what, each.unit), {
            "cost": Costs(each.cost).label, "title": called(Cost(each.cost), each.what, crew.unit), "held": [],
            "unit": {HOUR: _("an hour"), DAY: _("a day")}.get(each.unit) or way_words(each.unit),
        })  # fmt: skip
        row["held"].append({"said": said, "since": each.since, "by": each.set_by})
        if each.since <= today or "now" not in row:
            row["now"] = row["held"][-1]
    return [row | {"others": [held for held in row["held"] if held is not row["now"]]} for row in found.values()]
