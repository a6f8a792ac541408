"""A forecast service behind a driver: asked over HTTP for a place, it answers with the open format of a forecast."""

import http.client
import time
from collections.abc import Callable
from typing import Protocol
from urllib.parse import quote, urlsplit

from django.conf import settings

from groundwork.weather import LARGEST_FORECAST

PATIENCE = 3.0
"""Seconds a page waits for a forecast at the most."""


class NoForecast(Exception):
    """The service gave none."""


class ForecastService(Protocol):
    """What every service can do."""

    def ask(self, place: str) -> str:
        """The forecast of a place as text. Raises `NoForecast`."""


class HttpService:
    """A service that answers `GET /forecast?place=…` with a forecast as JSON or CSV."""

    def __init__(self, address: str, patience: float = PATIENCE) -> None:
        self.address, self.patience = address, patience

    def ask(self, place: str) -> str:
        parts = urlsplit(self.address)
        kind = http.client.HTTPSConnection if parts.scheme == "https" else http.client.HTTPConnection
        until = time.monotonic() + self.patience
        try:
            line = kind(parts.hostname or "", parts.port, timeout=self.patience)
            try:
                line.request("GET", f"{parts.path.rstrip('/')}/forecast?place={quote(place)}")
                answer = line.getresponse()
                if answer.status != 200:
                    raise NoForecast(f"it answered {answer.status}")
                return _read(answer, until).decode()
            finally:
                line.close()
        except (OSError, http.client.HTTPException, UnicodeDecodeError) as error:
            raise NoForecast(str(error)) from error


def _read(answer: http.client.HTTPResponse, until: float) -> bytes:
    """What it says, no more of it than a forecast is, and no longer than there is patience for."""
    found = b""
    while part := answer.read1(65_536):
        found += part
        if len(found) > LARGEST_FORECAST:
            raise NoForecast("it goes on and on")
        if time.monotonic() > until:
            raise NoForecast("it is too slow")
    return found


DRIVERS: dict[str, Callable[[str], ForecastService]] = {"http": HttpService}


def service() -> ForecastService | None:
    """The service this installation has; None where it has none."""
    if not settings.FORECASTS:
        return None
    kind, address = settings.FORECASTS
    return DRIVERS[kind](address)
