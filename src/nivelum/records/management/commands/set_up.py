"""Makes the database current as its owner, and gives the application's role its rights. Without an owner set, the
application's own role does it, and the record is guarded by the trigger alone."""

from typing import Any

from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import connections

from nivelum.records.roles import let_in


class Command(BaseCommand):
    help = __doc__

    def handle(self, *arguments: Any, **options: Any) -> None:
        if "owner" not in settings.DATABASES:
            call_command("migrate", verbosity=0)
            return
        owner = connections["owner"]
        call_command("migrate", database="owner", verbosity=0)
        with owner.cursor() as cursor:
            let_in(cursor, settings.DATABASES["default"]["USER"])
        owner.close()
