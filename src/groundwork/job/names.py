"""That what is recorded of work names only what there is: lifts, stations, machines, patches, soft spots."""

from collections.abc import Collection
from dataclasses import dataclass

import shapely

from groundwork.base import catalogue
from groundwork.laboratory import CompactionCurve, NotACurve
from groundwork.layerwork import (
    ConeTest,
    Cured,
    Delivered,
    GaugeTest,
    LaboratoryTest,
    Passed,
    PlacedTest,
    ProofRoll,
    SandTest,
    Settling,
    SpikeTest,
    Spread,
    Tamped,
    ToppedUp,
    WeightTest,
    Work,
)

RISEN = 0.003
"""A lift does not rise under a machine: more than this is no uncertainty of the rod, metres (common practice)."""
BESIDE_THE_AREA = 0.5
"""A test this near to the paved area still stands on its base, metres (common practice)."""


@dataclass(frozen=True)
class WorkNames:
    """The names work may use: `sides` how many the area has, `machines` and `spots` by their entries."""

    surfaces: Collection[str]
    stations: Collection[str]
    patches: Collection[str]
    sides: int
    machines: Collection[str] = ()
    spots: Collection[str] = ()
    area: shapely.Polygon | None = None

    def wrong(self, entry: Work) -> tuple[str, str] | None:
        """The field of an entry that names what is not there, and what is wrong with it; None where all is well."""
        if (lift := getattr(entry, "lift", None)) is not None and lift not in self.surfaces:
            return "lift", f"no surface of this base is called {lift!r}"
        match entry:
            case Spread() | ToppedUp() | Settling() if entry.station not in self.stations:
                return "station", f"no station is called {entry.station!r}"
            case Passed() if entry.machine not in self.machines:
                return "machine", f"no machine before it is called {entry.machine!r}"
            case Passed() if entry.patch and entry.patch not in self.patches:
                return "patch", f"no patch of this area is called {entry.patch!r}"
            case Tamped() if not 0 <= entry.side < self.sides:
                return "side", f"the area has {self.sides} sides"
            case Cured() if entry.spot not in self.spots:
                return "spot", f"no soft spot before it is called {entry.spot!r}"
            case LaboratoryTest() | Delivered() if entry.material not in catalogue():
                return "material", f"no material is called {entry.material!r}"
            case LaboratoryTest():
                try:
                    CompactionCurve(entry.moistures, entry.densities, entry.gravity)
                except NotACurve as error:
                    return "moistures", str(error)
        return None

    def impossible(self, entry: Work) -> tuple[str, str] | None:
        """The field of a new entry that cannot have been measured so, and why; None where all is well. What was
        recorded before anyone asked stays in the record, and does not count."""
        match entry:
            case GaugeTest() | SandTest() | WeightTest() | SpikeTest() | ConeTest() | ProofRoll() if self._off(entry):
                return "at", "that is not on this area: a test says something of the place it was taken at"
            case SandTest() if entry.used <= entry.cone:
                return "used", "more sand is used than stays in the cone: the rest fills the hole"
            case Settling() if entry.after.metres < entry.before.metres - RISEN - 1e-9:
                return "after", "the lift would have risen under the machine: are before and after swapped?"
        return None

    def _off(self, test: PlacedTest) -> bool:
        return self.area is not None and not shapely.dwithin(self.area, shapely.Point(test.at), BESIDE_THE_AREA)
