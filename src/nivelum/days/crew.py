"""How a crew goes by days and weather: its hours, where its sites lie, days off, limits it sets its own way."""

from collections.abc import Mapping
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

from groundwork.measures import Unit
from groundwork.outdoors import Held, WeatherLimit, WrongSide, limits_of, may_be, scale_of
from nivelum.crews.log import noted
from nivelum.crews.models import Crew, Deed, Membership, Person
from nivelum.crews.policy import Verb, require
from nivelum.crews.requests import Request, posted_number
from nivelum.days.words import BESIDE, day_words
from nivelum.lifts.forms.amounts import AmountField, celsius_of, degrees
from nivelum.money.shown import HIRED
from nivelum.orders.forms import DayField
from nivelum.weather.models import MOST_MACHINES, DayOff, WeatherTerms
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


class CrewDaysForm(forms.Form):
    """Hours, place, usual weather, limits; a limit left empty is as it usually is."""

    begins = AmountField(1, 0, 23)
    place = forms.CharField(max_length=80, required=False)
    latitude = AmountField(1, -90, 90, required=False)
    chance = AmountField(0.01, 0, 100)
    least = degrees()
    most = degrees()

    def __init__(self, *arguments: Any, unit: Unit, held: Mapping[str, float], **options: Any) -> None:
        super().__init__(*arguments, **options)
        self._unit, self._held = unit, held
        for machine in HIRED:
            self.fields[f"many-{machine}"] = forms.IntegerField(min_value=1, max_value=MOST_MACHINES, required=False)
        for key, limit in USUAL.items():
            if limit.of is not Held.THUNDER:
                self.fields[key] = AmountField(1, -100, 1000, required=False)

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if None not in (data.get("least"), data.get("most")) and data["most"] < data["least"]:
            self.add_error("most", _("The most is no less than the least."))
        for key, limit in USUAL.items():
            typed = data.get(key)
            if typed is not None and not may_be(limit.of, scale_of(limit.of, self._unit).read(typed)):
                self.add_error(key, _("No such limit."))
        return data

    def machines(self) -> dict[str, int]:
        """Those of which there are more than one."""
        found = {machine: self.cleaned_data.get(f"many-{machine}") or 1 for machine in HIRED}
        return {machine: number for machine, number in found.items() if number > 1}

    def limits(self) -> dict[str, float]:
        """Those set otherwise than they usually are; one that stands as it was shown is as it was."""
        found = {}
        for key, limit in USUAL.items():
            typed, scale = self.cleaned_data.get(key), scale_of(limit.of, self._unit)
            if typed is None or scale.shown(limit.at) == f"{round(typed, 3):g}":
                continue
            before = self._held.get(key)
            is_same = before is not None and scale.shown(before) == f"{round(typed, 3):g}"
            found[key] = before if before is not None and is_same else round(scale.read(typed), 4)
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
    warm = {name: scale_of(Held.CELSIUS, unit).shown(getattr(weather, name)) for name in ("least", "most")}
    own = {key: scale_of(USUAL[key].of, unit).shown(at) for key, at in weather.limits.items() if key in USUAL}
    many = {f"many-{machine}": weather.count(machine) for machine in HIRED}
    return warm | own | many | {
        "begins": f"{weather.begins:g}", "place": weather.place,
        "latitude": "" if weather.latitude is None else f"{weather.latitude:g}",
        "chance": f"{round(weather.chance * 100, 2):g}",
    }  # fmt: skip


def _limit_row(form: CrewDaysForm, limit: WeatherLimit, unit: Unit) -> dict[str, Any]:
    sides = {
        WrongSide.OVER: _("over"), WrongSide.UNDER: _("under"), WrongSide.FROM: _("from"),
        WrongSide.FROM_BELOW: _("down from"),
    }  # fmt: skip
    scale = scale_of(limit.of, unit)
    return {
        "field": form[limit.key], "works": ", ".join(str(WORKS[work]) for work in sorted(limit.works)),
        "label": f"{HELD[limit.of]} {sides[limit.side]}, {scale.sign}".rstrip(", "),
        "usual": scale.shown(limit.at), "why": _(limit.why), "source": _(str(limit.source)),
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
        asked = {"unit": crew.unit, "held": weather.limits, "auto_id": "id_w_%s"}
        form = CrewDaysForm(initial=_initial(weather, crew.unit), **asked)
        off_form = DayOffForm(people=people, auto_id="id_o_%s")
        if request.method == "POST" and "begins" in request.POST:
            form = CrewDaysForm(request.POST, **asked)
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
            "machines": [{"field": form[f"many-{key}"], "title": title} for key, title in HIRED.items()],
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
    weather.machines = form.machines()
    weather.least, weather.most = (celsius_of(data[name], crew.unit) for name in ("least", "most"))
    weather.save()


def _off(crew: Crew, data: dict[str, Any]) -> None:
    first, last = data["on"], data["until"] or data["on"]
    person = Person.objects.get(pk=data["who"]) if data["who"] else None
    for n in range((last - first).days + 1):
        DayOff.objects.get_or_create(
            crew=crew, person=person, on=first + timedelta(days=n), defaults={"why": data["why"].strip()}
        )
