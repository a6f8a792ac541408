"""The stages of the work as data: what each asks people to look at, who signs it. In `stages.toml`;
common practice throughout, no published source, unless a row says otherwise."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from importlib import resources
from typing import Any

BRIEF, SET_OUT, EXCAVATION, PROOF = "brief", "set-out", "excavation", "base-proof"


class Slot(StrEnum):
    """Whose signature a stage wants: the one who answers for it, an engineer's, a second pair of eyes."""

    LEAD = "lead"
    ENGINEER = "engineer"
    SECOND = "second look"


@dataclass(frozen=True)
class Ask:
    """What only eyes can judge: why it matters, and what wrong looks like. `when` names the condition under which it
    is asked; with `photo` a picture answers it."""

    key: str
    asks: str
    why: str
    wrong: str
    when: str = ""
    photo: bool = False


@dataclass(frozen=True)
class Recheck:
    """What to look at again, so many days after handover."""

    what: str
    days: int


@dataclass(frozen=True)
class Stage:
    """One stage of the work; `title` is short, as on the line of stages. `structural` ones want an engineer's
    signature too where the traffic does; `when` names the condition under which a base has it at all."""

    key: str
    title: str
    name: str
    asks: tuple[Ask, ...] = ()
    structural: bool = False
    when: str = ""


@cache
def stagebook() -> Mapping[str, Stage]:
    """Every stage by its key, in the order practitioners work."""
    return {key: _stage(key, row) for key, row in _data().items()}


@cache
def rechecks() -> tuple[Recheck, ...]:
    """What any paving wants looked at again after handover, soonest first."""
    return tuple(Recheck(row["what"], row["days"]) for row in _data()["handover"]["rechecks"])


def ask(row: Mapping[str, Any]) -> Ask:
    """An ask from its row of data."""
    return Ask(row["key"], row["asks"], row["why"], row["wrong"], row.get("when", ""), row.get("photo", False))


@cache
def _data() -> dict[str, Any]:
    return tomllib.loads(resources.files("groundwork.schools").joinpath("stages.toml").read_text(encoding="utf-8"))


def _stage(key: str, row: Mapping[str, Any]) -> Stage:
    return Stage(
        key,
        row["title"],
        row["name"],
        tuple(map(ask, row.get("asks", []))),
        row.get("structural", False),
        row.get("when", ""),
    )
