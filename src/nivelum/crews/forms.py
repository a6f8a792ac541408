from django import forms

from nivelum.crews.models import Crew


class CrewForm(forms.ModelForm):
    class Meta:
        model = Crew
        fields = ["name", "rod"]
        widgets = {"rod": forms.RadioSelect}
