"""What is worked out once for a job, and carried over to the next step of it by identity.

A job grows by an entry at a time, and an entry touches little. Every value worked out is kept with the values it was
worked out from, which are noted while it is made; after a step it stands as long as each of those is still the same
object, and is worked out again where one is not. Nothing says by hand what hangs on what, so nothing is forgotten: a
value that reads what it should not is only worked out too often.
"""

import threading
from collections.abc import Callable
from functools import wraps
from typing import Any, ClassVar, Concatenate, NamedTuple, ParamSpec, TypeVar

Key = tuple[str, str, tuple[Any, ...]]
"""What is worked out: the part it is of, its name there, and what it is asked of."""


BESIDE = "beside"
"""The part of what somebody else makes of the job: only they know how, so what is made of it hangs on its sources."""


LONGEST_UNASKED = 60
"""Steps after which what somebody else made and nobody asked for again is let go."""


class Working(NamedTuple):
    """A value, and what it was worked out from."""

    value: Any
    sources: tuple[tuple[Key, Any], ...]


class Workings:
    """What is known of one state of a job; `root` is what its parts are attributes of, `before` the workings of the
    state a step ago."""

    def __init__(self, root: object, before: "Workings | None" = None) -> None:
        self._root = root
        self._known: dict[Key, Working] = {}
        self._before: dict[Key, Working] = {}
        self._step, self._asked = 0, dict[Key, int]()
        if before is not None:
            known = before._known.copy()  # at once: others go on asking of it meanwhile
            self._step = before._step + 1
            self._before = before._before | known
            self._asked = before._asked | {key: before._step for key in known if key[0] == BESIDE}
            for key in [key for key, step in self._asked.items() if self._step - step > LONGEST_UNASKED]:
                del self._asked[key], self._before[key]

    def former(self, key: Key) -> Any:
        """What `key` was before this step, whether or not it still stands; None where it was never asked."""
        known = self._before.get(key)
        return None if known is None else known.value

    def value(self, key: Key, make: Callable[[], Any]) -> Any:
        """What `key` is: known, carried over, or made."""
        known = self._known.get(key)
        if known is None:
            known = self._known.setdefault(key, self._carried(key) or self._made(key, make))
        for source, value in [(key, known.value)] if key[0] != BESIDE else known.sources:
            note(source, value)
        return known.value

    def _carried(self, key: Key) -> Working | None:
        known = self._before.get(key)
        if known is None:
            return None
        with _Noting():
            stands = all(self._now(source) is value for source, value in known.sources)
        return known if stands else None

    def _now(self, key: Key) -> Any:
        part, name, given = key
        owner = getattr(self._root, part) if part else self._root
        attribute = getattr(type(owner), name)
        return getattr(owner, name) if isinstance(attribute, property) else attribute(owner, *given)

    def _made(self, key: Key, make: Callable[[], Any]) -> Working:
        with _Noting() as noted:
            value = make()
        if isinstance(value, BaseException):  # a reason: kept with its frames it would keep all that asked for it
            value = value.with_traceback(None)
        known = self._before.get(key)
        return Working(known.value if known and _alike(known.value, value) else value, tuple(noted.items()))


_asking = threading.local()


class _Noting:
    """Notes what is asked for meanwhile in this thread."""

    def __enter__(self) -> dict[Key, Any]:
        self._around = getattr(_asking, "noted", None)
        _asking.noted = noted = dict[Key, Any]()
        return noted

    def __exit__(self, *_how: object) -> None:
        _asking.noted = self._around


def note(key: Key, value: Any) -> None:
    """Whatever is being worked out in this thread is worked out from this."""
    noted = getattr(_asking, "noted", None)
    if noted is not None:
        noted[key] = value


_PLAIN = (str, int, float, bool, type(None))


def _same(one: Any, other: Any) -> bool:
    return one is other or (type(one) in _PLAIN and type(one) is type(other) and one == other)


def _alike(one: Any, other: Any) -> bool:
    """Whether a value may stand for another: the same, or a row of the same."""
    if type(one) is not type(other):
        return False
    if isinstance(one, tuple | list):
        return len(one) == len(other) and all(map(_same, one, other))
    if isinstance(one, dict):
        return list(one) == list(other) and all(map(_same, one.values(), other.values()))
    return _same(one, other)


class JobPart:
    """A part of a job, `PART` by its name among the others."""

    PART: ClassVar[str]

    def __init__(self, workings: Workings) -> None:
        self.workings = workings

    def former(self, name: str, *given: Any) -> Any:
        """What a method of this part answered before this step; None where it was never asked."""
        return self.workings.former((self.PART, name, given))


_Part = TypeVar("_Part", bound=JobPart)
_Given = ParamSpec("_Given")
_Answer = TypeVar("_Answer")


def carried(method: Callable[Concatenate[_Part, _Given], _Answer]) -> Callable[Concatenate[_Part, _Given], _Answer]:
    """A method whose answer to what it is given, by place, is worked out once and carried over a step as long as what
    it was worked out from is the same; what raises is asked again."""
    name = method.__name__
    defaults: tuple[Any, ...] = getattr(method, "__defaults__", None) or ()
    places = method.__code__.co_argcount - 1

    @wraps(method)
    def once(self: _Part, /, *given: _Given.args, **named: _Given.kwargs) -> _Answer:
        if named:
            raise TypeError(f"{name}: by place, not by name")
        missing = places - len(given)
        whole = (*given, *defaults[len(defaults) - missing :]) if 0 < missing <= len(defaults) else given
        answer: _Answer = self.workings.value((self.PART, name, whole), lambda: method(self, *whole))  # type: ignore[call-arg]
        return answer

    return once


def noted(method: Callable[Concatenate[_Part, _Given], _Answer]) -> Callable[Concatenate[_Part, _Given], _Answer]:
    """A method that hands out what a step brings anew: whatever is worked out from it hangs on the very object."""

    @wraps(method)
    def handed(self: _Part, /, *given: _Given.args, **named: _Given.kwargs) -> _Answer:
        answer = method(self, *given, **named)
        note((self.PART, method.__name__, given), answer)
        return answer

    return handed
