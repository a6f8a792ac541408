"""A level that ships with Nivelum: a small server on loopback with a made-up ground behind it.

It speaks the line protocol of docs/level-protocol.md, and besides takes lines beginning with `!` that say where its
rod stands. Readings have noise and drift; now and then a line is lost or garbled.
"""

import argparse
import contextlib
import math
import random
import socketserver
import threading
from collections.abc import Iterator
from dataclasses import dataclass, field

from nivelum.instruments.lines import DENSITY, LONGEST_LINE, MOISTURE, READING, SETTLEMENT, TROUBLE, written

HOST = "127.0.0.1"
SOFT_SPOTS = 2
"""How many places of a site's hidden ground give."""


@dataclass
class Faults:
    """How bad a level it is: standard deviation of a reading and drift a reading, metres; shares of lines lost and
    garbled; seconds it takes; whether it repeats itself."""

    noise: float = 0.0004
    drift: float = 0.000002
    lost: float = 0.04
    garbled: float = 0.04
    slow: float = 0.0
    stuck: bool = False


@dataclass
class World:
    """One site as the level sees it: its own height, the ground and the points its rod has stood on."""

    seed: int
    faults: Faults
    height: float | None = None
    ground: float = 0.0
    points: dict[str, float] = field(default_factory=dict)
    taken: int = 0
    probe: tuple[float, float, float, float] = (0.0, 0.0, 2100.0, 1.0)
    wet: float = 0.055

    def __post_init__(self) -> None:
        self.chance = random.Random(self.seed)  # noqa: S311 (no secret)
        waves = range(4)
        self.waves = [
            (self.chance.uniform(0.003, 0.011), self.chance.uniform(2, 9), self.chance.uniform(0, 2 * math.pi),
             self.chance.uniform(0, 2 * math.pi))
            for _wave in waves
        ]  # fmt: skip

        # Drawn apart from the levels' own chance, so that the ground stays what it was.
        hidden = random.Random(self.seed + 1)  # noqa: S311 (no secret)
        self.spots = [
            (hidden.uniform(1, 11), hidden.uniform(1, 7), hidden.uniform(0.9, 1.7)) for _spot in range(SOFT_SPOTS)
        ]

    def soft(self, east: float, north: float) -> float:
        """How soft the hidden ground is, from 0 to 1."""
        return max(math.exp(-((east - x) ** 2 + (north - y) ** 2) / (2 * r * r)) for x, y, r in self.spots)

    def stand_probe(self, east: float, north: float, maximum: float, done: float) -> None:
        """A gauge or a falling weight stands on a lift that has had so much of the compaction it needs."""
        self.probe = (east, north, maximum, done)
        self.wet = max(0.0, self.chance.gauss(0.055, 0.003))

    def density(self) -> float:
        """Wet density, kg/m³."""
        east, north, maximum, done = self.probe
        tight = 0.88 + 0.12 * math.sqrt(min(max(done, 0.0), 1.0)) - 0.06 * self.soft(east, north)
        self.taken += 1
        return maximum * (tight + self.chance.gauss(0, 0.004)) * (1 + self.wet)

    def drop(self) -> float:
        """What a falling weight's plate settles by, metres."""
        east, north, _maximum, done = self.probe
        stiff = 36.0 if done < 0 else 20 + 42 * min(done, 1.0)
        stiff *= 1 - 0.8 * self.soft(east, north)
        self.taken += 1
        return 22.5 / stiff / 1000 * (1 + self.chance.gauss(0, 0.02))

    def bump(self, east: float, north: float) -> float:
        """How far the made-up ground lies above what it should be."""
        return sum(
            high * math.sin(2 * math.pi * (east * math.cos(way) + north * math.sin(way)) / long + phase)
            for high, long, way, phase in self.waves
        )

    def stand(self, east: float, north: float, level: float) -> None:
        """The rod stands on the ground, which should be at `level` there."""
        self.ground = level + self.bump(east, north)

    def stand_on(self, point: str, level: float) -> None:
        """The rod stands on a point; the first time it is named it is about `level`."""
        self.ground = self.points.setdefault(point, level)

    def move(self) -> None:
        """The level is set up anew, somewhere from which the rod can be seen."""
        self.height = self.ground + self.chance.uniform(1.15, 1.65)

    def reading(self) -> float | None:
        """What the rod reads, metres; None where it is not in sight."""
        if self.height is None:
            self.move()
        self.taken += 1
        reading = (self.height or 0.0) - self.ground + self.chance.gauss(0, self.faults.noise)
        reading += self.faults.drift * self.taken
        return reading if 0 <= reading <= 5 else None


