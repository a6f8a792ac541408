"""How a crew goes by days and weather: its hours, where its sites lie, days off, limits it sets its own way."""

from datetime import timedelta
from typing import Any
from uuid import UUID

from django import forms
from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.views.decorators.http import require_http_methods

from groundwork.measures import FOOT, INCH, MILE, POUND, Unit
from groundwork.outdoors import Held, WeatherLimit, WrongSide, limits_of
from nivelum.crews.log import noted
from nivelum.crews.models import Crew, Deed, Membership, Person
from nivelum.crews.policy import Verb, require
from nivelum.crews.requests import Request, posted_number
from nivelum.days.words import BESIDE, day_words
from nivelum.lifts.forms.amounts import AmountField, celsius_of, degrees
from nivelum.orders.forms import DayField
from nivelum.weather.models import DayOff, WeatherTerms
from nivelum.weather.services import days_off, weather_of

HELD = {
    Held.RAIN: gettext_lazy("rain"), Held.CELSIUS: gettext_lazy("warmth"), Held.WARMING: gettext_lazy("warmth"),
    Held.COMING_24: gettext_lazy("least within a day"), Held.COMING_48: gettext_lazy("least within two days"),
    Held.EVAPORATION: gettext_lazy("water that leaves in an hour"),
    Held.OVER_DEW: gettext_lazy("kelvin over the dew point"), Held.DRY: gettext_lazy("stays dry, %"),
    Held.WIND: gettext_lazy("wind"), Held.THUNDER: gettext_lazy("thunder"),
}  # fmt: skip
WORKS = {
    "fines": gettext_lazy("stone with fines, the ground"), "clean": gettext_lazy("clean stone"),
    "dig": gettext_lazy("digging"), "fabric": gettext_lazy("fabric"), "concrete": gettext_lazy("concrete"),
    "mortar": gettext_lazy("mortar"), "bond": gettext_lazy("bond coats"), "bed": gettext_lazy("bed"),
    "units": gettext_lazy("laying"), "bonded": gettext_lazy("bonded joints"),
    "sweeping": gettext_lazy("sand swept in"),
    "all": gettext_lazy("everybody"),
}  # fmt: skip
USUAL = limits_of({})
WARM = (Held.CELSIUS, Held.WARMING, Held.COMING_24, Held.COMING_48)
POUNDS = POUND / FOOT**2
"""kg/m² in a pound a square foot."""
MOST = {Held.RAIN: 100.0, Held.WIND: 60.0, Held.DRY: 1.0, Held.EVAPORATION: 5.0, Held.OVER_DEW: 20.0}


def shown_limit(of: Held, at: float, unit: Unit) -> str:
    """A limit as the crew writes it."""
    if of in WARM:
        at = at if unit.is_metric else at * 1.8 + 32
    elif of is Held.RAIN and not unit.is_metric:
        at = at / 1000 / INCH
    elif of is Held.WIND:
        at = at * 3.6 if unit.is_metric else at * 3600 / MILE
    elif of is Held.EVAPORATION and not unit.is_metric:
        at /= POUNDS
    elif of is Held.DRY:
        at *= 100
    return f"{round(at, 3):g}"


def _unit_of(of: Held, unit: Unit) -> str:
    metric = {Held.RAIN: "mm/h", Held.WIND: "km/h", Held.EVAPORATION: "kg/m²"} | dict.fromkeys(WARM, "°C")
    feet = {Held.RAIN: "in/h", Held.WIND: "mph", Held.EVAPORATION: "lb/ft²"} | dict.fromkeys(WARM, "°F")
    return (metric if unit.is_metric else feet).get(of, "")


def _read_limit(of: Held, typed: float, unit: Unit) -> float:
    if of in WARM:
        return celsius_of(typed, unit)
    if of is Held.RAIN:
        return typed if unit.is_metric else typed * INCH * 1000
    if of is Held.WIND:
        return typed / 3.6 if unit.is_metric else typed * MILE / 3600
    if of is Held.EVAPORATION and not unit.is_metric:
        return typed * POUNDS
    return typed / 100 if of is Held.DRY else typed


