"""The record told as a site diary: what was done, in a line each, like things together."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta
from html import unescape
from typing import Any

from django.utils import timezone
from django.utils.html import strip_tags
from django.utils.safestring import SafeString

from groundwork.measures import Unit
from nivelum.jobs.models import Entry
from nivelum.jobs.services import CLOCK_WRONG
from nivelum.recording.kinds import tell

LATE = timedelta(minutes=5)
"""A device's time further than this from the server's is told."""


@dataclass
class DiaryLine:
    """Like entries that follow each other, made by one person: what they were, and each in its own words. `weighty`
    ones stand out: they decide something. `clock` is what that clock said
    where it cannot be right; `by_device` is when the first was made by its device's clock, where that is
    not when it arrived: it waited for a signal, or the clock is wrong."""

    at: datetime
    by: str
    what: str
    entries: list[tuple[int, SafeString]] = field(default_factory=list)
    weighty: bool = False
    by_device: datetime | None = None
    clock: str = ""

    @property
    def said(self) -> list[tuple[SafeString, int]]:
        """What was said, in order, and how often the very same was."""
        return list(Counter(words for _number, words in self.entries).items())


def days(entries: Iterable[Entry], unit: Unit) -> dict[date, list[DiaryLine]]:
    """The diary, day by day in the site's time."""
    found: dict[date, list[DiaryLine]] = {}
    last: tuple[Any, ...] | None = None
    for entry in entries:
        day = timezone.localtime(entry.at).date()
        told = tell(entry, unit)
        late = entry.device_at if entry.device_at and abs(entry.at - entry.device_at) > LATE else None
        clock = str(entry.body.get(CLOCK_WRONG, ""))[:16].replace("T", " ")
        key = (day, entry.by_id, told.title, late is None and not clock)
        if key != last or told.is_weighty:
            line = DiaryLine(
                entry.at, entry.by_name, told.title, weighty=told.is_weighty, by_device=late, clock=clock
            )
            found.setdefault(day, []).append(line)
        found[day][-1].entries.append((entry.number, told.words))
        last = key
    return found


def told_plainly(entry: Entry, unit: Unit) -> str:
    """An entry in one line of plain text."""
    told = tell(entry, unit)
    return f"{told.title}: {unescape(strip_tags(told.words))}"
