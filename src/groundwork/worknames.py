"""That what is recorded of work names only what there is: lifts, stations, machines, patches, soft spots."""

from collections.abc import Collection
from dataclasses import dataclass

from groundwork.laboratory import CompactionCurve, NotACurve
from groundwork.materials import catalogue
from groundwork.worked import (
    Cured,
    Delivered,
    LaboratoryTest,
    Passed,
    Settling,
    Spread,
    Tamped,
    ToppedUp,
    Work,
)


@dataclass(frozen=True)
class WorkNames:
    """The names work may use: `sides` how many the area has, `machines` and `spots` by their entries."""

    surfaces: Collection[str]
    stations: Collection[str]
    patches: Collection[str]
    sides: int
    machines: Collection[str] = ()
    spots: Collection[str] = ()

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
