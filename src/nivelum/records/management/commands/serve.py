"""Serves the application as it is meant to be served, behind a proxy or by itself: what bin/start does besides is its
demo."""

from typing import Any

import uvicorn
from django.core.management.base import BaseCommand, CommandParser

from nivelum.served import config, settle


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--host", default="127.0.0.1")
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument("--log-level", default="warning")

    def handle(self, *arguments: Any, **options: Any) -> None:
        made = config(log_level=options["log_level"])
        made.host, made.port = options["host"], options["port"]
        settle()
        uvicorn.Server(made).run()
