"""Prints the heads of all records, crew by crew: for a daily mail, or a file on another machine."""

from typing import Any

from django.core.management.base import BaseCommand

from nivelum.crews.models import Crew
from nivelum.records.heads import heads_of, page_of_heads


class Command(BaseCommand):
    help = __doc__

    def handle(self, *arguments: Any, **options: Any) -> None:
        for crew in Crew.objects.order_by("name"):
            if heads := heads_of(crew):
                self.stdout.write(page_of_heads(crew, heads))
