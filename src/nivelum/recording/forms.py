"""What every entry a person makes brings with it."""

import uuid
from typing import Any

from django import forms

from groundwork.entries import Strike
from groundwork.kinds import Entry as Value
from nivelum.recording.fields import Hidden


class EntryForm(forms.Form):
    """Something recorded in the field: it brings its own identifier, and where the device knows them its time and
    what the entry was answered to: the version of the design, and the newest entry of the record that was on the
    screen. `still` is the version of the design for which whoever recorded it has said that it stands."""

    entry_id = forms.UUIDField(widget=Hidden)
    device_at = forms.DateTimeField(required=False, widget=Hidden)
    answered_version = forms.IntegerField(required=False, min_value=1, max_value=2**31, widget=Hidden)
    answered_number = forms.IntegerField(required=False, min_value=1, max_value=2**31, widget=Hidden)
    still = forms.IntegerField(required=False, min_value=1, max_value=2**31, widget=Hidden)

    def value(self) -> Value:
        """The entry it makes, once it is valid."""
        raise NotImplementedError  # each form of an entry says what it makes

    def __init__(self, *arguments: Any, **options: Any) -> None:
        options["initial"] = {"entry_id": uuid.uuid4()} | (options.get("initial") or {})
        super().__init__(*arguments, **options)


class ReadForm(EntryForm):
    """Something read off a rod, a string or a meter, in the field `reading`; `sure` carries the text that was asked
    about and stands."""

    sure = forms.CharField(max_length=60, required=False, strip=False)

    @property
    def is_sure(self) -> bool:
        data = self.cleaned_data
        return bool(data["sure"]) and data["sure"].strip() == data["reading"].raw


class StrikeForm(EntryForm):
    strikes = forms.UUIDField(widget=Hidden)

    def value(self) -> Strike:
        return Strike(str(self.cleaned_data["entry_id"]), str(self.cleaned_data["strikes"]))
