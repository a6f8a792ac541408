"""A minute of a day by the clock on site: typed, taken, said."""

from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any

from django import forms
from django.core.exceptions import ValidationError
from django.utils import timezone
from django.utils.formats import date_format
from django.utils.translation import gettext as _

MINUTE = "%Y-%m-%dT%H:%M"


AHEAD = timedelta(minutes=15)
"""A device's clock may be so much ahead."""


class MinuteField(forms.DateTimeField):
    """A minute of a day by the clock on site that has been; now where it is left out."""

    def __init__(self) -> None:
        super().__init__(required=False, input_formats=[MINUTE, f"{MINUTE}:%S"])

    def clean(self, value: Any) -> datetime | None:
        at: datetime | None = super().clean(value)
        if at is not None and at > timezone.now() + AHEAD:
            raise ValidationError(_("That is still to come."))
        return at


def minute(data: Mapping[str, Any]) -> datetime:
    """What was typed as `at`, or when the device or the server took it, to the minute and by the clock on site."""
    taken = data["at"] or data["device_at"] or timezone.now()
    return timezone.localtime(taken).replace(tzinfo=None, second=0, microsecond=0)


def minute_now() -> datetime:
    return timezone.localtime().replace(tzinfo=None, second=0, microsecond=0)


def told_minute(at: datetime) -> str:
    """As a record says it, whenever it is read."""
    return f"{date_format(at, _('j M'))}, {date_format(at, _('H:i'))}"


def minute_words(at: datetime) -> str:
    """As people say it: the hour alone where it is of today."""
    return date_format(at, _("H:i")) if at.date() == timezone.localdate() else told_minute(at)
