"""What people's own pages send."""

from typing import Any

from allauth.account.adapter import get_adapter
from allauth.account.forms import LoginForm
from django import forms
from django.conf import settings
from django.contrib.auth import password_validation
from django.contrib.auth.validators import UnicodeUsernameValidator
from django.core.exceptions import ValidationError
from django.utils.text import slugify
from django.utils.translation import gettext_lazy as _

from nivelum.crews.first import code_fits
from nivelum.crews.forms import checked_zone
from nivelum.crews.models import Crew, CrewRole, Person
from nivelum.crews.tries import LONGEST_NAME, LONGEST_PASSWORD, seconds_to_wait
from nivelum.people.hints import HINTS


class SignInForm(LoginForm):  # type: ignore[misc] # it comes without types
    """A name and its password; a name that many have tried is asked to wait."""

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["login"] = forms.CharField(max_length=LONGEST_NAME, label=_("Name to sign in with"))
        self.fields["password"] = forms.CharField(max_length=LONGEST_PASSWORD, strip=False, label=_("Password"))

    def clean(self) -> Any:
        name = self.cleaned_data.get("login", "")
        if name and (seconds := seconds_to_wait(self.request, name)):
            raise ValidationError(_("Many wrong tries for this name: wait %(n)s seconds."), params={"n": seconds})
        try:
            return super().clean()
        except ValidationError as error:
            raise ValidationError(_("Name and password do not fit.")) from error


def is_theirs(person: Person, password: str) -> bool:
    """Whether a password is a person's, who is signed in; wrong tries are counted as those of signing in are."""
    return bool(get_adapter().reauthenticate(person, password))


class PasswordForm(forms.Form):
    """A new password, held to what a password has to be."""

    password = forms.CharField(max_length=LONGEST_PASSWORD, strip=False, label=_("New password"))

    def __init__(self, *arguments: Any, person: Person | None = None, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.person = person

    def clean_password(self) -> str:
        password: str = self.cleaned_data["password"]
        password_validation.validate_password(password, self.person)
        return password


class OwnPasswordForm(PasswordForm):
    """A new password in the place of the one that is given."""

    old = forms.CharField(max_length=LONGEST_PASSWORD, strip=False, label=_("Password now"))
    field_order = ["old", "password"]

    def clean_old(self) -> str:
        old: str = self.cleaned_data["old"]
        if self.person is None or not is_theirs(self.person, old):
            raise ValidationError(_("That is not your password."))
        return old


class NewPersonForm(PasswordForm):
    """Somebody who comes for the first time; left out, the name to sign in with follows from the name."""

    name = forms.CharField(max_length=80, label=_("Your name"))
    username = forms.CharField(
        max_length=LONGEST_NAME, required=False, label=_("Name to sign in with"),
        validators=[UnicodeUsernameValidator(message=_("Letters, digits and @ . + - _ only."))],
    )  # fmt: skip
    field_order = ["name", "username", "password"]

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["password"].label = _("Password")

    def clean_username(self) -> str:
        typed: str = self.cleaned_data["username"]
        asked = typed or slugify(self.cleaned_data.get("name", ""), allow_unicode=True)
        if not asked:
            raise ValidationError(_("Type a name to sign in with."))
        if Person.objects.filter(username__iexact=asked).exists():
            raise ValidationError(
                _("Somebody has the name “%(name)s” already: choose another."), params={"name": asked}
            )
        return asked

    def person_made(self) -> Person:
        data = self.cleaned_data
        return Person.objects.create_user(
            data["username"], password=data["password"], name=data["name"], hints=list(HINTS)
        )


class InviteForm(forms.Form):
    label = forms.CharField(max_length=80, label=_("Who is it for?"))
    role = forms.ChoiceField(choices=CrewRole, initial=CrewRole.CREW, label=_("Role"))

    def clean_role(self) -> CrewRole:
        return CrewRole(self.cleaned_data["role"])


class YouForm(forms.ModelForm):  # type: ignore[type-arg] # generic in the stubs only
    """What one is called, and in which words one reads."""

    class Meta:
        model = Person
        fields = ["name", "language"]

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["name"].label = _("Your name")
        self.fields["language"] = forms.ChoiceField(
            choices=[("", _("as the crew speaks")), *settings.LANGUAGES], required=False, label=_("Words")
        )


class FoundForm(forms.ModelForm):  # type: ignore[type-arg] # generic in the stubs only
    """A crew from nothing."""

    class Meta:
        model = Crew
        fields = ["name", "rod", "region", "time_zone"]

    def __init__(self, *arguments: Any, **options: Any) -> None:
        super().__init__(*arguments, **options)
        self.fields["name"].label = _("Crew’s name")
        self.fields["time_zone"].initial = settings.TIME_ZONE

    def clean_time_zone(self) -> str:
        return checked_zone(self.cleaned_data["time_zone"])


class CodeForm(forms.Form):
    """The code that was printed where the server was started."""

    code = forms.CharField(max_length=40, label=_("Code printed at the start"))

    def clean_code(self) -> str:
        code: str = self.cleaned_data["code"]
        if not code_fits(code):
            raise ValidationError(_("That is not the code. It stands where the server was started."))
        return code
