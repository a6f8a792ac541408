"""Phrases that carry lengths, so that one finding reads right in every crew's units and language."""

from collections.abc import Callable
from dataclasses import dataclass, field

from groundwork.measures.measure import Unit, format_distance, format_limit, format_told, format_water, in_system

TYPED = frozenset({"words", "where", "name"})
"""Names that are a person's own words: they stay as they were typed."""


@dataclass(frozen=True)
class Words:
    """A phrase with places for lengths, limits, counts, names, distances over the ground and water; lengths, limits
    and distances in metres, water in m³. Limits are written as the trade has them, with their sign; `signed` lengths
    are measured and keep theirs. The phrase is the key to translate by."""

    phrase: str
    lengths: dict[str, float] = field(default_factory=dict)
    counts: dict[str, int] = field(default_factory=dict)
    names: dict[str, str] = field(default_factory=dict)
    distances: dict[str, float] = field(default_factory=dict)
    water: dict[str, float] = field(default_factory=dict)
    limits: dict[str, float] = field(default_factory=dict)
    signed: dict[str, float] = field(default_factory=dict)

    def text(self, unit: Unit, translate: Callable[[str], str] = str) -> str:
        """The phrase in the crew's unit, it and the names that are the product's own in the reader's words."""
        shown = {name: format_told(metres, unit) for name, metres in self.lengths.items()}
        shown |= {name: format_distance(metres, unit) for name, metres in self.distances.items()}
        shown |= {name: format_water(cubic, unit) for name, cubic in self.water.items()}
        shown |= {n: f"{'−' if m < 0 else ''}{format_told(m, unit)}" for n, m in self.signed.items()}
        shown |= {name: format_limit(metres, unit) for name, metres in self.limits.items()}
        if len({metres > 0 for metres in self.limits.values() if metres}) > 1:
            shown |= {name: f"+{shown[name]}" for name, metres in self.limits.items() if metres > 0}
        names = {
            n: said if n in TYPED or not said else in_system(translate(str(said)), unit)
            for n, said in self.names.items()
        }
        return in_system(translate(self.phrase).format(**shown, **self.counts, **names), unit)
