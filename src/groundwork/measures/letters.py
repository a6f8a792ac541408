"""Text as it may be kept: composed one way, and nothing in it that XML or PostgreSQL cannot hold or that turns what
stands around it."""

import re
import unicodedata
from functools import cache
from typing import Any

MOST_MARKS = 8
"""Combining marks on one letter; no language has more, and putting thousands in order takes for ever."""
TURNING = frozenset("\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069")
"""Marks that change the direction of text after them; letters that run from right to left need none."""


_OUT = re.compile(
    "[\x00-\x08\x0b-\x1f\x7f-\x9f\ud800-\udfff\ufdd0-\ufdef"
    + "".join(f"{chr(plane + 0xFFFE)}{chr(plane + 0xFFFF)}" for plane in range(0, 0x110000, 0x10000))
    + "".join(sorted(TURNING))
    + "]"
)
"""Controls but line end and tab, halves of surrogate pairs, the 66 places Unicode keeps free for good, what turns."""


def cleaned(text: str) -> str:
    """`text` without what cannot stand in it, line ends as one letter, composed (NFC)."""
    plain = _OUT.sub("", text.replace("\r\n", "\n").replace("\r", "\n"))
    return plain if plain.isascii() else unicodedata.normalize("NFC", _heaps().sub(r"\1", plain))


@cache
def _heaps() -> "re.Pattern[str]":
    """More marks in a row than any letter has: what is after the most of them."""
    marks = "".join(re.escape(chr(code)) for code in range(0x300, 0x20000) if unicodedata.combining(chr(code)))
    return re.compile(f"([{marks}]{{{MOST_MARKS}}})[{marks}]+")


def first_that_cannot_stand(data: Any, at: tuple[str | int, ...] = ()) -> tuple[str | int, ...] | None:
    """Where JSON values hold a text with something in it that cannot stand; None where none does."""
    if isinstance(data, str):
        return at if _OUT.search(data.replace("\r", "\n")) else None
    parts = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    for key, value in parts:
        found = first_that_cannot_stand(key, (*at, "?")) or first_that_cannot_stand(value, (*at, key))
        if found:
            return found
    return None


def all_cleaned(data: Any) -> Any:
    """JSON values with every text in them, keys too, cleaned."""
    if isinstance(data, str):
        return cleaned(data)
    if isinstance(data, dict):
        return {cleaned(key): all_cleaned(value) for key, value in data.items()}
    return [all_cleaned(each) for each in data] if isinstance(data, list) else data
