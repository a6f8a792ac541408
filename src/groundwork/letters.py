"""Text as it may be kept: composed one way, and nothing in it that XML or PostgreSQL cannot hold or that turns what
stands around it."""

import unicodedata
from collections.abc import Callable
from typing import Any

LINE_ENDS = "\n\t"
MOST_MARKS = 8
"""Combining marks on one letter; no language has more, and putting thousands in order takes for ever."""
_OF_ASCII = {code: None for code in (*range(32), 127) if chr(code) not in LINE_ENDS}
TURNING = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
"""Marks that change the direction of text after them; letters that run from right to left need none."""


def cannot_stand(letter: str) -> bool:
    """Whether a letter is a control, half a surrogate pair, no character at all, or turns the text."""
    if letter in LINE_ENDS or " " <= letter <= "~":
        return False
    return unicodedata.category(letter) in ("Cc", "Cs") or letter in TURNING or _no_character(ord(letter))


def _no_character(code: int) -> bool:
    """The 66 places Unicode keeps free for good."""
    return 0xFDD0 <= code <= 0xFDEF or code & 0xFFFE == 0xFFFE


def cleaned(text: str) -> str:
    """`text` without what cannot stand in it, line ends as one letter, composed (NFC)."""
    plain = text.replace("\r\n", "\n").replace("\r", "\n")
    if plain.isascii():
        return plain if plain.isprintable() else plain.translate(_OF_ASCII)
    kept, marks = [], 0
    for letter in plain:
        marks = marks + 1 if unicodedata.combining(letter) else 0
        if marks <= MOST_MARKS and not cannot_stand(letter):
            kept.append(letter)
    return unicodedata.normalize("NFC", "".join(kept))


def first_that_cannot_stand(data: Any, at: tuple[str | int, ...] = ()) -> tuple[str | int, ...] | None:
    """Where JSON values hold a text with something in it that cannot stand; None where none does."""
    if isinstance(data, str):
        return at if any(map(cannot_stand, data.replace("\r", "\n"))) else None
    parts = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    for key, value in parts:
        found = first_that_cannot_stand(key, (*at, "?")) or first_that_cannot_stand(value, (*at, key))
        if found:
            return found
    return None


def composed(data: Any) -> Any:
    """JSON values with every text composed and its line ends one letter."""
    return _each_text(data, cleaned)


def _each_text(data: Any, change: Callable[[str], str]) -> Any:
    if isinstance(data, str):
        return change(data)
    if isinstance(data, dict):
        return {_each_text(key, change): _each_text(value, change) for key, value in data.items()}
    return [_each_text(each, change) for each in data] if isinstance(data, list) else data