class CrewDaysForm(forms.Form):
    """Hours, place, usual weather, limits; a limit left empty is as it usually is."""

    begins = AmountField(1, 0, 23)
    place = forms.CharField(max_length=80, required=False)
    latitude = AmountField(1, -90, 90, required=False)
    chance = AmountField(0.01, 0, 100)
    least = degrees()
    most = degrees()

    def __init__(self, *arguments: Any, unit: Unit, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self._unit = unit
        for key, limit in USUAL.items():
            if limit.of is not Held.THUNDER:
                self.fields[key] = AmountField(1, -100, 1000, required=False)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if None not in (data.get("least"), data.get("most")) and data["most"] < data["least"]:
            self.add_error("most", _("The most is no less than the least."))
        for key, limit in USUAL.items():
            if data.get(key) is not None:
                at = _read_limit(limit.of, data[key], self._unit)
                least = -40.0 if limit.of in WARM else 0.0
                if not least <= at <= MOST.get(limit.of, 60.0):
                    self.add_error(key, _("No such limit."))
        return data

    def limits(self) -> dict[str, float]:
        """Those set otherwise than they usually are."""
        found = {}
        for key, limit in USUAL.items():
            typed = self.cleaned_data.get(key)
            if typed is not None and f"{round(typed, 3):g}" != shown_limit(limit.of, limit.at, self._unit):
                found[key] = round(_read_limit(limit.of, typed, self._unit), 4)
        return found


class DayOffForm(forms.Form):
    """Days on which somebody is not there, or nobody works."""

    on = DayField()
    until = DayField(required=False)
    why = forms.CharField(max_length=80, required=False)

    def __init__(self, *arguments: Any, people: list[tuple[str, str]], **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["who"] = forms.ChoiceField(choices=[("", _("everybody")), *people], required=False)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        first, last = data.get("on"), data.get("until")
        if first and last and not 0 <= (last - first).days <= 60:
            self.add_error("until", _("After it begins, and no longer than two months."))
        return data


def _initial(weather: WeatherTerms, unit: Unit) -> dict[str, Any]:
    warm = {name: shown_limit(Held.CELSIUS, getattr(weather, name), unit) for name in ("least", "most")}
    own = {key: shown_limit(USUAL[key].of, at, unit) for key, at in weather.limits.items() if key in USUAL}
    return warm | own | {
        "begins": f"{weather.begins:g}", "place": weather.place,
        "latitude": "" if weather.latitude is None else f"{weather.latitude:g}",
        "chance": f"{round(weather.chance * 100, 2):g}",
    }  # fmt: skip


def _limit_row(form: CrewDaysForm, limit: WeatherLimit, unit: Unit) -> dict[str, Any]:
    sides = {
        WrongSide.OVER: _("over"), WrongSide.UNDER: _("under"), WrongSide.FROM: _("from"),
        WrongSide.FROM_BELOW: _("down from"),
    }  # fmt: skip
    return {
        "field": form[limit.key], "works": ", ".join(str(WORKS[work]) for work in sorted(limit.works)),
        "label": f"{HELD[limit.of]} {sides[limit.side]}, {_unit_of(limit.of, unit)}".rstrip(", "),
        "usual": shown_limit(limit.of, limit.at, unit), "why": _(limit.why), "source": _(str(limit.source)),
        "then": _("wait") if limit.waits else str(BESIDE.get(limit.beside, limit.beside)),
    }  # fmt: skip


@require_http_methods(["GET", "HEAD", "POST"])
def crew_weather(request: Request, crew_id: UUID) -> HttpResponse:
    """How it goes by days and weather; days off."""
    own = get_object_or_404(Membership.objects.select_related("crew"), crew=crew_id, person=request.user)
    require(own.role, Verb.RUN_CREW)
    crew, weather = own.crew, weather_of(own.crew)
    with crew.in_its_words():
        members = list(Person.objects.filter(memberships__crew=crew).order_by("name"))
        people = [(str(person.pk), person.name) for person in members]
        form = CrewDaysForm(initial=_initial(weather, crew.unit), unit=crew.unit, auto_id="id_w_%s")
        off_form = DayOffForm(people=people, auto_id="id_o_%s")
        if request.method == "POST" and "begins" in request.POST:
            form = CrewDaysForm(request.POST, unit=crew.unit, auto_id="id_w_%s")
            if form.is_valid():
                _save(crew, weather, form)
                noted(crew, request.user, Deed.CHANGED, detail=_("days and weather"))
                messages.success(request, _("Saved."))
                return redirect("crew-weather", crew_id=crew_id)
        elif request.method == "POST" and "gone" in request.POST:
            DayOff.objects.filter(crew=crew, pk=posted_number(request, "gone")).delete()
            return redirect("crew-weather", crew_id=crew_id)
        elif request.method == "POST":
            off_form = DayOffForm(request.POST, people=people, auto_id="id_o_%s")
            if off_form.is_valid():
                _off(crew, off_form.cleaned_data)
                return redirect("crew-weather", crew_id=crew_id)
        off = [
            {"pk": day.pk, "day": day_words(day.on), "who": dict(people).get(str(day.person_id), _("everybody")),
             "why": day.why}
            for day in days_off(crew)
        ]  # fmt: skip
        context = {
            "own": own, "form": form, "off_form": off_form, "off": off, "unit": crew.unit,
            "limits": [_limit_row(form, x, crew.unit) for x in USUAL.values() if x.of is not Held.THUNDER],
        }  # fmt: skip
        wrong = form.errors or off_form.errors
        return render(request, "days/crew.html", context, status=422 if wrong else 200)


def _save(crew: Crew, weather: WeatherTerms, form: CrewDaysForm) -> None:
    data = form.cleaned_data
    if weather.place != data["place"].strip():
        weather.asked_at = None  # what the service said was of elsewhere
    weather.crew, weather.begins, weather.place = crew, data["begins"], data["place"].strip()
    weather.latitude, weather.chance, weather.limits = data["latitude"], data["chance"], form.limits()
    weather.least, weather.most = (celsius_of(data[name], crew.unit) for name in ("least", "most"))
    weather.save()


def _off(crew: Crew, data: dict[str, Any]) -> None:
    first, last = data["on"], data["until"] or data["on"]
    person = Person.objects.get(pk=data["who"]) if data["who"] else None
    for n in range((last - first).days + 1):
        DayOff.objects.get_or_create(
            crew=crew, person=person, on=first + timedelta(days=n), defaults={"why": data["why"].strip()}
        )
