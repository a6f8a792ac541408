"""What makes a link."""

from typing import Any

from django import forms
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from nivelum.crews.models import Crew, CrewRole, Person
from nivelum.records.page import PART_WORDS, Part
from nivelum.sharing.models import For

LONGEST_DAYS = 730


class ShareForm(forms.Form):
    label = forms.CharField(max_length=60, label=gettext_lazy("Who gets it"))
    whom = forms.ChoiceField(choices=For.choices, label=gettext_lazy("As"))
    days = forms.IntegerField(
        min_value=1, max_value=LONGEST_DAYS, initial=30, label=gettext_lazy("Open for, days")
    )  # fmt: skip
    parts = forms.MultipleChoiceField(
        choices=[(str(part), words) for part, words in PART_WORDS.items()],
        initial=[str(part) for part in Part],
        label=gettext_lazy("What they see"),
    )

    shows_money = forms.BooleanField(required=False, label=gettext_lazy("The newest estimate too: they see money"))

    def __init__(self, *arguments: Any, crew: Crew, **options: Any) -> None:
        super().__init__(*arguments, **options)
        engineers = Person.objects.filter(memberships__crew=crew, memberships__role=CrewRole.ENGINEER)
        self.fields["engineer"] = forms.ModelChoiceField(
            engineers, required=False, label=_("Engineer, for a link to sign by")
        )

    def clean(self) -> dict[str, Any]:
        data = super().clean() or {}
        if data.get("whom") == For.ENGINEER and not data.get("engineer") and "engineer" not in self.errors:
            self.add_error("engineer", _("Say which engineer of the crew: they sign with their own PIN."))
        return data
