"""Puts a backup in the place of what is there, and proves what then stands."""

from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandError, CommandParser

from nivelum.records.aside import Unusable
from nivelum.records.backup import restore


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, *arguments: Any, **options: Any) -> None:
        try:
            done = restore(options["file"])
        except Unusable as error:
            raise CommandError(str(error)) from error
        call_command("set_up")
        counts = f"{done.jobs} jobs, {done.entries} entries unbroken, {done.photos} photos right"
        self.stdout.write(f"{options['file']} restored: {counts}")
        for fault in done.faults:
            self.stdout.write(f"as it was when it was written: {fault}")
