"""What was read at each station of a surface, and the levels it comes to."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from functools import cached_property

from groundwork.base import SurfaceKey
from groundwork.entries import Fill, Reading
from groundwork.levels import Levels, Reference
from groundwork.logbook import Logbook
from groundwork.plan import Station
from groundwork.surfaces import DesignSurface
from groundwork.verdict import Account, Aim, Filling, Sight


class Readings:
    """Readings and fills that count, station by station."""

    def __init__(self, logbook: Logbook, levels: Levels, design: DesignSurface) -> None:
        self._logbook, self._levels, self._design = logbook, levels, design

    @cached_property
    def _events(self) -> dict[str, dict[str, list[Reading | Fill]]]:
        """Readings and fills by surface and station."""
        found: dict[str, dict[str, list[Reading | Fill]]] = defaultdict(dict)
        for entry in self._logbook.entries.values():
            match entry:
                case Reading():
                    found[str(entry.surface)].setdefault(entry.station, []).append(entry)
                case Fill():
                    found[str(SurfaceKey.FORMATION)].setdefault(entry.station, []).append(entry)
        return found

    def at(self, station: str, surface: str = SurfaceKey.FORMATION) -> list[Reading | Fill]:
        """What was recorded at a station on a surface, oldest first."""
        return self._events.get(surface, {}).get(station, [])

    def on(self, surface: str) -> Iterator[Reading]:
        """The readings on a surface."""
        for events in self._events.get(surface, {}).values():
            yield from (e for e in events if isinstance(e, Reading))

    def newest(self, surface: str) -> dict[str, Reading]:
        """The newest reading at each station of a surface where nothing was filled since."""
        last = {name: events[-1] for name, events in self._events.get(surface, {}).items()}
        return {name: e for name, e in last.items() if isinstance(e, Reading)}

    def account(self, station: Station, surface: str, aim: Aim) -> Account:
        """What happened at a station: readings on unchanged ground stand together in one shot."""
        account = Account(aim)
        for event in self.at(station.name, surface):
            if isinstance(event, Fill):
                account = account.filled(Filling(event.is_stone, event.lifts))
                continue
            sights = self.sights(self._levels.against(event), event.reading.metres, station)
            account = account.shot(sights, event.same_ground)
        return account

    def sights(self, reference: Reference | None, reading: float, station: Station) -> tuple[Sight, ...]:
        """The level a reading, metres, comes to, moved from where it was taken to the station along the design; none
        where nothing is known."""
        spot = reference.spot(station.at) if reference else None
        found = reference.sight(spot, reading) if reference and spot else None
        if found is None or spot is None:
            return ()
        if spot == station.at:
            return (found,)
        moved = self._design.level(station.at) - self._design.level(spot)
        return (replace(found, level=found.level + moved),)
