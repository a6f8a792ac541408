"""What readings can be taken against, and how high it is: the level where it was set up, strings, bases, the
ground."""

from collections.abc import Container, Mapping
from functools import partial
from typing import NamedTuple, Protocol, assert_never

from groundwork.brief import ExistingGround
from groundwork.entries import Anchor, Foresight, MeterBase, SetUp, StringLine, TapeDatum
from groundwork.levels.references import FromGround, LineOfSight, MeterAt, Reference, StretchedString
from groundwork.levels.runs import Closing, Known, Lost, Runs
from groundwork.logbook import Logbook
from groundwork.measures import Measured
from groundwork.tools import Instrument
from groundwork.workings import JobPart, Workings, carried


class TakenAgainst(Protocol):
    """Something read against what `set_up` names."""

    @property
    def id(self) -> str: ...

    @property
    def set_up(self) -> str: ...


class Stand(NamedTuple):
    """What everything read against something hangs on: what it was read against, if that holds or held for some of
    it, why its start is lost, and what sights have said of it since, by when."""

    reference: Reference | None
    start: Lost | None
    said: tuple[tuple[float, Closing], ...]


class Levels(JobPart):
    """What stands on a site to read against. `farthest` is how long a sight is taken to be where nobody knows,
    metres."""

    PART = "levels"

    def __init__(
        self,
        workings: Workings,
        logbook: Logbook,
        marks: Mapping[str, Known],
        ground: ExistingGround,
        farthest: float,
    ) -> None:
        super().__init__(workings)
        self.logbook, self.marks = logbook, marks
        self._ground, self._farthest = ground, farthest

    @property
    @carried
    def runs(self) -> Runs:
        """How the set-ups hang together, adjusted. Carried over, it knows no entry made since: none of those is a
        set-up or a sight, so all it has to know of them is that they came after."""
        before: Runs | None = self.former("runs")
        return self._runs(*self.logbook.set_ups.values(), solved=before)

    def _runs(self, *set_ups: SetUp, solved: Runs | None) -> Runs:
        logbook = self.logbook
        holds = partial(held, logbook.knocked, logbook.order, frozenset(logbook.set_ups))
        sights = logbook.of_kind(Foresight).values()
        known = solved.adjusted if solved else {}
        return Runs(self.marks, set_ups, sights, holds, self._farthest, logbook.order, known)

    @property
    def usable(self) -> list[str]:
        """The marks, then the turning points, whose level can be looked back on: none that was knocked."""
        return [name for name in (*self.marks, *self.runs.turning_points) if name not in self.logbook.knocked]

    @property
    @carried
    def references(self) -> dict[str, Reference]:
        """What readings can be taken against now, oldest first, by id; what no longer holds is not among them."""
        lost = self.runs.lost
        return {key: stand.reference for key, stand in self.stands.items() if stand.reference and key not in lost}

    @property
    @carried
    def stands(self) -> dict[str, Stand]:
        """How everything read against each anchor stands, by its id; the same object where that has not changed."""
        before: dict[str, Stand] = self.former("stands") or {}
        found: dict[str, Stand] = {}
        for key, entry in self.logbook.anchors.items():
            stand = Stand(self._held_by(key, entry), *self.runs.standing(key))
            known = before.get(key)
            found[key] = known if known == stand else stand
        return found

    def _held_by(self, key: str, entry: Anchor) -> Reference | None:
        """What can be read against an anchor, or could for some of its readings."""
        match entry:
            case SetUp():
                height = self.runs.heights.get(key)
                return LineOfSight(entry, height, self._farthest) if height else None
            case MeterBase():
                level, logbook = self.runs.level_of(entry.mark), self.logbook
                stood = held(logbook.knocked, logbook.order, logbook.set_ups, entry.mark, key)
                return None if level is None or not stood else MeterAt(entry, level)
            case StringLine():
                return StretchedString(entry)
            case TapeDatum():
                return FromGround(entry, self._ground)
            case _:
                assert_never(entry)

    def against(self, reading: TakenAgainst) -> Reference | None:
        """What a recorded reading was taken against; None where that did not hold when it was taken."""
        if self.runs.why_lost(reading.set_up, reading.id):
            return None
        stand = self.stands.get(reading.set_up)
        return stand.reference if stand else None

    def why_lost(self, anchor: str) -> Lost | None:
        """Why nothing read against it now would be known; None where it stands."""
        if anchor in self.references:
            return None
        return self.runs.lost.get(anchor, Lost.DISTURBED if anchor in self.logbook.anchors else Lost.STRUCK)

    @property
    def present(self) -> Reference | None:
        """The newest of what readings can be taken against."""
        return next(reversed(self.references.values()), None)

    @property
    def set_up(self) -> SetUp | None:
        """The newest set-up of a level that stands."""
        return next((s for key, s in reversed(self.logbook.set_ups.items()) if key in self.references), None)

    def instrument_height(self, set_up: SetUp) -> float:
        """The adjusted height of its line of sight. Raises `KeyError` where it no longer stands."""
        return self.runs.heights[set_up.id].level

    @carried
    def about_to_stand(self, mark: str, instrument: Instrument) -> LineOfSight | None:
        """The line of sight of a level about to look back on `mark`, as though the rod there read nothing: it is
        higher by what it does read. None where the level of the mark is not known."""
        set_up = SetUp(f"{instrument.method} {instrument.name} on {mark}", mark, Measured("0", 0.0), instrument)
        runs = self._runs(*self.logbook.set_ups.values(), set_up, solved=self.runs)
        height = runs.heights.get(set_up.id)
        return None if height is None else LineOfSight(set_up, height, self._farthest)


def held(
    knocked: Mapping[str, str], order: Mapping[str, int], set_ups: Container[str], point: str, entry_id: str
) -> bool:
    """Whether a point still stood where it was when an entry was made on it; for what is not recorded yet, whether it
    was never knocked. `knocked` has points that were with the set-up from which on they do not hold."""
    if point not in knocked:
        return True
    since = knocked[point]
    return entry_id in order and since in set_ups and order[entry_id] < order[since]
