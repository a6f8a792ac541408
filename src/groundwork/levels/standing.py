"""What readings can be taken against, and how high it is: the level where it was set up, strings, bases, the
ground."""

from collections.abc import Mapping
from functools import cached_property
from typing import assert_never

from groundwork.brief import ExistingGround
from groundwork.entries import Foresight, MeterBase, Reading, SetUp, StringLine, TapeDatum
from groundwork.levels.references import FromGround, LineOfSight, MeterAt, Reference, StretchedString
from groundwork.levels.runs import Known, Lost, Runs
from groundwork.logbook import Logbook
from groundwork.measures import Measured
from groundwork.tools import Instrument


class Levels:
    """What stands on a site to read against. `farthest` is how long a sight is taken to be where nobody knows,
    metres."""

    def __init__(self, logbook: Logbook, marks: Mapping[str, Known], ground: ExistingGround, farthest: float) -> None:
        self.logbook, self.marks = logbook, marks
        self._ground, self._farthest = ground, farthest

    @cached_property
    def runs(self) -> Runs:
        """How the set-ups hang together, adjusted."""
        return self._runs(*self.logbook.set_ups.values())

    def _runs(self, *set_ups: SetUp) -> Runs:
        sights = self.logbook.of_kind(Foresight).values()
        return Runs(self.marks, set_ups, sights, self.logbook.held, self._farthest, self.logbook.order)

    @property
    def usable(self) -> list[str]:
        """The marks, then the turning points, whose level can be looked back on: none that was knocked."""
        return [name for name in (*self.marks, *self.runs.turning_points) if name not in self.logbook.knocked]

    @cached_property
    def references(self) -> dict[str, Reference]:
        """What readings can be taken against now, oldest first, by id; what no longer holds is not among them."""
        return {key: r for key, r in self._once_held.items() if key not in self.runs.lost}

    @cached_property
    def _once_held(self) -> dict[str, Reference]:
        """What holds, or held for some of its readings."""
        found: dict[str, Reference] = {}
        for key, entry in self.logbook.anchors.items():
            match entry:
                case SetUp():
                    if key in self.runs.heights:
                        found[key] = LineOfSight(entry, self.runs.heights[key], self._farthest)
                case MeterBase():
                    level = self.runs.level_of(entry.mark)
                    if level is not None and self.logbook.held(entry.mark, key):
                        found[key] = MeterAt(entry, level)
                case StringLine():
                    found[key] = StretchedString(entry)
                case TapeDatum():
                    found[key] = FromGround(entry, self._ground)
                case _:
                    assert_never(entry)
        return found

    def against(self, reading: Reading) -> Reference | None:
        """What a recorded reading was taken against; None where that did not hold when it was taken."""
        if self.runs.why_lost(reading.set_up, reading.id):
            return None
        return self._once_held.get(reading.set_up)

    def why_lost(self, anchor: str) -> Lost | None:
        """Why nothing read against it now would be known; None where it stands."""
        if anchor in self.references:
            return None
        return self.runs.lost.get(anchor, Lost.DISTURBED if anchor in self.logbook.entries else Lost.STRUCK)

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

    def about_to_stand(self, mark: str, instrument: Instrument) -> LineOfSight | None:
        """The line of sight of a level about to look back on `mark`, as though the rod there read nothing: it is
        higher by what it does read. None where the level of the mark is not known."""
        set_up = SetUp(f"{instrument.method} {instrument.name} on {mark}", mark, Measured("0", 0.0), instrument)
        height = self._runs(*self.logbook.set_ups.values(), set_up).heights.get(set_up.id)
        return None if height is None else LineOfSight(set_up, height, self._farthest)
