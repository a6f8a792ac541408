"""What layers are made of: a catalogue in `materials.toml`, common practice where it gives numbers."""

import tomllib
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from importlib import resources
from typing import Any

from groundwork.measures import Said


class Family(StrEnum):
    """What a material does to water, fines and load."""

    UNIT = "unit"
    CELLS = "cells"
    SAND = "sand"
    CHIP = "chip"
    DUST = "dust"
    MORTAR = "mortar"
    DENSE = "dense"
    OPEN = "open"
    CONCRETE = "concrete"
    PERVIOUS = "pervious"
    PANEL = "panel"


DRAINING = frozenset({Family.CHIP, Family.OPEN, Family.PERVIOUS})
STONE = frozenset({Family.DENSE, Family.OPEN, Family.DUST})
POURED = frozenset({Family.CONCRETE, Family.PERVIOUS})


@dataclass(frozen=True)
class Material:
    """`density` compacted and dry, kg/m³; `bulking` loose over compacted volume; `voids` the share that holds water;
    `largest` its largest stone, metres; `optimum` the moisture it compacts best at, None where water is no matter;
    `overfill` what is filled over its thickness, metres; `is_there` where nobody brings it."""

    key: str
    title: str
    family: Family
    density: float
    bulking: float = 1.0
    voids: float = 0.0
    largest: float = 0.0
    optimum: float | None = None
    overfill: float = 0.0
    is_there: bool = False


@cache
def catalogue() -> dict[str, Material]:
    """Every material by its key."""
    data = tomllib.loads(resources.files("groundwork.base").joinpath("materials.toml").read_text(encoding="utf-8"))
    return {key: _read(key, row) for key, row in data.items()}


def _read(key: str, row: dict[str, Any]) -> Material:
    family, density = Family(row["family"]), row["density"] * 1000
    return Material(
        key,
        row["title"],
        family,
        density,
        row.get("bulking", 1.0),
        row.get("voids", 0.0),
        row.get("largest_mm", 0) / 1000,
        row.get("optimum"),
        row.get("overfill_mm", 0) / 1000,
        row.get("there", False),
    )


def material(key: str) -> Material:
    """The material of that key. Raises `ValueError` where the catalogue has none."""
    try:
        return catalogue()[key]
    except KeyError:
        raise Said("no material is called “{key}”: one of {known}", key=key, known=", ".join(catalogue())) from None
