"""Makes a crew and its lead, and prints the link with which the lead sets a password: the way to begin on a server
without demo data."""

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import transaction

from nivelum.crews.forms import checked_zone
from nivelum.crews.models import Person, Region, RodUnit, usual_zone
from nivelum.people.hints import HINTS
from nivelum.people.links import link_for_password
from nivelum.people.management.commands.password_link import printed
from nivelum.people.members import found_crew


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("crew", help="its name")
        parser.add_argument("lead", help="the lead's name")
        parser.add_argument("--username", required=True, help="what the lead signs in with")
        parser.add_argument("--rod", choices=RodUnit.values, default=RodUnit.MILLIMETRES)
        parser.add_argument("--region", choices=Region.values, default=Region.BRITAIN_AND_IRELAND)
        parser.add_argument("--time-zone", type=checked_zone, default=usual_zone())

    @transaction.atomic
    def handle(self, *arguments: Any, **options: Any) -> None:
        if Person.objects.filter(username__iexact=options["username"]).exists():
            raise CommandError(f"somebody signs in as {options['username']} already")
        lead = Person.objects.create_user(options["username"], name=options["lead"], hints=list(HINTS))
        crew = found_crew(
            options["crew"], lead, rod=options["rod"], region=options["region"], time_zone=options["time_zone"]
        )  # fmt: skip
        _link, token = link_for_password(crew, None, lead)
        self.stdout.write(printed(token, lead))
