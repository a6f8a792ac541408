"""What is recorded on a job, as plain values, and as the JSON values they are kept in.

A length stands as it was typed beside its metres; a key in JSON ends in its unit where it has one.
"""

import types
from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields, replace
from datetime import date
from enum import StrEnum
from functools import cache
from typing import Annotated, Any, ClassVar, Union, get_args, get_origin, get_type_hints

from groundwork.base import SurfaceKey
from groundwork.layerwork import Work
from groundwork.measures import Measured, Typed
from groundwork.observations import Witness
from groundwork.surfaces import Point
from groundwork.tools import (
    HEIGHT_METER,
    LASER,
    STRAIGHTEDGE,
    STRING,
    STRING_TENSION,
    STRING_WEIGHT,
    TAPE,
    Instrument,
    Machine,
    MachineKind,
    Method,
)


@dataclass(frozen=True)
class SetUp:
    """The level set up by a backsight on a mark or turning point; `at` is where it stands, if known."""

    KIND: ClassVar[str] = "set_up"
    id: str
    mark: str
    backsight: Measured
    instrument: Instrument = LASER
    at: Point | None = None


@dataclass(frozen=True)
class Foresight:
    """A sight on a mark, to check or to close, or on a turning point before the level moves."""

    KIND: ClassVar[str] = "foresight"
    id: str
    set_up: str
    point: str
    reading: Measured
    at: Point | None = None


@dataclass(frozen=True)
class MeterBase:
    """The height meter's base on a mark, where it shows `shows`: nothing, when it was set to zero."""

    KIND: ClassVar[str] = "meter_base"
    id: str
    mark: str
    shows: Annotated[Measured, Typed.SIGNED]
    instrument: Instrument = HEIGHT_METER


@dataclass(frozen=True)
class StringLine:
    """A string from one place to another, so high above the finished level there; `start_level` and `end_level`
    are what that came to when it was tied. `weight` is in grams a metre, `tension` in newtons."""

    KIND: ClassVar[str] = "string"
    id: str
    start: str
    end: str
    start_at: Point
    end_at: Point
    start_height: Annotated[Measured, Typed.LAYER]
    end_height: Annotated[Measured, Typed.LAYER]
    start_level: Annotated[float, "start_level_m"]
    end_level: Annotated[float, "end_level_m"]
    weight: Annotated[float, "weight_g_m"] = STRING_WEIGHT
    tension: Annotated[float, "tension_n"] = STRING_TENSION
    instrument: Instrument = STRING


@dataclass(frozen=True)
class TapeDatum:
    """Depths taped down from the existing ground as its spot levels give it."""

    KIND: ClassVar[str] = "tape"
    id: str
    instrument: Instrument = TAPE


@dataclass(frozen=True)
class Reading:
    """What was read at a station against what `set_up` names: a level, a string, a height meter's base, the ground.

    `same_ground`: the surface is as it was at the reading before. `sure`: it was asked about and stands.
    """

    KIND: ClassVar[str] = "reading"
    id: str
    station: str
    set_up: str
    reading: Annotated[Measured, Typed.SIGNED]
    same_ground: bool = False
    surface: str = SurfaceKey.FORMATION
    sure: bool = False


@dataclass(frozen=True)
class FallCheck:
    """A straightedge held level from one station towards another: the gap under its far end, over its length."""

    KIND: ClassVar[str] = "fall"
    id: str
    start: str
    end: str
    length: Annotated[Measured, Typed.BAR]
    gap: Annotated[Measured, Typed.SIGNED]
    surface: str = SurfaceKey.FORMATION
    instrument: Instrument = STRAIGHTEDGE


@dataclass(frozen=True)
class Fill:
    """Material put back at a station and compacted."""

    KIND: ClassVar[str] = "fill"
    id: str
    station: str
    material: str
    lifts: int = 1

    @property
    def is_stone(self) -> bool:
        return self.material == "stone"


@dataclass(frozen=True)
class Strike:
    """Strikes out an earlier entry, which stays in the record but no longer counts."""

    KIND: ClassVar[str] = "strike"
    id: str
    strikes: str
    reason: str = ""


