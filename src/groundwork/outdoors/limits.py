"""What weather does to work, as data: `limits.toml`. A crew may set a limit its own way."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cache
from importlib import resources

from groundwork.measures import FOOT, INCH, MILE, POUND, Source, Unit


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


@dataclass(frozen=True)
class LimitScale:
    """How a crew writes a limit: it is `(typed - zero) * per` in SI, °C, mm an hour or a share; `sign` follows it."""

    sign: str = ""
    per: float = 1.0
    zero: float = 0.0

    def shown(self, at: float) -> str:
        """To three decimals, without zeros at its end."""
        return f"{round(at / self.per + self.zero, 3):g}"

    def read(self, typed: float) -> float:
        return (typed - self.zero) * self.per


_WARM = (Held.CELSIUS, Held.WARMING, Held.COMING_24, Held.COMING_48)
_METRIC = {
    Held.RAIN: LimitScale("mm/h"),
    Held.WIND: LimitScale("km/h", 1 / 3.6),
    Held.EVAPORATION: LimitScale("kg/m²"),
    Held.DRY: LimitScale("", 0.01),
} | dict.fromkeys(_WARM, LimitScale("°C"))
_FEET = {
    Held.RAIN: LimitScale("in/h", INCH * 1000),
    Held.WIND: LimitScale("mph", MILE / 3600),
    Held.EVAPORATION: LimitScale("lb/ft²", POUND / FOOT**2),
    Held.DRY: LimitScale("", 0.01),
} | dict.fromkeys(_WARM, LimitScale("°F", 1 / 1.8, 32.0))
_POSSIBLE = {
    Held.RAIN: (0.0, 100.0), Held.WIND: (0.0, 60.0), Held.DRY: (0.0, 1.0), Held.EVAPORATION: (0.0, 5.0),
    Held.OVER_DEW: (0.0, 20.0),
} | dict.fromkeys(_WARM, (-40.0, 60.0))  # fmt: skip


def scale_of(of: Held, unit: Unit) -> LimitScale:
    """What a crew that works in `unit` writes a limit of this kind in."""
    return (_METRIC if unit.is_metric else _FEET).get(of, LimitScale())


def may_be(of: Held, at: float) -> bool:
    """Whether a limit of this kind can be there at all."""
    least, most = _POSSIBLE[of]
    return least <= at <= most
