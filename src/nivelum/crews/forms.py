from django import forms

from nivelum.crews.models import Crew


class CrewForm(forms.ModelForm):
    class Meta:
        model = Crew
        fields = ["name", "rod", "region"]
        widgets = {"rod": forms.RadioSelect, "region": forms.RadioSelect}