@dataclass(frozen=True)
class Correction:
    """What an earlier entry should have read; the first stays in the record."""

    KIND: ClassVar[str] = "correction"
    id: str
    corrects: str
    reading: Annotated[Measured, Typed.SIGNED]
    reason: str = ""


@dataclass(frozen=True)
class Disturbance:
    """A mark or turning point was knocked: nothing hung on it from the set-up `since` on, or ever, is known."""

    KIND: ClassVar[str] = "disturbed"
    id: str
    point: str
    since: str = ""


@dataclass(frozen=True)
class PegDistance:
    """A side or diagonal as taped between two pegs."""

    KIND: ClassVar[str] = "distance"
    id: str
    start: str
    end: str
    length: Annotated[Measured, Typed.PLAN]
    instrument: Instrument = TAPE


@dataclass(frozen=True)
class PegMove:
    """A peg was moved: what was taped to it before no longer holds."""

    KIND: ClassVar[str] = "peg_move"
    id: str
    peg: str


@dataclass(frozen=True)
class MarginMeasured:
    """How far the dig passes the paved edge on the side from corner `side` to the next."""

    KIND: ClassVar[str] = "margin"
    id: str
    side: int
    width: Annotated[Measured, Typed.LAYER]


@dataclass(frozen=True)
class ServicesLocated:
    """Services located and marked: on what ticket, when, by whom and for how many days it holds; what the local
    colours mean and what was found, in words."""

    KIND: ClassVar[str] = "services"
    id: str
    ticket: str
    located_on: date
    life_days: int
    by: str
    scheme: str = ""
    found: str = ""


Entry = (
    SetUp | Foresight | MeterBase | StringLine | TapeDatum | Reading | FallCheck | Fill | Strike | Correction
    | Disturbance | PegDistance | PegMove | MarginMeasured | ServicesLocated | Witness | Work
)  # fmt: skip
KINDS: dict[str, type[Any]] = {kind.KIND: kind for kind in get_args(Entry)}
Anchor = SetUp | MeterBase | StringLine | TapeDatum
"""What a reading may be taken against."""
TypedReader = Callable[[Any, Typed], Measured]
TypedWriter = Callable[[Measured, Typed], Any]


def renamed(entry: Entry, names: Mapping[str, str]) -> Entry:
    """`entry` under new identifiers, what it names among entries too."""
    changed: Any = entry
    links = {key: names.get(named, named) for key in _LINKS if isinstance(named := getattr(entry, key, None), str)}
    return replace(changed, id=names[entry.id], **links)  # type: ignore[no-any-return]


_LINKS = ("set_up", "strikes", "corrects", "since", "machine", "spot")


def entry_body(entry: Entry, written: TypedWriter | None = None) -> dict[str, Any]:
    """An entry as JSON values, without its identifier and kind; lengths as `written` puts them."""
    put = written or _both
    return {key: to_data(getattr(entry, name), put) for name, key, to_data, _read in _codec(entry.KIND)}


def entry_value(kind: str, entry_id: str, body: dict[str, Any], typed: TypedReader | None = None) -> Entry:
    """The entry of a kind from JSON values; what is left out is as usual. Raises `KeyError` for an unknown kind
    or something missing, `ValueError` for a value that cannot be."""
    made = KINDS[kind]
    read_length = typed or _as_kept
    values = {name: read(body[key], read_length) for name, key, _put, read in _codec(kind) if key in body}
    try:
        return made(entry_id, **values)  # type: ignore[no-any-return]
    except TypeError as error:
        raise KeyError(str(error)) from error


def _both(measured: Measured, _how: Typed) -> dict[str, Any]:
    return {"typed": measured.raw, "m": measured.metres}


def _as_kept(kept: Any, _how: Typed) -> Measured:
    return Measured(kept["typed"], kept["m"])


_Put = Callable[[Any, TypedWriter], Any]
_Read = Callable[[Any, TypedReader], Any]


