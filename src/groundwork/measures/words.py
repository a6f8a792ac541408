"""Phrases that carry lengths, so that one finding reads right in every crew's units and language."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import date

from groundwork.measures.measure import (
    Unit,
    format_area,
    format_celsius,
    format_distance,
    format_drying,
    format_fine,
    format_force,
    format_limit,
    format_rain,
    format_stiffness,
    format_told,
    format_volume,
    format_water,
    format_wind,
    in_system,
)
from groundwork.measures.said import Said

TYPED = frozenset(
    ("words", "where", "name", "text", "both", "ticket", "typed", "mark", "building", "facet", "machine", "station")
)
"""Names that are a person's own words: they stay as they were typed."""


@dataclass(frozen=True)
class Words:
    """A phrase with places for lengths, limits, counts, names, distances over the ground and more. Lengths, limits
    and distances are in metres, areas in m², water and volumes in m³, stiffness in MPa, forces in kN, temperatures
    in °C. Limits
    are written as the trade has them, with their sign; `signed` lengths are measured and keep theirs. The phrase is
    the key to translate by."""

    phrase: str
    lengths: Mapping[str, float] = field(default_factory=dict)
    counts: Mapping[str, float] = field(default_factory=dict)
    names: Mapping[str, str] = field(default_factory=dict)
    distances: Mapping[str, float] = field(default_factory=dict)
    water: Mapping[str, float] = field(default_factory=dict)
    limits: Mapping[str, float] = field(default_factory=dict)
    signed: Mapping[str, float] = field(default_factory=dict)
    areas: Mapping[str, float] = field(default_factory=dict)
    volumes: Mapping[str, float] = field(default_factory=dict)
    stiffness: Mapping[str, float] = field(default_factory=dict)
    celsius: Mapping[str, float] = field(default_factory=dict)
    forces: Mapping[str, float] = field(default_factory=dict)
    days: Mapping[str, date] = field(default_factory=dict)
    one: str = ""
    """The phrase where its count `n` is one, if it is another then."""
    fine: Mapping[str, float] = field(default_factory=dict)
    """Lengths to a tenth of a millimetre."""
    rain: Mapping[str, float] = field(default_factory=dict)
    """m/s, as wind."""
    wind: Mapping[str, float] = field(default_factory=dict)
    """m/s."""
    drying: Mapping[str, float] = field(default_factory=dict)
    """kg/m² an hour."""

    def text(
        self, unit: Unit, translate: Callable[[str], str] = str, dated: Callable[[date], str] = date.isoformat
    ) -> str:
        """The phrase in the crew's unit, it and the names that are the product's own in the reader's words."""
        shown = {name: format_told(metres, unit) for name, metres in self.lengths.items()}
        for formatted, sizes in (
            (format_distance, self.distances),
            (format_area, self.areas),
            (format_volume, self.volumes),
            (format_water, self.water),
            (format_stiffness, self.stiffness),
            (format_celsius, self.celsius),
            (format_force, self.forces),
            (format_limit, self.limits),
            (format_fine, self.fine),
            (format_rain, self.rain),
            (format_wind, self.wind),
            (format_drying, self.drying),
        ):
            shown |= {name: formatted(size, unit) for name, size in sizes.items()}
        shown |= {name: dated(day) for name, day in self.days.items()}
        shown |= {n: f"{'−' if m < 0 else ''}{format_told(m, unit)}" for n, m in self.signed.items()}
        if len({metres > 0 for metres in self.limits.values() if metres}) > 1:
            shown |= {name: f"+{shown[name]}" for name, metres in self.limits.items() if metres > 0}
        names = {
            name: said if name in TYPED or not said else in_system(translate(str(said)), unit)
            for name, said in self.names.items()
        }
        phrase = self.one if self.one and self.counts.get("n") == 1 else self.phrase
        return in_system(translate(phrase), unit).format(**shown, **self.counts, **names)


def in_words(error: ValueError, unit: Unit, translate: Callable[[str], str] = str) -> str:
    """What a check says, in the crew's unit and the reader's words; of another error its own text."""
    if not isinstance(error, Said):
        return in_system(translate(str(error)), unit)
    counts = {name: value for name, value in error.values.items() if isinstance(value, int | float)}
    names = {
        name: in_words(value, unit, translate) if isinstance(value, ValueError) else str(value)
        for name, value in error.values.items()
        if name not in counts
    }
    words = Words(error.phrase, error.lengths, counts, names, error.distances, areas=error.areas)
    return words.text(unit, translate)
