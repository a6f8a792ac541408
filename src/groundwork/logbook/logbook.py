"""What counts of what was recorded on a job: nothing struck out, everything as corrected."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, TypeVar, cast, get_args

from groundwork.entries import Anchor, Correction, Disturbance, SetUp, Strike
from groundwork.kinds import Entry
from groundwork.measures import Measured, Said
from groundwork.workings import JobPart, Workings, carried, noted

_Kind = TypeVar("_Kind")


@dataclass(frozen=True)
class Brought:
    """What a step brought: `added` at the end, and what of before no longer counts as it did, by id, with what stands
    in its place, if anything."""

    added: tuple[Entry, ...] = ()
    changed: Mapping[str, Entry | None] = field(default_factory=dict)


class Logbook(JobPart):
    """The entries of a job, oldest first: `written` are all of them. `entries` is what counts, by id; `order` when
    each was made among the others, which never changes. What is worked out from these two hangs on every entry: ask
    by kind.
    """

    PART = "logbook"

    def __init__(self, workings: Workings, written: Sequence[Entry]) -> None:
        super().__init__(workings)
        self.written = tuple(written)
        self.brought = Brought()
        self._by_kind: dict[tuple[type, ...], dict[str, Any]] = {}

    @cached_property
    def entries(self) -> dict[str, Entry]:
        return _standing(self.written)

    @cached_property
    def order(self) -> dict[str, int]:
        return {entry.id: n for n, entry in enumerate(self.written)}

    @cached_property
    def _struck(self) -> frozenset[str]:
        return struck(self.written)

    def after(self, workings: Workings, added: Sequence[Entry]) -> "Logbook":
        """The logbook once `added` was written too."""
        grown = Logbook(workings, ())
        grown.written = (*self.written, *added)
        grown.order = self.order | {entry.id: n for n, entry in enumerate(added, start=len(self.written))}
        if any(isinstance(entry, Strike | Correction) for entry in added):
            grown._struck = self._struck | struck(added)
            grown.entries, changed = _kept(self.entries, _standing(grown.written))
            come = tuple(entry for key, entry in grown.entries.items() if key not in self.entries)
            grown.brought = Brought(come, changed)
        else:
            grown._struck = self._struck
            grown.brought = Brought(tuple(entry for entry in added if entry.id not in self._struck))
            grown.entries = self.entries | {entry.id: entry for entry in grown.brought.added}
        for kinds, known in self._by_kind.copy().items():  # others go on asking meanwhile
            if not any(isinstance(self.entries[key], kinds) for key in grown.brought.changed):
                new = {entry.id: entry for entry in grown.brought.added if isinstance(entry, kinds)}
                grown._by_kind[kinds] = known | new if new else known
        return grown

    @noted
    def of_kind(self, *kinds: type[_Kind]) -> dict[str, _Kind]:
        """The entries of some kinds that count, oldest first, by id."""
        if kinds not in self._by_kind:
            self._by_kind[kinds] = {key: e for key, e in self.entries.items() if isinstance(e, kinds)}
        return self._by_kind[kinds]

    @property
    def anchors(self) -> dict[str, Anchor]:
        """What readings may have been taken against, standing or not, oldest first, by id."""
        return cast("dict[str, Anchor]", self.of_kind(*get_args(Anchor)))

    @property
    def set_ups(self) -> dict[str, SetUp]:
        """Set-ups of a level that count, oldest first, by id."""
        return self.of_kind(SetUp)

    @property
    @carried
    def knocked(self) -> dict[str, str]:
        """Marks and turning points that were disturbed, each with the set-up from which on it no longer holds."""
        return {d.point: d.since for d in self.of_kind(Disturbance).values()}


def struck(written: Iterable[Entry]) -> frozenset[str]:
    return frozenset(entry.strikes for entry in written if isinstance(entry, Strike))


def _standing(written: Sequence[Entry]) -> dict[str, Entry]:
    """What counts of what was written, oldest first, by id."""
    gone = struck(written)
    counts = {e.id: e for e in written if e.id not in gone}
    for entry in list(counts.values()):
        if isinstance(entry, Correction) and (wrong := counts.get(entry.corrects)):
            counts[wrong.id] = corrected(wrong, entry.reading)
    return counts


def _kept(before: dict[str, Entry], after: dict[str, Entry]) -> tuple[dict[str, Entry], dict[str, Entry | None]]:
    """`after` with what is the same as `before` as the same object, and what of before is not."""
    changed: dict[str, Entry | None] = {}
    for key, was in before.items():
        now = after.get(key)
        if now is was:
            continue
        if now == was:
            after[key] = was
        else:
            changed[key] = now
    return after, changed


def corrected(entry: Entry, reading: Measured) -> Entry:
    """`entry` with what should have been read. Raises `ValueError` for one that reads nothing."""
    if not entry.MENDS:
        raise Said("a {kind} has no reading to correct", kind=entry.KIND)
    changed: Any = entry
    return replace(changed, **{entry.MENDS: reading})  # type: ignore[no-any-return]
