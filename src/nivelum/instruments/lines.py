"""The level's line protocol, described in docs/level-protocol.md: one line a message, each with a check."""

import re

LONGEST_LINE = 80
READING, TROUBLE = "L", "E"
DENSITY, MOISTURE, SETTLEMENT = "D", "W", "S"
_LINE = re.compile(r"(?P<kind>[LEDWS]) (?P<number>\d{4}) (?P<what>-?\d{1,7}|[A-Z]{1,12}) #(?P<check>\d\d)")


class Garbled(ValueError):
    """A line that is not whole."""


def check(text: str) -> int:
    """The check of a line's text: each byte times its place, summed, modulo 97."""
    return sum(place * byte for place, byte in enumerate(text.encode("ascii", "replace"), start=1)) % 97


def written(kind: str, number: int, what: int | str) -> str:
    """A message as a line, without its end."""
    text = f"{kind} {number % 10000:04d} {what}"
    return f"{text} #{check(text):02d}"


def read(line: str) -> tuple[str, int, str]:
    """A line's kind, number and content. Raises `Garbled`."""
    found = _LINE.fullmatch(line.strip())
    if not found or check(line.strip().rsplit(" #", 1)[0]) != int(found["check"]):
        raise Garbled(line[:LONGEST_LINE])
    return found["kind"], int(found["number"]), found["what"]
