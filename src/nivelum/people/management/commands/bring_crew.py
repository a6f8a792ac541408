"""Brings a crew with all its data in from an archive of another server, and prints the links with which its leads set
their passwords."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from nivelum.crews.models import CrewRole
from nivelum.people.archive import NotBrought, bring_crew
from nivelum.people.links import link_for_password
from nivelum.people.management.commands.password_link import printed


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *arguments: Any, **options: Any) -> None:
        try:
            crew = bring_crew(options["file"])
        except NotBrought as error:
            raise CommandError(str(error)) from error
        self.stdout.write(f"{crew.name}: {crew.jobs.count()} jobs, every record whole")
        for member in crew.memberships.filter(role=CrewRole.LEAD).select_related("person"):
            _link, token = link_for_password(crew, None, member.person)
            self.stdout.write(printed(token, member.person))
