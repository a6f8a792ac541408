"""A run of the level set out as a surveyor books it: by height of instrument and by rise and fall, each with its
arithmetic check, and the levels as adjusted."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from groundwork.assess import Assessment
from groundwork.entries import Foresight, Reading, SetUp
from groundwork.levels import (
    Booking,
    Closing,
    Lost,
    Reduction,
    Runs,
    reduce_by_height_of_instrument,
    reduce_by_rise_and_fall,
)


@dataclass(frozen=True)
class BookLine:
    """One line of the book. `entry` made it; `set_up` is the one begun on this line, if any. Levels in metres; the
    adjusted one where the run stands."""

    point: str
    booking: Booking
    level: float
    adjusted: float | None
    height: float | None
    rise: float | None
    fall: float | None
    entries: tuple[SetUp | Foresight | Reading, ...]
    surface: str = ""


@dataclass(frozen=True)
class Book:
    """One run, from its mark to its last sight: both reductions of the same readings, its closing sight, and why it
    does not stand, if it does not."""

    lines: tuple[BookLine, ...]
    by_height: Reduction
    by_rise: Reduction
    closing: Closing | None
    set_ups: tuple[SetUp, ...]
    lost: Lost | None

    @property
    def ends_on_a_station(self) -> bool:
        """Whether the last reading booked as a foresight is on a station: the run is open."""
        return isinstance(self.lines[-1].entries[-1], Reading)


@dataclass(frozen=True)
class _Sighted:
    point: str
    reading: float
    entry: Foresight | Reading
    surface: str = ""


_Taken = Mapping[str, Sequence[Reading | Foresight]]
"""What was read from each set-up, oldest first."""


def books(assessment: Assessment) -> tuple[Book, ...]:
    """Every run from a mark whose set-ups took a reading, in the order begun. Where two set-ups look back on one
    turning point, what they share stands in both."""
    runs = assessment.levels.runs
    forward = {runs.turning_points[s.mark].set_up for s in runs.set_ups.values() if s.mark in runs.turning_points}
    chains = [runs.chain(key) for key in runs.set_ups if key not in forward]
    taken: dict[str, list[Reading | Foresight]] = defaultdict(list)
    for entry in assessment.logbook.entries.values():
        if isinstance(entry, Reading | Foresight):
            taken[entry.set_up].append(entry)
    found = (_book(assessment, chain, taken) for chain in chains if chain and chain[0].mark in runs.marks)
    return tuple(book for book in found if book)


def _book(assessment: Assessment, chain: tuple[SetUp, ...], taken: _Taken) -> Book | None:
    runs = assessment.levels.runs
    rows: list[tuple[str, Booking, tuple[SetUp | Foresight | Reading, ...], str]] = []
    last: _Sighted | None = None
    for n, set_up in enumerate(chain):
        if last is None:
            rows.append((set_up.mark, Booking(backsight=_backsight(runs, set_up)), (set_up,), ""))
        else:
            turning = Booking(backsight=_backsight(runs, set_up), foresight=last.reading)
            rows.append((last.point, turning, (last.entry, set_up), ""))
        onward = chain[n + 1].mark if n + 1 < len(chain) else None
        sights = _sights(assessment, set_up, onward, taken.get(set_up.id, ()))
        if not sights:
            break
        *between, last = sights
        rows += [(s.point, Booking(intermediate=s.reading), (s.entry,), s.surface) for s in between]
    if last is None:
        return None
    if rows[-1][2][0] is not last.entry:
        rows.append((last.point, Booking(foresight=last.reading), (last.entry,), last.surface))
    bookings = [booking for _point, booking, _entries, _surface in rows]
    start = runs.marks[chain[0].mark].level
    by_height, by_rise = reduce_by_height_of_instrument(start, bookings), reduce_by_rise_and_fall(start, bookings)
    lines, previous, here = [], 0.0, chain[0]
    height: float | None = None
    for (point, booking, entries, surface), level in zip(rows, by_height.levels, strict=True):
        reading = booking.sight_back_from
        change = None if reading is None else previous - reading
        read_from = here.id
        correction = runs.heights[here.id].level - runs.as_read[here.id] if here.id in runs.heights else None
        if booking.backsight is not None:
            height = level + booking.backsight
            here = next(entry for entry in entries if isinstance(entry, SetUp))
        adjusted = runs.level_of(point) if point in runs.marks or point in runs.turning_points else None
        if adjusted is None and correction is not None and not runs.why_lost(read_from, entries[0].id):
            adjusted = level + correction
        lines.append(
            BookLine(
                point,
                booking,
                level,
                adjusted,
                height if booking.backsight is not None else None,
                change if change is not None and change >= 0 else None,
                -change if change is not None and change < 0 else None,
                entries,
                surface,
            )
        )
        previous = booking.backsight if booking.backsight is not None else reading or 0.0
    closing = next((c for c in reversed(runs.closings) if c.sight is last.entry), None)
    lost = next((runs.lost[s.id] for s in chain if s.id in runs.lost), None)
    return Book(tuple(lines), by_height, by_rise, closing, chain, lost)


def _backsight(runs: Runs, set_up: SetUp) -> float:
    return runs.read(set_up, set_up.backsight.metres, runs.at(set_up.mark))


def _sights(
    assessment: Assessment, set_up: SetUp, onward: str | None, taken: Iterable[Reading | Foresight]
) -> list[_Sighted]:
    """What was read from a set-up, freed of collimation: stations and checks between, and last what the run goes on
    from or closes on."""
    runs, places = assessment.levels.runs, {station.name: station.at for station in assessment.job.stations}
    between: list[_Sighted] = []
    ends: list[_Sighted] = []
    for entry in taken:
        if isinstance(entry, Reading):
            reading = runs.read(set_up, entry.reading.metres, places.get(entry.station))
            between.append(_Sighted(entry.station, reading, entry, str(entry.surface)))
            continue
        at = runs.marks[entry.point].at if entry.point in runs.marks else entry.at
        sighted = _Sighted(entry.point, runs.read(set_up, entry.reading.metres, at), entry)
        ending = entry.point == onward or (onward is None and entry.point in runs.marks)
        (ends if ending else between).append(sighted)
    return [*between, *ends]
