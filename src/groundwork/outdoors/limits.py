"""What weather does to work, as data: `limits.toml`. A crew may set a limit its own way."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cache
from importlib import resources

from groundwork.measures import Source


class Outdoors(StrEnum):
    """Work as the weather sees it: dug, compacted with fines in it or clean, laid as fabric, placed as concrete,
    mortar or a bond coat, screeded, laid, swept in dry, filled with what sets; anything else out of doors."""

    DIG = "dig"
    FINES = "fines"
    CLEAN = "clean"
    FABRIC = "fabric"
    CONCRETE = "concrete"
    MORTAR = "mortar"
    BOND = "bond"
    BED = "bed"
    UNITS = "units"
    SWEEPING = "sweeping"
    BONDED = "bonded"
    ANY = "any"


class Held(StrEnum):
    """What of the weather is held to a limit."""

    RAIN = "rain"
    CELSIUS = "celsius"
    WARMING = "warming"
    COMING_24 = "coming_24"
    COMING_48 = "coming_48"
    EVAPORATION = "evaporation"
    OVER_DEW = "over_dew"
    DRY = "dry"
    WIND = "wind"
    THUNDER = "thunder"


class WrongSide(StrEnum):
    """On which side of a limit it is wrong, and whether the limit itself is."""

    OVER = "over"
    UNDER = "under"
    FROM = "from"
    FROM_BELOW = "from-below"


WITHIN = 1e-9


@dataclass(frozen=True)
class WeatherLimit:
    """`works` are held to `at` by what is `of` the weather; past it, on that `side`, they wait, or go on with what
    `beside` says. `says` is what is said of it, `why` its reason, `source` its standing."""

    key: str
    works: frozenset[str]
    of: Held
    side: WrongSide
    at: float
    beside: str
    says: str
    why: str
    source: Source

    @property
    def waits(self) -> bool:
        return not self.beside

    def applies(self, work: Outdoors) -> bool:
        return "all" in self.works or work in self.works

    def is_past(self, value: float) -> bool:
        """Whether a value is on the wrong side."""
        match self.side:
            case WrongSide.OVER:
                return value > self.at + WITHIN
            case WrongSide.UNDER:
                return value < self.at - WITHIN
            case WrongSide.FROM:
                return value >= self.at - WITHIN
            case WrongSide.FROM_BELOW:
                return value <= self.at + WITHIN


_SOURCES = {"practice": Source.PRACTICE, "memory": Source.MEMORY, "published": Source.PUBLISHED}


@cache
def limits() -> Mapping[str, WeatherLimit]:
    """Every limit by its key, as it usually is."""
    data = tomllib.loads(resources.files("groundwork.outdoors").joinpath("limits.toml").read_text(encoding="utf-8"))
    found = {}
    for key, row in data.items():
        side = next(side for side in WrongSide if side.value in row)
        found[key] = WeatherLimit(
            key, frozenset(row["works"]), Held(row["of"]), side, float(row[side]),
            row["with"] if row["then"] == "with" else "", row["says"], row["why"],
            _SOURCES[row.get("source", "practice")],
        )  # fmt: skip
    return found


def limits_of(own: Mapping[str, float]) -> Mapping[str, WeatherLimit]:
    """Every limit, with those a crew has set its own way."""
    return {key: replace(limit, at=own[key]) if key in own else limit for key, limit in limits().items()}
