"""Entries as JSON values and back, by cattrs. A length stands as it was typed beside its metres; a key in JSON ends
in its unit where it has one."""

from collections.abc import Callable, Mapping
from dataclasses import fields, replace
from datetime import date, datetime
from functools import cache
from types import MappingProxyType
from typing import Annotated, Any, Protocol, TypeVar, cast, get_args, get_origin, get_type_hints, runtime_checkable

import cattrs
from cattrs.gen import make_dict_structure_fn, make_dict_unstructure_fn, override

from groundwork.kinds.fields import LATEST, LINK
from groundwork.kinds.kind import KINDS, Entry
from groundwork.kinds.nested import instrument, instrument_data, machine, machine_data
from groundwork.measures import Measured, Typed
from groundwork.surfaces import Point
from groundwork.tools import Instrument, Machine

TypedReader = Callable[[Any, Typed], Measured]
TypedWriter = Callable[[Measured, Typed], Any]
_E = TypeVar("_E", bound=Entry)
NOTHING: Mapping[str, Any] = MappingProxyType({})


@runtime_checkable
class OwnBody(Protocol):
    """An entry with a way of its own into JSON and back."""

    def body(self) -> dict[str, Any]: ...

    @classmethod
    def of_body(cls, entry_id: str, body: Mapping[str, Any]) -> Entry: ...


class Codec:
    """How entries are written and read: lengths as `read` and `put` have them. `strict` says where something cannot
    be read, which takes longer."""

    def __init__(self, read: TypedReader, put: TypedWriter, strict: bool = False) -> None:
        self._by = _converter(read, put, strict)

    def body(self, entry: Entry) -> dict[str, Any]:
        """An entry as JSON values, without its identifier and kind, nor what is known of it by who made it."""
        if isinstance(entry, OwnBody):
            return entry.body()
        written: dict[str, Any] = self._by.unstructure(entry)
        return {key: value for key, value in written.items() if key != "id" and not key.startswith("@")}

    def value(self, kind: str, entry_id: str, body: Mapping[str, Any], known: Mapping[str, Any] = NOTHING) -> Entry:
        """The entry of a kind from JSON values; what is left out is as usual, what is not known is passed over.
        `known` is what is known of it beside its body. Raises `KeyError` for an unknown kind or something missing,
        `ValueError` for a value that cannot be, or their like with every place if strict."""
        made: Any = KINDS[kind]
        if issubclass(made, OwnBody):
            return cast(Entry, made.of_body(entry_id, body))
        return self._by.structure({**body, **known, "id": entry_id}, made)  # type: ignore[no-any-return]


def key_of(made: type[Entry], name: str) -> str:
    """The key in JSON of a field of a kind."""
    return json_key(name, hints_of(made)[name])


def is_anchored(made: type[Entry]) -> bool:
    """Whether an entry of a kind is taken against a set-up, which a job file may leave out."""
    return any(LATEST in get_args(hint) for hint in hints_of(made).values())


def json_key(name: str, hint: Any) -> str:
    """A field's key in JSON: as said beside its type, places with their unit, anything else by its name."""
    said = next((part for part in get_args(hint)[1:] if isinstance(part, str)), None)
    if get_origin(hint) is Annotated and said:
        return said
    return f"{name}_m" if _is_places(hint) else name


def hints_of(made: type[Entry]) -> Mapping[str, Any]:
    """The type of each field, with what is said beside it."""
    kind: Any = made  # a class can always be hashed, whatever its objects can
    return _hints_of(kind)


@cache
def _hints_of(made: Any) -> Mapping[str, Any]:
    hints = get_type_hints(made, include_extras=True)
    return MappingProxyType({each.name: hints[each.name] for each in fields(made)})


def _is_places(hint: Any) -> bool:
    """Whether it is a point on the plan, if any, or a row of them."""
    if get_origin(hint) is Annotated:
        return _is_places(get_args(hint)[0])
    return hint == Point or any(part == Point for part in get_args(hint))


def _converter(read: TypedReader, put: TypedWriter, strict: bool) -> cattrs.Converter:
    by = cattrs.Converter(detailed_validation=strict, unstruct_collection_overrides={tuple: list})

    def renames(made: type[Entry]) -> dict[str, Any]:
        keys = {name: json_key(name, hint) for name, hint in hints_of(made).items()}
        return {name: override(rename=key) for name, key in keys.items() if key != name}

    def is_entry(made: Any) -> bool:
        return isinstance(made, type) and issubclass(made, Entry)

    def is_length(hint: Any) -> bool:
        return get_origin(hint) is Annotated and get_args(hint)[0] is Measured

    def how(hint: Any) -> Typed:
        return next(part for part in get_args(hint) if isinstance(part, Typed))

    by.register_structure_hook_factory(is_entry, lambda made: make_dict_structure_fn(made, by, **renames(made)))
    by.register_unstructure_hook_factory(is_entry, lambda made: make_dict_unstructure_fn(made, by, **renames(made)))
    by.register_structure_hook_factory(is_length, lambda hint: lambda kept, _to: read(kept, how(hint)))
    by.register_unstructure_hook_factory(is_length, lambda hint: lambda value: put(value, how(hint)))
    by.register_structure_hook(date, lambda kept, _to: kept if isinstance(kept, date) else date.fromisoformat(kept))
    by.register_unstructure_hook(date, lambda value: value.isoformat())
    by.register_structure_hook(datetime, lambda kept, _to: _minute(kept))
    by.register_unstructure_hook(datetime, lambda value: value.isoformat(timespec="minutes"))
    by.register_structure_hook(Instrument, lambda kept, _to: instrument(kept))
    by.register_unstructure_hook(Instrument, instrument_data)
    by.register_structure_hook(Machine, lambda kept, _to: machine(kept))
    by.register_unstructure_hook(Machine, machine_data)
    return by


def _minute(kept: Any) -> datetime:
    """A minute of a day by the clock on site. Raises `ValueError` for one of another place's clock."""
    at = kept if isinstance(kept, datetime) else datetime.fromisoformat(kept)
    if at.tzinfo is not None:
        raise ValueError("a time by the clock on site has no offset")
    return at


def _both(measured: Measured, _how: Typed) -> dict[str, Any]:
    return {"typed": measured.raw, "m": measured.metres}


def _as_kept(kept: Any, _how: Typed) -> Measured:
    return Measured(kept["typed"], kept["m"])


STORED = Codec(_as_kept, _both)
"""Entries as a record keeps them."""


def renamed(entry: _E, names: Mapping[str, str]) -> _E:
    """`entry` under new identifiers, what it names among entries too."""
    links = [name for name, hint in hints_of(type(entry)).items() if LINK in get_args(hint)]
    changed: Any = entry
    named = {name: names.get(getattr(entry, name), getattr(entry, name)) for name in links}
    return replace(changed, id=names[entry.id], **named)  # type: ignore[no-any-return]
