"""What was read at each station of a surface, and the levels it comes to."""

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import replace
from threading import Lock

from groundwork.base import SurfaceKey
from groundwork.entries import Fill, Reading
from groundwork.kinds import Entry
from groundwork.levels import Levels, Reference
from groundwork.logbook import Logbook
from groundwork.plan import Station
from groundwork.surfaces import DesignSurface
from groundwork.verdict import Account, Filling, Sight
from groundwork.workings import JobPart, Workings, noted

Event = Reading | Fill
Booked = dict[str, tuple[Event, ...]]
"""What was recorded on a surface, oldest first, by station."""


class Readings(JobPart):
    """Readings and fills that count, station by station; `before` are those of the state a step ago."""

    PART = "readings"

    def __init__(
        self,
        workings: Workings,
        logbook: Logbook,
        levels: Levels,
        design: DesignSurface,
        before: "Readings | None" = None,
    ) -> None:
        super().__init__(workings)
        self._logbook, self._levels, self._design = logbook, levels, design
        self._lock = Lock()
        self._booked: dict[str, Booked] = {}
        self._newest: dict[str, dict[str, Reading]] = {}
        self._is_booked = before is not None  # else once somebody asks
        if before is None:
            return
        before._book_all()
        if any(isinstance(before._logbook.entries[key], Event) for key in logbook.brought.changed):
            self._book(logbook.entries.values())
            self._booked = {key: _kept(before._booked.get(key, {}), booked) for key, booked in self._booked.items()}
        else:
            self._booked, self._newest = dict(before._booked), dict(before._newest)
            self._book(logbook.brought.added)

    def _book_all(self) -> None:
        with self._lock:
            if not self._is_booked:
                self._book(self._logbook.entries.values())
                self._is_booked = True

    def _book(self, added: Iterable[Entry]) -> None:
        """Books what came, oldest first; what is not touched stays the same object."""
        come: dict[str, dict[str, list[Event]]] = defaultdict(lambda: defaultdict(list))
        newest: dict[str, dict[str, Reading]] = defaultdict(dict)
        for entry in added:
            if isinstance(entry, Reading):
                newest[str(entry.surface)][entry.set_up] = entry
            if isinstance(entry, Reading | Fill):
                come[_surface(entry)][entry.station].append(entry)
        for surface, stations in come.items():
            known = self._booked.get(surface, {})
            self._booked[surface] = known | {s: (*known.get(s, ()), *events) for s, events in stations.items()}
        for surface, readings in newest.items():
            self._newest[surface] = self._newest.get(surface, {}) | readings

    @noted
    def on(self, surface: str) -> Booked:
        """What was recorded on a surface, oldest first, by station."""
        self._book_all()
        return self._booked.get(surface, _NOTHING)

    @noted
    def newest_from(self, surface: str) -> dict[str, Reading]:
        """The newest reading on a surface by what it was taken against."""
        self._book_all()
        return self._newest.get(surface, _NONE)

    def at(self, station: str, surface: str = SurfaceKey.FORMATION) -> tuple[Event, ...]:
        """What was recorded at a station on a surface, oldest first."""
        return self.on(surface).get(station, ())

    def newest(self, surface: str) -> dict[str, Reading]:
        """The newest reading at each station of a surface where nothing was filled since."""
        last = {name: events[-1] for name, events in self.on(surface).items()}
        return {name: e for name, e in last.items() if isinstance(e, Reading)}

    def account(self, account: Account, events: Iterable[Event], station: Station) -> Account:
        """What happened at a station, and then `events`: readings on unchanged ground stand together in one shot."""
        for event in events:
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


_NOTHING: Booked = {}
_NONE: dict[str, Reading] = {}


def _kept(before: Booked, now: Booked) -> Booked:
    """`now`, with what is as it was `before` as the same object."""
    if now is before:
        return before
    kept = {name: before[name] if before.get(name) == events else events for name, events in now.items()}
    return before if list(kept) == list(before) and all(kept[name] is before[name] for name in kept) else kept


def _surface(event: Event) -> str:
    return str(event.surface if isinstance(event, Reading) else SurfaceKey.FORMATION)
