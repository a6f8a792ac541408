"""Water that comes up through a lift, as it is logged and told."""

from django import forms

from nivelum.lifts.forms.work import WorkForm
from nivelum.recording.kinds import Face, in_unit, show
from tests.seepage.kind import Seepage


class SeepageForm(WorkForm):
    rate = forms.FloatField(min_value=0.01, max_value=1000, label="Water, l/min")
    where = forms.CharField(max_length=400, required=False, label="Where")

    def value(self) -> Seepage:
        return Seepage(*self.own, self.cleaned_data["rate"], self.cleaned_data["where"])


show(Seepage, Face("water seen", in_unit("{rate} l/min {where}"), form=SeepageForm, leaf="lift-tests", is_plain=True))
