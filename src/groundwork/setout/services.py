"""Services under the ground: located before anyone digs, on a ticket that has a life. Local law comes first."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from groundwork.entries import ServicesLocated
from groundwork.measures import Finding, Severity, Source, Words

USUAL_LIFE = 14
"""Days a location holds where nothing else is said (common practice; local law differs)."""


@dataclass(frozen=True)
class Location:
    """The location that stands, and whether it holds on the day."""

    entry: ServicesLocated
    today: date | None

    @property
    def last_day(self) -> date:
        return self.entry.located_on + timedelta(days=self.entry.life_days)

    @property
    def days_left(self) -> int | None:
        """Days it still holds after today; negative once it has run out; None where no day is given."""
        return None if self.today is None else (self.last_day - self.today).days

    @property
    def holds(self) -> bool:
        return self.days_left is None or self.days_left >= 0


def location(entries: Sequence[ServicesLocated], today: date | None) -> Location | None:
    """The newest location."""
    return Location(entries[-1], today) if entries else None


def service_findings(stands: Location | None) -> Iterator[Finding]:
    """D01: services not located, or the location older than its life on the day of the dig."""
    if stands is not None and stands.holds:
        return
    if stands is None:
        found = Words("services not located")
    else:
        found = Words(
            "location {ticket} ran out on {day}",
            names={"ticket": stands.entry.ticket},
            days={"day": stands.last_day},
        )
    yield Finding(
        "D01",
        Severity.STOP,
        found,
        Words("located and marked, and still valid on the day of the dig"),
        "A struck cable or gas pipe kills. Marks fade and other trades dig.",
        "Have them located and marked, and log the ticket.",
        Source.PRACTICE,
        acceptable=False,
    )
