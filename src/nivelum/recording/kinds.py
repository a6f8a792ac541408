"""How each kind of entry is shown: what like ones are called, what one says, which form makes it and where. A room
says so of its kinds in its module `kinds`; what one is, holds and must find standing, the kind says in the core."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from django.utils.safestring import SafeString
from django.utils.translation import gettext as _

from groundwork.job import BY
from groundwork.kinds import STORED
from groundwork.kinds import Entry as Value
from groundwork.measures import Measured, Unit, format_amount
from groundwork.schools import schools, stagebook
from nivelum.jobs.access import Visit
from nivelum.jobs.models import Entry
from nivelum.jobs.outbox import Way
from nivelum.jobs.templatetags.measures import named, stacked
from nivelum.recording.forms import EntryForm

Says = Callable[[Any, Unit], str]
"""An entry and the crew's unit to its words, which may be marked safe."""


@dataclass(frozen=True)
class Face:
    """A kind as it is shown. `title` and `words` are lazy and may have places for its fields, lengths as typed; words
    that need more are a function. `is_weighty` where it decides something. `form` makes one, on the page named
    `leaf`, its errors without a field beside `first`; `is_plain` where that page has no markup of its own for it.
    `comes_to` is what a device that sends one is told, `again` where one goes that was refused."""

    title: Any
    words: Any = ""
    is_weighty: bool = False
    form: type[EntryForm] | None = None
    leaf: str = ""
    first: str = ""
    is_plain: bool = False
    comes_to: Callable[[Visit, Any], dict[str, str] | None] | None = None
    again: Callable[[Visit, Any], Way] | None = None


FACES: dict[str, Face] = {}
"""Of every kind there is, by name."""


def show(kind: type[Value], face: Face) -> None:
    """Says how a kind is shown. Raises `ValueError` where that is said already."""
    if kind.KIND in FACES:
        raise ValueError(f"{kind.KIND} is shown already")
    FACES[kind.KIND] = face


@dataclass(frozen=True)
class EntryWords:
    """An entry in words: what like ones are called, and what it says."""

    title: str
    words: SafeString
    is_weighty: bool = False


def tell(entry: Entry, unit: Unit) -> EntryWords:
    """An entry of a record in words."""
    face = FACES[entry.kind]
    value = STORED.value(entry.kind, str(entry.id), entry.body, {BY: entry.by_name})
    title = str(face.title).format_map(_fields(value))
    lift = getattr(value, "lift", "")
    return EntryWords(f"{title}, {named(lift)}" if lift else title, say(value, unit), face.is_weighty)


def plain_kinds(leaf: str) -> list[str]:
    """The kinds made on a page that has no markup of their own for them: their forms are drawn field by field."""
    return [kind for kind, face in FACES.items() if face.leaf == leaf and face.is_plain]


def say(value: Value, unit: Unit) -> SafeString:
    """What an entry says, in the crew's unit, fractions stacked."""
    words = FACES[value.KIND].words
    said = words(value, unit) if callable(words) else str(words).format_map(_fields(value)).strip(" .")
    return said if isinstance(said, SafeString) else stacked(said)


def in_unit(pattern: Any) -> Says:
    """Words that give lengths in the crew's unit, however they were typed."""

    def words(value: Value, unit: Unit) -> str:
        shown = {
            name: format_amount(each.metres, unit) if isinstance(each, Measured) else str(each)
            for name, each in vars(value).items()
        }
        return str(pattern).format(**shown)

    return words


class _Fields(dict[str, Any]):
    """What an entry has not leaves a gap in its words."""

    def __missing__(self, key: str) -> str:
        return ""


def _fields(value: Value) -> Mapping[str, Any]:
    """Fields as they are told: lengths as typed, stages and questions by their names."""
    shown = {name: each.raw if isinstance(each, Measured) else each for name, each in vars(value).items()}
    key = str(shown.get("stage", ""))
    stage = stagebook().get(key)
    if stage is not None:
        asks = [*stage.asks, *(ask for school in schools().values() for ask in school.asks.get(key, ()))]
        shown["stage"] = _(stage.name)
        shown["asks"] = next((_(ask.asks) for ask in asks if ask.key == shown.get("ask")), "")
    for name in ("surface", "lift"):
        if shown.get(name):
            shown[name] = named(str(shown[name]))
    if shown.get("role"):
        shown["role"] = _(str(shown["role"]))
    return _Fields({name: "" if each is None else each for name, each in shown.items()})
