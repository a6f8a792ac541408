"""Serves the application as it is meant to be served, behind a proxy or by itself, by as many processes as are
wanted: what bin/start does besides is its demo."""

from typing import Any, cast

import uvicorn
from django.core.management.base import BaseCommand, CommandParser
from django.db import connection
from django.db.backends.postgresql.base import DatabaseWrapper as PostgresConnection
from uvicorn.supervisors import Multiprocess

from nivelum.crews.first import first_code, is_empty
from nivelum.served import config, forked


class Command(BaseCommand):
    help = __doc__
    requires_system_checks: list[str] = []  # `set_up` makes them

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--host", default="127.0.0.1")
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument("--workers", type=int, default=1)
        parser.add_argument("--log-level", default="warning")

    def handle(self, *arguments: Any, **options: Any) -> None:
        made = config(
            log_level=options["log_level"], timeout_graceful_shutdown=10, app="nivelum.served:settled", factory=True,
            host=options["host"], port=options["port"], workers=options["workers"],
        )  # fmt: skip
        self._say_the_code()
        if options["workers"] == 1:
            uvicorn.Server(made).run()
        else:
            forked()
            Multiprocess(made, sockets=[made.bind_socket()]).run()

    def _say_the_code(self) -> None:
        """On a server that has nobody, what its first page asks for; without a database it is asked for later."""
        try:
            if is_empty():
                self.stdout.write(f"Nobody is here yet. Open /first/ with the code {first_code()}")
                self.stdout.flush()
        except Exception as error:
            self.stderr.write(f"The database does not answer yet: {error}")
        finally:
            connection.close()
            cast(PostgresConnection, connection).close_pool()