class StandInLevel(socketserver.ThreadingTCPServer):
    """The server. It listens on loopback only; `port` 0 takes any that is free."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, port: int = 0, seed: int = 1, faults: Faults | None = None) -> None:
        super().__init__((HOST, port), _Conversation)
        self.seed, self.faults = seed, faults or Faults()
        self.worlds: dict[str, World] = {}
        self.turn = threading.Lock()

    @property
    def port(self) -> int:
        return int(self.server_address[1])

    def world(self, name: str) -> World:
        """A world by its name; each has its own ground, the same every time."""
        if name not in self.worlds:
            self.worlds[name] = World(self.seed + sum(name.encode()), self.faults)
        return self.worlds[name]

    @contextlib.contextmanager
    def serving(self) -> Iterator["StandInLevel"]:
        """Serves in a thread of its own while the block runs."""
        thread = threading.Thread(target=self.serve_forever, kwargs={"poll_interval": 0.05}, daemon=True)
        thread.start()
        try:
            yield self
        finally:
            self.shutdown()
            self.server_close()
            thread.join(5)


class _Conversation(socketserver.StreamRequestHandler):
    server: StandInLevel

    def handle(self) -> None:
        world = self.server.world("")
        with contextlib.suppress(OSError):
            while line := self.rfile.readline(LONGEST_LINE + 1):
                with self.server.turn:
                    said = line.decode("ascii", "replace").split()
                    if said[:1] == ["!WORLD"] and len(said) == 2:
                        world = self.server.world(said[1])
                        continue
                    answer = self._answer(world, said)
                if answer and not self._say(world, answer):
                    return

    def _answer(self, world: World, said: list[str]) -> str | None:
        number = 0 if self.server.faults.stuck else world.taken + 1
        match said:
            case ["READ"]:
                reading = world.reading()
                return (
                    written(TROUBLE, number, "NOROD")
                    if reading is None
                    else written(READING, number, round(reading * 10_000))
                )
            case ["DENSITY"]:
                return written(DENSITY, number, round(world.density() * 10))
            case ["MOISTURE"]:
                world.taken += 1
                return written(MOISTURE, number, round(world.wet * 10_000))
            case ["DROP"]:
                return written(SETTLEMENT, number, round(world.drop() * 1e6))
            case ["!PROBE", east, north, maximum, done]:
                with contextlib.suppress(ValueError):
                    world.stand_probe(float(east), float(north), float(maximum), float(done))
                return None
            case ["!ROD", east, north, level]:
                with contextlib.suppress(ValueError):
                    world.stand(float(east), float(north), float(level))
                return None
            case ["!POINT", name, level]:
                with contextlib.suppress(ValueError):
                    world.stand_on(name, float(level))
                return None
            case ["!MOVE"]:
                world.move()
                return None
        return written(TROUBLE, number, "WHAT")

    def _say(self, world: World, answer: str) -> bool:
        """Sends an answer, or what is left of it."""
        faults = world.faults
        if faults.slow:
            threading.Event().wait(faults.slow)
        if world.chance.random() < faults.lost:
            return True
        if world.chance.random() < faults.garbled:
            place = world.chance.randrange(len(answer))
            answer = (
                answer[:place]
                + world.chance.choice("0123456789LE#?".replace(answer[place], ""))
                + answer[place + 1 :]
            )
        self.wfile.write(answer.encode("ascii") + b"\n")
        return True


def main() -> None:
    """Serves until it is stopped."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--port", type=int, default=0)
    parser.add_argument("--seed", type=int, default=1)
    given = parser.parse_args()
    with StandInLevel(given.port, given.seed) as level:
        print(f"{HOST}:{level.port}", flush=True)
        with contextlib.suppress(KeyboardInterrupt):
            level.serve_forever()


if __name__ == "__main__":
    main()
