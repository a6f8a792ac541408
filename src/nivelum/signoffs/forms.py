"""What a signer, or someone who accepts a stop, sends."""

from django import forms

from nivelum.jobs.forms import EntryForm


class SignForm(EntryForm):
    """Which evidence was on the signer's screen."""

    seen = forms.CharField(max_length=64, widget=forms.HiddenInput)


class AcceptForm(EntryForm):
    """Which stop is accepted, as it was seen, and why."""

    finding = forms.CharField(max_length=400, widget=forms.HiddenInput)
    reason = forms.CharField(min_length=8, max_length=400)
