"""What is asked of the rain."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from groundwork.measures import INCH, Unit

AN_HOUR = 3600.0
USUAL_RAIN, USUAL_MINUTES = 20.0, 60.0


class RainForm(forms.Form):
    """How hard it rains, in millimetres or inches an hour, and for how long."""

    rain = forms.FloatField(min_value=0.01, max_value=500, error_messages={
        "invalid": _("A number, like 20."), "max_value": _("No rain falls so hard: at most 500."),
        "min_value": _("More than nothing."),
    })  # fmt: skip
    minutes = forms.FloatField(min_value=1, max_value=2880, error_messages={
        "invalid": _("Minutes as a number, like 60."), "max_value": _("At most two days: 2880."),
        "min_value": _("At least one minute."),
    })  # fmt: skip

    def __init__(self, data: Any, unit: Unit) -> None:
        usual = USUAL_RAIN if unit.is_metric else round(USUAL_RAIN / 1000 / INCH, 1)
        self.metres = 0.001 if unit.is_metric else INCH
        filled = {"rain": data.get("rain") or usual, "minutes": data.get("minutes") or USUAL_MINUTES}
        super().__init__(filled)

    @property
    def shown_rain(self) -> str:
        """As typed, a whole number without its point."""
        return _shown(self["rain"].value())

    @property
    def shown_minutes(self) -> str:
        return _shown(self["minutes"].value())

    @property
    def intensity(self) -> float:
        """m/s; the usual where what was typed is none."""
        typed = self.cleaned_data.get("rain") if self.is_valid() else None
        return (typed * self.metres if typed else USUAL_RAIN / 1000) / AN_HOUR

    @property
    def duration(self) -> float:
        """Seconds."""
        return 60 * (self.cleaned_data["minutes"] if self.is_valid() else USUAL_MINUTES)


def _shown(value: Any) -> str:
    return f"{value:g}" if isinstance(value, float) else str(value)
