"""What every form of work has: the lift it is about, or the place it was taken at."""

from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from groundwork.lifts import Works
from groundwork.measures import Unit
from groundwork.surfaces import Point
from nivelum.lifts.forms.amounts import place_of
from nivelum.recording.fields import Hidden
from nivelum.recording.forms import EntryForm


class WorkForm(EntryForm):
    """An entry of work; `works` is the job as it stands, `crew_unit` what a bare number means."""

    needs_lift = True

    def __init__(self, *arguments: Any, unit: Unit, works: Works, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.unit, self.works = unit, works
        if self.needs_lift:
            self.fields["lift"] = forms.CharField(max_length=40, widget=Hidden)
        self.more()

    def more(self) -> None:
        """Adds the fields that hang on the unit or on the job."""

    @property
    def own(self) -> tuple[str, str]:
        return str(self.cleaned_data["entry_id"]), self.cleaned_data.get("lift", "")


class PlacedForm(WorkForm):
    """A test at a place drawn on the lift, or at one of its own."""

    place = forms.CharField(max_length=12, label=gettext_lazy("Place"))
    at = forms.CharField(max_length=40, required=False, label=gettext_lazy("Elsewhere, at"))

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        lift = self.works.lifts.get(data.get("lift", ""))
        known = dict(lift.places) | {t.place: t.at for t in lift.tests} if lift else {}
        try:
            if data.get("at"):
                data["spot"] = place_of(data["at"], self.unit)
            elif (place := data.get("place", "")) in known:
                data["spot"] = known[place]
            elif place:
                self.add_error("at", _("That place was not drawn: say where it is."))
        except ValidationError as error:
            self.add_error("at", error)
        return data

    @property
    def here(self) -> tuple[str, str, str, Point]:
        return *self.own, self.cleaned_data["place"], self.cleaned_data["spot"]
