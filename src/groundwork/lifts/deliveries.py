"""What came on tickets, held against what was measured as laid."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from groundwork.base import material
from groundwork.layerwork import Delivered
from groundwork.measures import Finding, Severity, Source, Words

APART = 0.10
"""Tickets and measured volume differ by no more than this share (common practice, no published source)."""


@dataclass(frozen=True)
class Tally:
    """One material: `delivered` by its tickets, kg; `planned` for the design, kg; `measured` by what was laid over
    `area`, m³ and m², 0 where nothing was; `spread` the standard uncertainty of its mean thickness, metres."""

    material: str
    tickets: tuple[Delivered, ...]
    planned: float
    measured: float
    area: float
    whole: float
    spread: float = 0.0

    @property
    def delivered(self) -> float:
        return math.fsum(ticket.mass for ticket in self.tickets)

    @property
    def title(self) -> str:
        return material(self.material).title

    @property
    def density(self) -> float:
        return material(self.material).density

    @property
    def implied(self) -> float | None:
        """The thickness the tickets come to over what was laid: t/(area × ρ compacted), metres."""
        return self.delivered / (self.whole * self.density) if self.whole > 0 and self.tickets else None

    @property
    def mean(self) -> float | None:
        """The thickness as measured."""
        return self.measured / self.area if self.area > 0 else None

    @property
    def reconciling(self) -> tuple[float, float] | None:
        """The density at which tickets and levels agree, kg/m³, with what the levels leave unsure of it; None where
        either is not known."""
        if self.implied is None or self.mean is None or self.mean <= 0:
            return None
        found = self.density * self.implied / self.mean
        return found, found * self.spread / self.mean

    @property
    def off(self) -> float | None:
        """How much more came than was laid, as a share of what was laid; None where either is not known."""
        if self.implied is None or self.mean is None or self.mean <= 0:
            return None
        return self.implied / self.mean - 1


def tallies(
    tickets: Sequence[Delivered],
    planned: Mapping[str, float],
    measured: Mapping[str, tuple[float, float]],
    whole: Mapping[str, float],
    spread: Mapping[str, float],
) -> tuple[Tally, ...]:
    """Material by material, those of the design first; `measured` volume and area, `whole` the area it is laid over
    with its margin where all of it is laid; `spread` of the mean thickness."""
    names = dict.fromkeys([*planned, *(ticket.material for ticket in tickets)])
    return tuple(
        Tally(
            name,
            tuple(t for t in tickets if t.material == name),
            planned.get(name, 0.0),
            *measured.get(name, (0.0, 0.0)),
            whole.get(name, 0.0),
            spread.get(name, 0.0),
        )
        for name in names
    )


def delivery_findings(found: Sequence[Tally]) -> Iterator[Finding]:
    """L08: tickets and measured volume disagree."""
    for tally in found:
        if tally.off is None or abs(tally.off) <= APART + 1e-9 or tally.implied is None or tally.mean is None:
            continue
        more = "more" if tally.off > 0 else "less"
        yield Finding(
            "L08", Severity.WARNING,
            Words(
                "{material}: tickets come to {implied}, levels to {mean}, {off} " + more,
                {"implied": tally.implied, "mean": tally.mean},
                names={"material": tally.title, "off": f"{abs(tally.off):.0%}"},
            ),
            Words("within 10 %"),
            "One of them is wrong: a ticket, a level, the density, or stone that went elsewhere.",
            "Look for a missing ticket, an over-dig that swallowed it, or a mark that moved.", Source.PRACTICE,
        )  # fmt: skip
