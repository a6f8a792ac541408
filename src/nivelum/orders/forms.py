"""What the Order room's forms send."""

from datetime import date
from typing import Any

from django import forms
from django.utils.translation import gettext as _

from groundwork import orderwork as o
from groundwork.layerwork import Delivered
from groundwork.measures import CUBIC_YARD, FOOT, POUND
from groundwork.orders import WayToOrder, ways_to_order
from nivelum.lifts.forms.amounts import AmountField
from nivelum.money.things import way_words
from nivelum.recording.fields import Hidden, PhotoField
from nivelum.recording.forms import EntryForm

FIRST_DAY, LAST_DAY = date(2000, 1, 1), date(2099, 12, 31)


class DayField(forms.DateField):
    """A day of this century: what is planned from it has an end."""

    def __init__(self, **options: Any) -> None:
        super().__init__(widget=forms.DateInput(attrs={"type": "date"}), **options)

    def clean(self, value: Any) -> date | None:
        day: date | None = super().clean(value)
        if day is not None and not FIRST_DAY <= day <= LAST_DAY:
            raise forms.ValidationError(_("A day of this century."))
        return day


def held_in(measure: o.Measure, *, metric: bool) -> float:
    """What people count in where they say what one holds, in the measure’s own: kilograms or pounds, metres or feet,
    m³ or cubic yards, m² or square feet."""
    if metric:
        return 1.0
    return {o.Measure.MASS: POUND, o.Measure.LENGTH: FOOT, o.Measure.AREA: FOOT**2, o.Measure.PIECES: 1.0}.get(
        measure, CUBIC_YARD
    )


class OrderForm(EntryForm):
    """So many of a way a thing is sold, wanted on a day; `newest` is that of its orders which was on the screen."""

    what = forms.CharField(max_length=80, widget=Hidden)
    measure = forms.ChoiceField(choices=[(m.value, m.value) for m in o.Measure], widget=Hidden)
    newest = forms.CharField(max_length=80, required=False, widget=Hidden)
    number = AmountField(1, 0.01, o.MOST_ORDERED)
    wanted = DayField()
    holds = AmountField(1, 0.001, 100_000, required=False)
    supplier = forms.CharField(max_length=80, required=False)
    note = forms.CharField(max_length=80, required=False)

    def __init__(self, *arguments: Any, metric: bool, measure: o.Measure | None = None, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self._metric = metric
        sent = self.data.get("measure", "")
        known = measure or (o.Measure(sent) if sent in set(o.Measure) else None)
        self._ways: dict[str, WayToOrder] = (
            {w.key: w for w in ways_to_order(known, metric=metric, asked=True)} if known else {}
        )
        self.fields["way"] = forms.ChoiceField(choices=[(key, way_words(key)) for key in self._ways])

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        way = self._ways.get(data.get("way", ""))
        if way and way.is_asked and not data.get("holds") and "holds" not in self.errors:
            self.add_error("holds", _("How many are on one? Ask who sells it."))
        return data

    def value(self) -> o.OrderMade:
        data = self.cleaned_data
        way = self._ways[data["way"]]
        holds = data["holds"] * held_in(way.measure, metric=self._metric) if data["holds"] else way.holds
        return o.OrderMade(
            str(data["entry_id"]), data["what"], way.measure, way.key, holds, data["number"], data["wanted"],
            data["supplier"].strip(), data["note"].strip(), data["newest"],
        )  # fmt: skip


class OrderMovedForm(EntryForm):
    """A day was promised for an order, that was all of it, or it is called off."""

    order = forms.UUIDField(widget=Hidden)
    state = forms.ChoiceField(choices=[(s.value, s.value) for s in o.OrderState], widget=Hidden)
    promised = DayField(required=False)

    def value(self) -> o.OrderMoved:
        data = self.cleaned_data
        return o.OrderMoved(
            str(data["entry_id"]), str(data["order"]), o.OrderState(data["state"]), data["promised"]
        )  # fmt: skip


class OrderComeForm(EntryForm):
    """So many of an order came, by count."""

    order = forms.UUIDField(widget=Hidden)
    number = AmountField(1, 0.01, o.MOST_ORDERED)
    ticket = forms.CharField(max_length=80, required=False)
    photo = PhotoField(required=False)

    def value(self) -> o.OrderCome:
        data = self.cleaned_data
        photo = data["photo"].hash if data["photo"] else ""
        return o.OrderCome(str(data["entry_id"]), str(data["order"]), data["number"], data["ticket"].strip(), photo)


class TicketForm(EntryForm):
    """A ticket of an order by weight, in what it is ordered in: the same ticket the base is held against."""

    order = forms.UUIDField(widget=Hidden)
    number = AmountField(1, 0.001, 10_000)
    ticket = forms.CharField(max_length=40)
    photo = PhotoField(required=False)

    def __init__(self, *arguments: Any, made: o.OrderMade, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self._made = made

    def clean_number(self) -> float:
        number: float = self.cleaned_data["number"]
        if number * self._made.holds > MOST_ON_A_TICKET:
            raise forms.ValidationError(_("One ticket is one load: no lorry brings that much."))
        return number

    def value(self) -> Delivered:
        data = self.cleaned_data
        photo = data["photo"].hash if data["photo"] else ""
        return Delivered(
            str(data["entry_id"]), data["ticket"], self._made.what, data["number"] * self._made.holds, "", photo,
            self._made.id,
        )  # fmt: skip


MOST_ON_A_TICKET = 100_000.0
"""Kilograms."""


class HoursForm(EntryForm):
    """Hours worked at a stage on a day."""

    on = DayField()
    people = forms.IntegerField(min_value=1, max_value=50, widget=forms.TextInput)
    hours = AmountField(1, 0.05, 24)
    machine = AmountField(1, 0, 24, required=False)

    def __init__(self, *arguments: Any, stages: list[tuple[str, str]], **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["stage"] = forms.ChoiceField(choices=stages)

    def value(self) -> o.HoursWorked:
        data = self.cleaned_data
        return o.HoursWorked(
            str(data["entry_id"]), data["stage"], data["on"], data["people"], data["hours"], data["machine"] or 0.0
        )  # fmt: skip


class HireForm(EntryForm):
    """Something came on hire."""

    what = forms.CharField(max_length=40, widget=Hidden)
    first = DayField()

    def value(self) -> o.Hired:
        data = self.cleaned_data
        return o.Hired(str(data["entry_id"]), data["what"], data["first"])


class HireEndedForm(EntryForm):
    """Something on hire went back."""

    hire = forms.UUIDField(widget=Hidden)
    last = DayField()

    def value(self) -> o.HireEnded:
        data = self.cleaned_data
        return o.HireEnded(str(data["entry_id"]), str(data["hire"]), data["last"])
