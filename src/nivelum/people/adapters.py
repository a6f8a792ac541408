"""How django-allauth behaves here: nobody signs up by themselves, no mail is sent, a passkey is another way in beside
the password and not a second lock behind it."""

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from allauth.mfa.adapter import DefaultMFAAdapter
from django.http import HttpRequest

from nivelum.crews.models import Person
from nivelum.crews.tries import address


class AccountAdapter(DefaultAccountAdapter):  # type: ignore[misc] # it comes without types
    def is_open_for_signup(self, request: HttpRequest) -> bool:
        return False

    def get_client_ip(self, request: HttpRequest) -> str:
        return address(request)

    def add_message(self, *_arguments: Any, **_options: Any) -> None:
        """Its messages are in words that are not ours; our pages say what was done."""

    def send_notification_mail(self, *_arguments: Any, **_options: Any) -> None:
        """The crew's log tells it."""


class PasskeyAdapter(DefaultMFAAdapter):  # type: ignore[misc] # it comes without types
    def is_mfa_enabled(self, user: Person, types: Any = None) -> bool:
        return False

    def get_public_key_credential_rp_entity(self) -> dict[str, Any]:
        entity: dict[str, Any] = super().get_public_key_credential_rp_entity()
        return entity | {"name": "Nivelum"}

    def get_public_key_credential_user_entity(self, user: Person) -> dict[str, Any]:
        entity: dict[str, Any] = super().get_public_key_credential_user_entity(user)
        return entity | {"display_name": user.name}
