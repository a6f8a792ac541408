"""Phrases that carry lengths, so that one finding reads right in every crew's units and language."""

from dataclasses import dataclass, field

from groundwork.measure import Unit, format_amount, format_distance, format_water


@dataclass(frozen=True)
class Words:
    """A phrase with places for lengths, counts, names, distances over the ground and water; lengths and distances in
    metres, water in m³. The phrase is the key to translate by."""

    phrase: str
    lengths: dict[str, float] = field(default_factory=dict)
    counts: dict[str, int] = field(default_factory=dict)
    names: dict[str, str] = field(default_factory=dict)
    distances: dict[str, float] = field(default_factory=dict)
    water: dict[str, float] = field(default_factory=dict)

    def text(self, unit: Unit, translated: str | None = None) -> str:
        """The phrase in the crew's unit; `translated` stands in for it where given."""
        shown = {name: format_amount(metres, unit) for name, metres in self.lengths.items()}
        shown |= {name: format_distance(metres, unit) for name, metres in self.distances.items()}
        shown |= {name: format_water(cubic, unit) for name, cubic in self.water.items()}
        return (translated or self.phrase).format(**shown, **self.counts, **self.names)
