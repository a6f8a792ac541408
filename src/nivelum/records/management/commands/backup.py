"""Writes the database and the photos to one file, checked by restoring it on the side. Ends with an error where a
record is not right; the backup is there all the same, and says so at its head."""

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from nivelum.records.aside import Unusable
from nivelum.records.backup import back_up


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *arguments: Any, **options: Any) -> None:
        try:
            done = back_up(options["file"])
        except Unusable as error:
            raise CommandError(str(error)) from error
        counts = f"{done.jobs} jobs, {done.entries} entries unbroken, {done.photos} photos right"
        self.stdout.write(f"{options['file']} written: {counts}")
        if done.faults:
            raise CommandError("\n".join(("It holds everything, and not all of it is right:", *done.faults)))
