"""What is worked out once for a value that never changes."""

from collections.abc import Callable
from functools import wraps
from typing import Any, Concatenate, ParamSpec, TypeVar

Owner = TypeVar("Owner")
Given = ParamSpec("Given")
Answer = TypeVar("Answer")


def remembered(
    method: Callable[Concatenate[Owner, Given], Answer],
) -> Callable[Concatenate[Owner, Given], Answer]:
    """A method whose answer to what it is given, by place, is worked out once and kept with its owner; what raises is
    asked again. `cached_property` is the same for what is given nothing."""
    defaults: tuple[Any, ...] = getattr(method, "__defaults__", None) or ()
    places = method.__code__.co_argcount - 1
    kept = f"_remembered_{method.__name__}"

    @wraps(method)
    def once(self: Owner, /, *given: Given.args, **named: Given.kwargs) -> Answer:
        if named:
            raise TypeError(f"{kept}: by place, not by name")
        missing = places - len(given)
        whole = (*given, *defaults[len(defaults) - missing :]) if 0 < missing <= len(defaults) else given
        known: dict[tuple[Any, ...], Answer] = self.__dict__.setdefault(kept, {})
        if whole not in known:
            known[whole] = method(self, *whole)  # type: ignore[call-arg]
        return known[whole]

    return once
