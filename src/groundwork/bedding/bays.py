"""Bays as they are screeded: level under a straightedge or not, covered before the night or left open."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from datetime import date

from groundwork.base import Tolerance
from groundwork.bedding.rails import Bay
from groundwork.bedwork import BayChecked, BayClosed, BayScreeded, BayWork
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.tools import WEDGE
from groundwork.verdict import Call, call

FLAT = 0.005
"""A screeded bed may lie so far under a straightedge, metres (common practice: what the finish is held to)."""


@dataclass(frozen=True)
class BayAnswer:
    """A bay as it stands: when it was screeded last, and what was found and done since."""

    bay: Bay
    screeded: BayScreeded | None = None
    checked: BayChecked | None = None
    closed: BayClosed | None = None

    @property
    def gap(self) -> float | None:
        """The greatest gap under the straightedge, metres."""
        return max(self.checked.along.metres, self.checked.across.metres) if self.checked else None

    @property
    def call(self) -> Call | None:
        """What the straightedge says, by simple acceptance (JCGM 106:2012)."""
        if self.gap is None:
            return None
        return call(self.gap, WEDGE.reading_u, Tolerance(FLAT, FLAT), simple=True)

    @property
    def is_open(self) -> bool:
        return self.screeded is not None and self.closed is None

    @property
    def step(self) -> str:
        """What comes next: `screed`, `check`, `mend`, `cover` or nothing."""
        if self.screeded is None:
            return "screed"
        if self.closed is not None:
            return "screed" if self.closed.how == "raked off" else "" if self.closed.how == "laid" else "lay"
        if self.call is None or self.call is Call.TOO_CLOSE:
            return "check"
        return "mend" if self.call is Call.HIGH else "cover"

    @property
    def is_low(self) -> bool:
        """Whether it lies low under the straightedge, or was laid on so."""
        return self.call is Call.HIGH and self.step != "screed"

    @property
    def action(self) -> Words:
        if self.step == "mend":
            return Words("add {amount} where it is low, screed again", {"amount": self.gap or 0.0})
        return Words({
            "screed": "not screeded yet", "check": "lay the straightedge along it and across",
            "cover": "level: lay on it, or sheet it tonight", "lay": "sheeted: lay on it", "": "laid",
        }[self.step])  # fmt: skip


def bay_answers(bays: Iterable[Bay], work: Iterable[BayWork]) -> dict[str, BayAnswer]:
    """Every bay by name, from what was recorded, oldest first: to screed again begins it anew."""
    found = {bay.name: BayAnswer(bay) for bay in bays}
    for entry in work:
        answer = found.get(entry.bay)
        if answer is None:
            continue
        if isinstance(entry, BayScreeded):
            found[entry.bay] = BayAnswer(answer.bay, entry)
        elif isinstance(entry, BayChecked):
            found[entry.bay] = replace(answer, checked=entry)
        elif isinstance(entry, BayClosed):
            found[entry.bay] = replace(answer, closed=entry)
    return found


def bay_findings(bays: Mapping[str, BayAnswer], today: date | None) -> Iterator[Finding]:
    """K08 and K09: what lay open overnight, what is low under the straightedge."""
    nights = [
        name for name, each in bays.items()
        if each.is_open and each.screeded and today is not None and each.screeded.at.date() < today
    ]  # fmt: skip
    if nights:
        yield Finding(
            "K08", Severity.STOP, Words("left open overnight: {bays}", names={"bays": ", ".join(nights)}),
            Words("covered the day it is screeded"), "A bed that was rained on, dried or trodden is no longer even.",
            "Loosen it, screed it again; sheet what is not laid on by night.", Source.PRACTICE, number=len(nights),
        )  # fmt: skip
    low = [name for name, each in bays.items() if each.is_low]
    if low:
        worst = max(bays[name].gap or 0.0 for name in low)
        yield Finding(
            "K09", Severity.STOP,
            Words("up to {worst} under the straightedge: {bays}", {"worst": worst}, names={"bays": ", ".join(low)}),
            Words("at most {most}", {"most": FLAT}), "The paving follows its bed.",
            "Add where it is low, screed again, look again.", Source.PRACTICE, number=len(low),
        )  # fmt: skip
