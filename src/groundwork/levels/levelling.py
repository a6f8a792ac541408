"""Levels by instrument and rod (any surveying text).

Height of instrument = level of the mark + backsight; level of a point = height of instrument − reading.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from groundwork.measures import Said


def height_of_instrument(mark_level: float, backsight: float) -> float:
    return mark_level + backsight


def reduced_level(instrument_height: float, reading: float) -> float:
    return instrument_height - reading


def target_reading(instrument_height: float, design_level: float) -> float:
    """What the rod should read where the surface is at its design level; negative where the line of sight
    passes below it."""
    return instrument_height - design_level


@dataclass(frozen=True)
class Booking:
    """One line of a level book: the readings on one point. A turning point has a foresight and a backsight."""

    backsight: float | None = None
    intermediate: float | None = None
    foresight: float | None = None

    @property
    def sight_back_from(self) -> float | None:
        """The reading that ends a rise or fall from the point before."""
        return self.intermediate if self.foresight is None else self.foresight


@dataclass(frozen=True)
class Reduction:
    """Levels of every booked point, with the sums whose agreement checks the arithmetic."""

    levels: tuple[float, ...]
    backsights: float
    foresights: float
    rises: float | None = None
    falls: float | None = None

    @property
    def checks(self) -> bool:
        """ΣBS − ΣFS = last − first, and by rise and fall also Σrise − Σfall."""
        change = self.levels[-1] - self.levels[0]
        sums = [self.backsights - self.foresights]
        if self.rises is not None and self.falls is not None:
            sums.append(self.rises - self.falls)
        return all(abs(total - change) < 1e-9 for total in sums)


def reduce_by_height_of_instrument(first_level: float, bookings: Sequence[Booking]) -> Reduction:
    """Levels from the height of each set-up's line of sight. Raises `ValueError` on a book that cannot be
    read: the first line wants a backsight, every other a reading back on a set-up."""
    _check(bookings)
    levels = [first_level]
    height = height_of_instrument(first_level, bookings[0].backsight or 0.0)
    for booking in bookings[1:]:
        levels.append(reduced_level(height, booking.sight_back_from or 0.0))
        if booking.backsight is not None:
            height = height_of_instrument(levels[-1], booking.backsight)
    return Reduction(tuple(levels), *_sums(bookings))


def reduce_by_rise_and_fall(first_level: float, bookings: Sequence[Booking]) -> Reduction:
    """Levels from the difference between successive readings. Raises as the other method does."""
    _check(bookings)
    levels, rises, falls = [first_level], 0.0, 0.0
    previous = bookings[0].backsight or 0.0
    for booking in bookings[1:]:
        reading = booking.sight_back_from or 0.0
        change = previous - reading
        rises, falls = rises + max(change, 0.0), falls + max(-change, 0.0)
        levels.append(levels[-1] + change)
        previous = reading if booking.backsight is None else booking.backsight
    return Reduction(tuple(levels), *_sums(bookings), rises, falls)


def _check(bookings: Sequence[Booking]) -> None:
    if len(bookings) < 2 or bookings[0].backsight is None:
        raise ValueError("a level book starts with a backsight and has at least one more line")
    for line, booking in enumerate(bookings[1:], start=2):
        if booking.sight_back_from is None:
            raise Said("line {line}: neither an intermediate sight nor a foresight", line=line)
        if booking.backsight is not None and booking.foresight is None:
            raise Said("line {line}: a turning point needs its foresight before the new backsight", line=line)
    if bookings[-1].foresight is None:
        raise ValueError("the last line must be a foresight, or the sums cannot be checked")


def _sums(bookings: Sequence[Booking]) -> tuple[float, float]:
    return sum(b.backsight or 0.0 for b in bookings), sum(b.foresight or 0.0 for b in bookings)


MISCLOSURE = 0.005
"""Allowed misclosure of one set-up, metres; of n, √n times that (construction levelling; quoted from memory)."""


def allowed_misclosure(set_ups: int) -> float:
    """How far a run of so many set-ups may miss its closing mark, metres."""
    return MISCLOSURE * math.sqrt(set_ups)


def allowed_over(kilometres: float) -> float:
    """Ordinary levelling's limit over a distance, metres: 12 mm √K (quoted from memory)."""
    return 0.012 * math.sqrt(kilometres)


SOUND_TILT, STEEPEST_TILT = 0.0001, 0.005
"""Metres a metre: within the first a level may stay as it is, beyond the second it was misread or is for the workshop
(common practice, no published source)."""


@dataclass(frozen=True)
class TwoPeg:
    """A two-peg test: the rod readings on pegs A and B from midway, then from near A. Distances in metres."""

    midway_a: float
    midway_b: float
    near_a: float
    near_b: float
    to_a: float
    to_b: float

    @property
    def error(self) -> float:
        """How much more the second set-up makes the rise from A to B than it is."""
        return (self.near_a - self.near_b) - (self.midway_a - self.midway_b)

    @property
    def collimation(self) -> float:
        """How much the line of sight rises a metre; from midway it cancels. Raises `ValueError` where the second
        set-up is as far from A as from B."""
        if abs(self.to_a - self.to_b) < 1:
            raise ValueError("the second set-up must stand clearly nearer to A than to B")
        return self.error / (self.to_a - self.to_b)

    @property
    def over_a_hundred(self) -> float:
        """What the tilt of the line of sight adds over a hundred metres."""
        return 100 * self.collimation

    @property
    def is_sound(self) -> bool:
        return abs(self.collimation) <= SOUND_TILT

    @property
    def is_believable(self) -> bool:
        return abs(self.collimation) <= STEEPEST_TILT

    @property
    def true_far_reading(self) -> float:
        """What the far rod should have read from the second set-up."""
        return self.near_b - self.collimation * self.to_b


def corrected(reading: float, collimation: float, distance: float) -> float:
    """A reading freed of what the tilt of the line of sight adds over `distance`."""
    return reading - collimation * distance
