"""What joints are filled with, as data: `fills.toml`."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib import resources


@dataclass(frozen=True)
class FillStep:
    """A step of filling: what one does, and what one then sees."""

    key: str
    does: str
    sees: str


@dataclass(frozen=True)
class JointFill:
    """A filling: loose `density`, kg/m³; `least` and `most` below the edge of the units, metres, above it below
    nought, and from `stop` on it is to be filled up; `over_dew` kelvin a surface is to be over the dew point, None
    where that is nothing to it; for `dry` hours it stays dry; `after` the mortar it stands on
    has set; filled into `cells`, or into joints."""

    key: str
    density: float
    least: float
    most: float
    stop: float
    steps: tuple[FillStep, ...]
    over_dew: float | None = None
    dry: float = 0.0
    after: bool = False
    cells: bool = False


@cache
def fillings() -> Mapping[str, JointFill]:
    """Every filling by the name schools give it."""
    data = tomllib.loads(resources.files("groundwork.jointing").joinpath("fills.toml").read_text(encoding="utf-8"))
    rows = {key: data[row["like"]] if "like" in row else row for key, row in data.items()}
    return {
        key: JointFill(
            key, row["density"], row["below_mm"][0] / 1000, row["below_mm"][1] / 1000, row["stop_mm"] / 1000,
            tuple(FillStep(step["key"], step["does"], step["sees"]) for step in row["steps"]),
            row.get("over_dew_k"), row.get("dry_h", 0.0), row.get("after_mortar", False), row.get("cells", False),
        )
        for key, row in rows.items()
    }  # fmt: skip


def filling(key: str) -> JointFill:
    """A filling by name; what is none of them is filled as dry sand is."""
    return fillings().get(key) or fillings()["dry sand"]
