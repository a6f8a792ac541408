"""What every entry a person makes brings with it."""

import uuid
from typing import Any

from django import forms


class EntryForm(forms.Form):
    """Something recorded in the field: it brings its own identifier and the device's time, if it knows it."""

    entry_id = forms.UUIDField(widget=forms.HiddenInput)
    device_at = forms.DateTimeField(required=False, widget=forms.HiddenInput)

    def __init__(self, *arguments: Any, **options: Any) -> None:
        options["initial"] = {"entry_id": uuid.uuid4()} | (options.get("initial") or {})
        super().__init__(*arguments, **options)
