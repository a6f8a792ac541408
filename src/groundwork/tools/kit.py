"""What the crew measures with: each method, and how sure a reading by it is."""

from dataclasses import dataclass
from enum import StrEnum


class Method(StrEnum):
    """A way to take a level, a depth or a fall."""

    LASER = "laser"
    OPTICAL = "optical"
    STRING = "string"
    HEIGHT_METER = "height meter"
    STRAIGHTEDGE = "straightedge"
    TAPE = "tape"

    @property
    def has_a_line_of_sight(self) -> bool:
        return self in (Method.LASER, Method.OPTICAL)


@dataclass(frozen=True)
class Instrument:
    """One instrument: `reading_u` is the standard uncertainty of a reading, metres, `rate` what is added to it in
    quadrature for each metre from the instrument. `collimation` is how much the line of sight rises a metre."""

    method: Method
    name: str = ""
    reading_u: float = 0.0
    rate: float = 0.0
    collimation: float = 0.0

    def __post_init__(self) -> None:
        if self.reading_u <= 0:
            reading_u, rate = USUAL[self.method]
            object.__setattr__(self, "reading_u", reading_u)
            object.__setattr__(self, "rate", self.rate or rate)


USUAL = {
    Method.LASER: (0.0015, 0.00005),
    Method.OPTICAL: (0.001, 0.00005),
    Method.STRING: (0.003, 0.0),
    Method.HEIGHT_METER: (0.002, 0.0),
    Method.STRAIGHTEDGE: (0.001, 0.0),
    Method.TAPE: (0.008, 0.0),
}
"""Standard uncertainty of a reading and what a metre of sight adds, metres (common practice, no published source)."""
STRING_WEIGHT, STRING_TENSION = 0.5, 50.0
"""A mason's string: grams a metre, and newtons it is pulled with (common practice, no published source)."""
LASER, OPTICAL = Instrument(Method.LASER), Instrument(Method.OPTICAL)
STRING, HEIGHT_METER = Instrument(Method.STRING), Instrument(Method.HEIGHT_METER)
TIGHT_STRING, TIGHT_UP_TO = Instrument(Method.STRING, "tight string", 0.0015), 6.0
"""A string up to so long, metres, pulled tight, its sag reckoned with (common practice, no published source)."""
WEDGE = Instrument(Method.STRAIGHTEDGE, "straightedge with wedge", 0.0005)
"""A gap under a straightedge by a stepped wedge (common practice, no published source)."""
STRAIGHTEDGE, TAPE = Instrument(Method.STRAIGHTEDGE), Instrument(Method.TAPE)
