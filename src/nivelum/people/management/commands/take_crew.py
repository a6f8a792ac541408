"""Writes all of a crew's data to one open archive."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from nivelum.crews.models import Crew
from nivelum.people.archive import take_crew


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("crew", help="its name, whole")
        parser.add_argument("file", type=Path)

    def handle(self, *arguments: Any, **options: Any) -> None:
        found = list(Crew.objects.filter(name=options["crew"]))
        if len(found) != 1:
            raise CommandError(f"{len(found)} crews are called {options['crew']!r}")
        with options["file"].open("wb") as file:
            take_crew(found[0], None, file)
        self.stdout.write(f"{options['file']} written")
