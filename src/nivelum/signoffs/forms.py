import uuid

from django import forms


class SignForm(forms.Form):
    """What the signer sends: their own identifier for it, and which evidence was on their screen."""

    entry_id = forms.UUIDField(widget=forms.HiddenInput, initial=uuid.uuid4)
    seen = forms.CharField(max_length=64, widget=forms.HiddenInput)
    device_at = forms.DateTimeField(required=False, widget=forms.HiddenInput)
