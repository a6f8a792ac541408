"""What has to set: from when on an edge in concrete may be laid against and compacted beside."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime

from groundwork.curing import BESIDE, PLATED, Warmth, matured_at
from groundwork.edges.runs import EdgeRun
from groundwork.edgework import EdgeBedded
from groundwork.measures import Finding, Severity, Source, Words

KEEPS_OFF = 0.300
"""A plate keeps so far off what has not set, metres (common practice, no published source)."""


@dataclass(frozen=True)
class HaunchWait:
    """A run's bed and haunch as made: from when units may be `laid` against it, and a plate may come near; None where
    that never comes, in frost."""

    run: EdgeRun
    made: EdgeBedded
    laid: datetime | None
    plated: datetime | None

    def findings(self, what: str, today: date | None) -> Iterator[Finding]:
        """What holds `laid` or `plated` today."""
        at: datetime | None = getattr(self, what)
        if today is None or (at is not None and at.date() < today):
            return
        names = {"side": str(self.run.side + 1)}
        if at is None:
            found = Words("the haunch along side {side} does not set at {n} °C",
                          counts={"n": round(self.made.celsius)}, names=names)  # fmt: skip
            limit = Words("hours above freezing")
        else:
            found = Words("the haunch along side {side} is green", names=names)
            limit = Words("from {day}, {hour} on", days={"day": at.date()}, names={"hour": f"{at:%H:%M}"})
        yield Finding(
            "E06" if what == "plated" else "E07",
            Severity.STOP if at is None or at.date() > today else Severity.WARNING,
            found, limit,
            "What moves a haunch before it has set has broken it, and nobody sees that.",
            f"Keep the plate {KEEPS_OFF * 1000:.0f} mm off it till then." if what == "plated"
            else "Lay elsewhere first.",
            Source.PRACTICE, number=1,
        )  # fmt: skip


def haunch_wait(run: EdgeRun, made: EdgeBedded, warm: Warmth) -> HaunchWait:
    """By how warm it was since it was made."""
    needed = PLATED[run.job.brief.traffic.wheels]
    return HaunchWait(run, made, matured_at(made.at, BESIDE, warm), matured_at(made.at, needed, warm))
