"""Prints a link with which somebody sets a new password: for a lead who has forgotten theirs, or whoever is of more
than one crew. It opens once, for a day, and stands in the logs of their crews."""

from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandError, CommandParser

from nivelum.crews.models import Person
from nivelum.people.links import link_for_password


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("username")

    def handle(self, *arguments: Any, **options: Any) -> None:
        person = Person.objects.filter(username__iexact=options["username"], is_active=True).first()
        member = person.memberships.select_related("crew").first() if person else None
        if person is None or member is None:
            raise CommandError(f"nobody of a crew signs in as {options['username']}")
        _link, token = link_for_password(member.crew, None, person)
        self.stdout.write(printed(token, person))


def printed(token: str, person: Person) -> str:
    """The address to open, under the site's own where it is known."""
    site = settings.CSRF_TRUSTED_ORIGINS[0] if settings.CSRF_TRUSTED_ORIGINS else ""
    return f"{person.name}, who signs in as {person.username}, sets a password at\n{site}/password/{token}/"
