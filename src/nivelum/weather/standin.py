"""A forecast service that ships with Nivelum: a small server on loopback with made-up weather by seed.

What the weather will really be is one seeded course of days; a forecast sees it through a haze that grows with how
far it looks, so that forecasts of one hour issued at different times differ, and come nearer. Now and then it is out,
or late: it answers with the forecast before."""

import argparse
import contextlib
import json
import math
import random
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from typing import Any
from urllib.parse import parse_qs, urlsplit

HOST = "127.0.0.1"
EVERY = 3
"""Hours from one forecast to the next."""
AHEAD = 24 * 10
"""Hours a forecast looks ahead."""
SPELL = 9
"""Hours a spell of weather lasts on the mean."""


@dataclass
class WeatherFaults:
    """How bad a service it is: shares of askings on which it is out, and late; how far its haze goes; seconds it
    takes. `now` stands in the place of the clock."""

    out: float = 0.0
    late: float = 0.0
    haze: float = 1.0
    slow: float = 0.0
    now: datetime | None = None


@dataclass(frozen=True)
class Climate:
    """Weather of a month, north: the mean °C, half of what is between night and day, the share of wet spells."""

    mean: float
    swing: float
    wet: float


def climate(month: int) -> Climate:
    """Of a month: coldest in January."""
    year = math.cos(2 * math.pi * (month - 1) / 12)
    return Climate(11.0 - 7.5 * year, 4.0 - 1.5 * year, 0.16 + 0.06 * year)


def weather(seed: str, at: datetime) -> dict[str, Any]:
    """What the weather really is in an hour."""
    of = climate(at.month)
    hours = int(at.timestamp()) // 3600
    spell = random.Random(f"{seed} spell {hours // SPELL}")  # noqa: S311 (no secret)
    day = random.Random(f"{seed} day {hours // 24}")  # noqa: S311
    hour = random.Random(f"{seed} hour {hours}")  # noqa: S311
    is_wet = spell.random() < of.wet
    warmer = day.gauss(0, 2.5)
    celsius = of.mean + warmer - of.swing * math.cos(2 * math.pi * (at.hour - 3) / 24) - (1.5 if is_wet else 0)
    rain = round(spell.expovariate(1 / 1.4) * (0.4 + hour.random()), 1) if is_wet and hour.random() < 0.75 else 0.0
    damp = min(0.98, max(0.35, (0.88 if is_wet else 0.62) - 0.012 * (celsius - of.mean) + hour.gauss(0, 0.04)))
    return {
        "temperature_c": round(celsius, 1), "humidity_percent": round(damp * 100),
        "wind_m_s": round(max(0.3, day.gauss(3.5, 1.6) + hour.gauss(0, 0.8)), 1), "rain_mm": rain,
        "thunder": rain > 3 and of.mean > 13 and hour.random() < 0.5,
    }  # fmt: skip


def forecast(seed: str, issued: datetime, haze: float = 1.0) -> dict[str, Any]:
    """The forecast that is issued at a full hour, UTC."""
    rows = []
    for n in range(AHEAD):
        at = issued + timedelta(hours=n)
        real = weather(seed, at)
        blur = random.Random(f"{seed} {issued.isoformat()} {n}")  # noqa: S311
        far = haze * min(n / 96, 1.0)
        beside = [
            weather(seed, at + timedelta(hours=off))["rain_mm"] > 0 for off in range(-SPELL // 2, SPELL // 2 + 1)
        ]
        near = 0.85 if real["rain_mm"] > 0 else 0.04
        around = sum(beside) / len(beside)
        usual = climate(at.month).wet * 0.75
        chance = (1 - far) * (0.7 * near + 0.3 * around) + far * usual
        chance = min(0.97, max(0.0, chance + blur.gauss(0, 0.03)))
        rain = real["rain_mm"] if blur.random() > far else (1.2 if blur.random() < usual else 0.0)
        rows.append(
            real
            | {
                "time": at.isoformat(), "rain_chance_percent": round(100 * chance),
                "temperature_c": round(real["temperature_c"] + blur.gauss(0, 0.3 + 1.8 * far), 1),
                "rain_mm": round(rain * (1 - 0.3 * far), 1), "thunder": real["thunder"] and far < 0.3,
            }
        )  # fmt: skip
    return {"issued": issued.isoformat(), "source": "Marrow Lock weather, made up", "hours": rows}


def issued_at(now: datetime) -> datetime:
    """When the newest forecast was issued, as a moment has it."""
    now = now.astimezone(UTC)
    return now.replace(hour=now.hour - now.hour % EVERY, minute=0, second=0, microsecond=0)


def forecast_text(seed: str, now: datetime, haze: float = 1.0) -> str:
    """The newest forecast at a moment, as the service says it."""
    return json.dumps(forecast(seed, issued_at(now), haze))


class StandInWeather(ThreadingHTTPServer):
    """The server. It listens on loopback only; `port` 0 takes any that is free."""

    daemon_threads = True

    def __init__(self, port: int = 0, seed: str = "1", faults: WeatherFaults | None = None) -> None:
        super().__init__((HOST, port), _Asked)
        self.seed, self.faults = seed, faults or WeatherFaults()
        self.chance = random.Random(seed)  # noqa: S311

    @property
    def port(self) -> int:
        return int(self.server_address[1])

    @property
    def address(self) -> str:
        return f"http://{HOST}:{self.port}"

    def issued(self) -> datetime:
        """When the newest forecast was issued."""
        return issued_at(self.faults.now or datetime.now(UTC))

    @contextlib.contextmanager
    def serving(self) -> Iterator["StandInWeather"]:
        """Serves in a thread of its own while the block runs."""
        thread = threading.Thread(target=self.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True)
        thread.start()
        try:
            yield self
        finally:
            self.shutdown()
            self.server_close()
            thread.join(5)


class _Asked(BaseHTTPRequestHandler):
    server: StandInWeather

    def do_GET(self) -> None:
        parts, faults = urlsplit(self.path), self.server.faults
        if faults.slow:
            threading.Event().wait(faults.slow)
        if self.server.chance.random() < faults.out:
            self._say(503, {"wrong": "out of order"})
        elif parts.path != "/forecast":
            self._say(404, {"wrong": "ask /forecast?place=…"})
        else:
            issued = self.server.issued()
            if self.server.chance.random() < faults.late:
                issued -= timedelta(hours=EVERY)
            place = parse_qs(parts.query).get("place", [""])[0]
            self._say(200, forecast(f"{self.server.seed} {place}", issued, faults.haze))

    def _say(self, status: int, data: dict[str, Any]) -> None:
        body = json.dumps(data).encode()
        self.send_response(status)
        self.send_header("Content-Type", "application/json")
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        with contextlib.suppress(OSError):
            self.wfile.write(body)

    def log_message(self, *_said: Any) -> None:
        """It keeps no log."""


def main() -> None:
    """Serves until it is stopped."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=0)
    parser.add_argument("--seed", default="1")
    parser.add_argument("--out", type=float, default=0.0, help="the share of askings on which it is out")
    parser.add_argument("--late", type=float, default=0.0, help="the share on which it answers with the one before")
    given = parser.parse_args()
    with StandInWeather(given.port, given.seed, WeatherFaults(given.out, given.late)) as server:
        print(server.address, flush=True)
        with contextlib.suppress(KeyboardInterrupt):
            server.serve_forever()


if __name__ == "__main__":
    main()
