"""Makes the database current, gathers what is served as files, loads the demo: one process for bin/start."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand


class Command(BaseCommand):
    help = __doc__

    def handle(self, *arguments: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0)
        call_command("collectstatic", verbosity=0, interactive=False, clear=True)
        call_command("load_demo")