@cache
def _codec(kind: str) -> tuple[tuple[str, str, _Put, _Read], ...]:
    """Each field of an entry: its name, its key in JSON, and how it is put there and read back."""
    made = KINDS[kind]
    hints = get_type_hints(made, include_extras=True)
    found: list[tuple[str, str, _Put, _Read]] = []
    for each in fields(made):
        hint, how, key = hints[each.name], Typed.ROD, each.name
        if get_origin(hint) is Annotated:
            hint, said = get_args(hint)
            how, key = (said, key) if isinstance(said, Typed) else (how, said)
        optional = get_origin(hint) in (Union, types.UnionType)
        if optional:
            hint = next(part for part in get_args(hint) if part is not type(None))
        if _is_places(hint):
            key = f"{each.name}_m"
        if each.name != "id":
            put, read = _both_ways(hint, how)
            found.append((each.name, key, _or_nothing(put), _or_nothing(read) if optional else read))
    return tuple(found)


def _is_places(hint: Any) -> bool:
    """Whether it is a point on the plan or a row of them."""
    return hint == Point or (get_origin(hint) is tuple and get_args(hint)[0] == Point)


def _or_nothing(change: Any) -> Any:
    return lambda value, by: None if value is None else change(value, by)


def _both_ways(hint: Any, how: Typed) -> tuple[_Put, _Read]:
    if hint is Measured:
        return lambda value, put: put(value, how), lambda kept, read: read(kept, how)
    if get_origin(hint) is tuple:
        return _rows(hint)
    if hint in _NESTED:
        to_data, to_value = _NESTED[hint]
        return lambda value, _put: to_data(value), lambda kept, _read: to_value(kept)
    if hint is date:
        return lambda value, _put: value.isoformat(), lambda kept, _read: date.fromisoformat(kept)
    if isinstance(hint, type) and issubclass(hint, StrEnum):
        return lambda value, _put: str(value), lambda kept, _read: hint(kept)
    return lambda value, _put: value, lambda kept, _read: hint(kept)


def _rows(hint: Any) -> tuple[_Put, _Read]:
    """A point, or a row of points or numbers."""
    if hint == Point:
        return lambda value, _put: list(value), lambda kept, _read: _point(kept)
    of = get_args(hint)[0]
    if of == Point:
        return lambda value, _put: [list(p) for p in value], lambda kept, _read: tuple(_point(p) for p in kept)
    return lambda value, _put: list(value), lambda kept, _read: tuple(of(part) for part in kept)


def _point(kept: list[float]) -> Point:
    return float(kept[0]), float(kept[1])


def instrument_data(value: Instrument) -> dict[str, Any]:
    return {
        "method": str(value.method),
        "name": value.name,
        "reading_u_mm": round(value.reading_u * 1000, 6),
        "rate_mm_m": round(value.rate * 1000, 6),
        "collimation_mm_m": round(value.collimation * 1000, 6),
    }


def instrument(kept: dict[str, Any] | str) -> Instrument:
    """An instrument from JSON values, or by its method's name alone."""
    if isinstance(kept, str):
        return Instrument(Method(kept))
    return Instrument(
        Method(kept["method"]),
        kept.get("name", ""),
        kept.get("reading_u_mm", 0) / 1000,
        kept.get("rate_mm_m", 0) / 1000,
        kept.get("collimation_mm_m", 0) / 1000,
    )


def machine_data(value: Machine) -> dict[str, Any]:
    return {
        "name": value.name,
        "kind": str(value.kind),
        "mass_kg": value.mass,
        "width_m": value.width,
        "length_m": value.length,
        "speed_m_s": value.speed,
        "force_kn": value.force,
        "vibration_m_s2": value.vibration,
    }


def machine(kept: dict[str, Any]) -> Machine:
    """A machine from JSON values; speed and vibration are as usual where left out."""
    return Machine(
        kept["name"],
        MachineKind(kept["kind"]),
        float(kept["mass_kg"]),
        float(kept["width_m"]),
        *(float(kept.get(key, 0)) for key in ("length_m", "speed_m_s", "force_kn", "vibration_m_s2")),
    )


_NESTED: dict[Any, tuple[Callable[[Any], Any], Callable[[Any], Any]]] = {
    Instrument: (instrument_data, instrument),
    Machine: (machine_data, machine),
}
