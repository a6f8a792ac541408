"""What is found against a rule."""

from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property
from typing import Any

from groundwork.measures.measure import Unit
from groundwork.measures.words import Words


class Severity(StrEnum):
    """What a finding does: it holds a stage, it is said, or it is only told."""

    STOP = "stop"
    WARNING = "warning"
    NOTE = "note"


class Source(StrEnum):
    """The standing of a limit."""

    PUBLISHED = "published"
    MEMORY = "published, quoted from memory"
    PRACTICE = "common practice, no published source"


@dataclass(frozen=True)
class Finding:
    """What was found against a rule: its limit, why it matters, what to do, and the limit's standing.
    `stations` are where it was found; `structural` ones are accepted by an engineer only, those that
    are not `acceptable` by nobody."""

    rule: str
    severity: Severity
    found: Words
    limit: Words
    why: str
    cure: str
    source: Source
    stations: tuple[str, ...] = ()
    structural: bool = False
    acceptable: bool = True
    number: int = 0

    @property
    def weight(self) -> int:
        """How many things it stands for: its stations, or `number` of them."""
        return len(self.stations) or self.number or 1

    @cached_property
    def identity(self) -> str:
        """What was found as one line in millimetres, by which an acceptance names it: when the finding changes,
        so does this, and the acceptance no longer covers it."""
        return f"{self.rule}: {self.found.text(Unit.MILLIMETRES)}"


def finding_data(finding: Finding, unit: Unit) -> dict[str, Any]:
    """A finding as JSON values."""
    return {
        "rule": finding.rule,
        "severity": str(finding.severity),
        "found": finding.found.text(unit),
        "limit": finding.limit.text(unit),
        "why": finding.why,
        "cure": finding.cure,
        "source": str(finding.source),
        "stations": list(finding.stations),
    }
