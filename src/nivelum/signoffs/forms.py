"""What a signer, someone who looks, or someone who accepts or takes back sends."""

from typing import Any

from django import forms
from django.utils.translation import gettext_lazy as _

from groundwork.observations import Observed, Pictured, Seen
from groundwork.schools import Slot
from nivelum.recording.fields import Hidden, PhotoField
from nivelum.recording.forms import EntryForm


class SignerForm(EntryForm):
    """Who does it: whoever is signed in, or somebody else of the crew with their PIN."""

    stage = forms.CharField(max_length=40, widget=Hidden)
    signer = forms.IntegerField(required=False)
    pin = forms.CharField(required=False, max_length=20, strip=True)


class SignForm(SignerForm):
    """Which evidence was on the signer's screen, and whose signature it is of those the stage wants."""

    seen = forms.CharField(max_length=64, widget=Hidden)
    slot = forms.ChoiceField(choices=[(str(slot), str(slot)) for slot in Slot], required=False)

    def clean_slot(self) -> Slot:
        return Slot(self.cleaned_data["slot"] or Slot.LEAD)


class AcceptForm(SignerForm):
    """Which stop is accepted, as it was seen, and why."""

    finding = forms.CharField(max_length=700, widget=Hidden)
    reason = forms.CharField(min_length=8, max_length=400)


class WithdrawForm(SignerForm):
    """Which sign-off or acceptance is taken back, and why."""

    withdraws = forms.UUIDField(widget=Hidden)
    reason = forms.CharField(min_length=8, max_length=400)


class ObservationForm(EntryForm):
    """What was seen for a stage; `ask` is the question it answers."""

    stage = forms.CharField(max_length=40, widget=Hidden)
    ask = forms.CharField(max_length=40, required=False, widget=Hidden)

    @property
    def own(self) -> tuple[str, str]:
        return str(self.cleaned_data["entry_id"]), self.cleaned_data["stage"]


class LookForm(ObservationForm):
    answer = forms.ChoiceField(choices=[(str(seen), str(seen)) for seen in Seen])
    words = forms.CharField(max_length=400, required=False)

    def value(self) -> Observed:
        data = self.cleaned_data
        return Observed(*self.own, data["ask"], Seen(data["answer"]), data["words"].strip())


class PictureForm(ObservationForm):
    photo = PhotoField(label=_("Photo"))
    caption = forms.CharField(max_length=200, label=_("What it shows"))

    def __init__(self, *arguments: Any, keeps_places: bool = False, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.keeps_places = keeps_places

    def value(self) -> Pictured:
        data = self.cleaned_data
        north, east = (data["photo"].place if self.keeps_places else None) or (None, None)
        return Pictured(*self.own, data["photo"].hash, data["caption"].strip(), data["ask"], north, east)
