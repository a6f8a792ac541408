"""Makes the database current, gathers the files to serve, loads the demo and serves: what bin/start runs.

One process does it all, so that a second start is quick. The level that ships with Nivelum stands in it too.
"""

import socket
from pathlib import Path
from typing import Any

import uvicorn
from django.conf import settings
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser

from nivelum.crews.first import first_code, is_empty
from nivelum.instruments.standin import StandInLevel
from nivelum.served import config, settle
from nivelum.weather.standin import StandInWeather

HOST, PORT = "127.0.0.1", 8000
WAITS = (
    "\nBefore, this was {before}: what devices keep for that address waits until it is served there again "
    "(--port {port})."
)
PORTS_TRIED = 50


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--port", type=int, help="the first port to try; else the one served last")
        parser.add_argument("--empty", action="store_true", help="no demo: somebody begins with a first crew")
        parser.add_argument("--address-file", required=True, help="where to write the address served")
        parser.add_argument("--port-file", type=Path, required=True, help="where the port served last is kept")

    def handle(self, *arguments: Any, **options: Any) -> None:
        call_command("set_up")
        call_command("collectstatic", verbosity=0, interactive=False)
        if not options["empty"]:
            call_command("load_demo")
        elif is_empty():
            print(f"Nobody is here yet. Open /first/ with the code {first_code()}", flush=True)
        stand_in = StandInLevel()
        settings.LEVELS["stand-in"] = ("stand-in", HOST, str(stand_in.port))
        settings.PROBES |= dict.fromkeys(("gauge", "weight"), settings.LEVELS["stand-in"])
        before = _port_before(options["port_file"])
        door = _door(options["port"] or before or PORT)
        port = door.getsockname()[1]
        address = f"http://{HOST}:{port}/"
        if before and before != port:
            print(WAITS.format(before=f"http://{HOST}:{before}/", port=before), flush=True)
        options["port_file"].write_text(str(port), encoding="utf-8")
        weather = StandInWeather()
        settings.FORECASTS = ("http", weather.address)
        with stand_in.serving(), weather.serving():
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
        settle()


def _port_before(file: Path) -> int | None:
    """The port served last, which is where devices have kept what they could not send."""
    try:
        port = int(file.read_text(encoding="utf-8")[:6])
    except (OSError, ValueError):
        return None
    return port if 0 < port < 65536 else None


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
