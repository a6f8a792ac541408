"""Makes the database current, gathers the files to serve, loads the demo and serves: what bin/start runs.

One process does it all, so that a second start is quick. The level that ships with Nivelum stands in it too.
"""

import socket
from typing import Any

import uvicorn
from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser

from nivelum.instruments.standin import StandInLevel
from nivelum.served import config

HOST = "127.0.0.1"
PORTS_TRIED = 50


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--port", type=int, default=8000, help="the first port to try")
        parser.add_argument("--address-file", required=True, help="where to write the address served")

    def handle(self, *arguments: Any, **options: Any) -> None:
        call_command("set_up")
        call_command("collectstatic", verbosity=0, interactive=False)
        call_command("load_demo")
        stand_in = StandInLevel()
        settings.LEVELS["stand-in"] = ("stand-in", HOST, str(stand_in.port))
        settings.PROBES |= dict.fromkeys(("gauge", "weight"), settings.LEVELS["stand-in"])
        door = _door(options["port"])
        address = f"http://{HOST}:{door.getsockname()[1]}/"
        with stand_in.serving():
            _Server(config(), address, options["address_file"]).run(sockets=[door])


class _Server(uvicorn.Server):
    """Says where it serves once it does."""

    def __init__(self, config: uvicorn.Config, address: str, address_file: str) -> None:
        super().__init__(config)
        self.address, self.address_file = address, address_file

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        with open(self.address_file, "w", encoding="utf-8") as file:  # noqa: PTH123 (at start only)
            file.write(self.address)
        print(f"\n{self.address}\nCtrl-C stops it.", flush=True)


def _door(first: int) -> socket.socket:
    """A listening socket on loopback: the port asked for, one soon after it, or any that is free."""
    for port in [*range(first, min(first + PORTS_TRIED, 65536)), 0]:
        door = socket.socket()
        door.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            door.bind((HOST, port))
        except OSError:
            door.close()
        else:
            return door
    raise OSError("no free port on loopback")
