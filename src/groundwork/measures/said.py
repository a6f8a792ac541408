"""What a check of the core says of something it cannot take, so that it reads right in every language and unit."""

from collections.abc import Mapping


class Said(ValueError):
    """Says what is wrong, where, and what would be right: a phrase, which is the key to translate by, and what goes
    into its gaps. `lengths` and `distances` over the ground are in metres, `areas` in square metres."""

    def __init__(
        self,
        phrase: str,
        *,
        lengths: Mapping[str, float] | None = None,
        distances: Mapping[str, float] | None = None,
        areas: Mapping[str, float] | None = None,
        **values: object,
    ) -> None:
        self.phrase, self.values = phrase, values
        self.lengths, self.distances, self.areas = lengths or {}, distances or {}, areas or {}
        super().__init__(phrase)

    def __str__(self) -> str:
        shown = {name: f"{metres * 1000:.0f} mm" for name, metres in self.lengths.items()}
        shown |= {name: f"{metres:g} m" for name, metres in self.distances.items()}
        shown |= {name: f"{square:.2f} m²" for name, square in self.areas.items()}
        return self.phrase.format(**shown, **self.values) if shown or self.values else self.phrase

    def __reduce__(self) -> tuple[object, ...]:
        return _again, (type(self), self.phrase, self.lengths, self.distances, self.areas, self.values)


Sizes = Mapping[str, float]


def _again(
    kind: type[Said], phrase: str, lengths: Sizes, distances: Sizes, areas: Sizes, values: Mapping[str, object]
) -> Said:
    return kind(phrase, lengths=lengths, distances=distances, areas=areas, **values)
