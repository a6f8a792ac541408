"""What counts of what was recorded on a job: nothing struck out, everything as corrected."""

from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property
from typing import Any, TypeVar

from groundwork.entries import Anchor, Correction, Disturbance, SetUp, Strike
from groundwork.kinds import Entry
from groundwork.measures import Measured
from groundwork.memo import remembered

_Kind = TypeVar("_Kind")


class Logbook:
    """The entries of a job, oldest first: `written` are all of them."""

    def __init__(self, written: Sequence[Entry]) -> None:
        self.written = written

    @cached_property
    def struck(self) -> frozenset[str]:
        return frozenset(entry.strikes for entry in self.written if isinstance(entry, Strike))

    @cached_property
    def entries(self) -> dict[str, Entry]:
        """What counts, oldest first, by id."""
        standing = {e.id: e for e in self.written if e.id not in self.struck}
        for entry in list(standing.values()):
            if isinstance(entry, Correction) and (wrong := standing.get(entry.corrects)):
                standing[wrong.id] = corrected(wrong, entry.reading)
        return standing

    @remembered
    def of_kind(self, kind: type[_Kind]) -> dict[str, _Kind]:
        """The entries of a kind that count, oldest first, by id."""
        return {key: e for key, e in self.entries.items() if isinstance(e, kind)}

    @cached_property
    def anchors(self) -> dict[str, Anchor]:
        """What readings may have been taken against, standing or not, oldest first, by id."""
        return {key: e for key, e in self.entries.items() if isinstance(e, Anchor)}

    @property
    def set_ups(self) -> dict[str, SetUp]:
        """Set-ups of a level that count, oldest first, by id."""
        return self.of_kind(SetUp)

    @cached_property
    def order(self) -> dict[str, int]:
        """When each entry that counts was made among the others."""
        return {key: n for n, key in enumerate(self.entries)}

    @cached_property
    def knocked(self) -> dict[str, str]:
        """Marks and turning points that were disturbed, each with the set-up from which on it no longer holds."""
        return {d.point: d.since for d in self.of_kind(Disturbance).values()}

    def held(self, point: str, entry_id: str) -> bool:
        """Whether a point still stood where it was when an entry was made on it; for what is not recorded yet,
        whether it was never knocked."""
        if point not in self.knocked:
            return True
        since = self.knocked[point]
        return entry_id in self.order and since in self.order and self.order[entry_id] < self.order[since]


def corrected(entry: Entry, reading: Measured) -> Entry:
    """`entry` with what should have been read. Raises `ValueError` for one that reads nothing."""
    if not entry.MENDS:
        raise ValueError(f"a {entry.KIND} has no reading to correct")
    changed: Any = entry
    return replace(changed, **{entry.MENDS: reading})  # type: ignore[no-any-return]
