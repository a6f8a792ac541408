"""Random layouts under their rules, from a seed: a piece of paving so large that nobody sees it repeat, which fits
itself at its edges.

A mix of sizes begins as the regular pattern of three sizes; then a few units at a time are relaid by lot, and what
comes of it stays where no four corners meet, no straight joint is too long and no unit lies beside its like. Courses
of random lengths are drawn course by course against the ends of the one before.
"""

import random
from collections.abc import Iterator, Sequence

Box = tuple[int, int, int, int]
"""Where a unit begins, how long it is along and across, modules."""
Way = tuple[tuple[int, int], float]
FIELD = 42
"""Modules each way of a mix, a multiple of 7: 4.2 m of 100 mm."""
LONGEST = 9
"""Modules of a straight joint: under 1.5 m where a module is up to 166 mm (common practice, no published source)."""
ROUNDS = 3
"""So often each unit is taken up and relaid, on the whole."""
STEPS = 60
"""A few units are relaid in so many steps or left as they were."""
_WRAP = tuple(range(FIELD)) * 2
"""Modules past the edge come in again at the other."""
PERIOD, COURSES = 24.0, 24
"""Units' lengths along, and courses, of a layout in courses before it repeats."""


def mixed(sizes: Sequence[tuple[int, int]], shares: Sequence[float], seed: int) -> tuple[Box, ...]:
    """Units that fill a field of `FIELD` modules each way that fits itself; `shares` say how readily a size is
    taken."""
    ways = [
        (turned, share / len({(long, across), (across, long)}))
        for (long, across), share in zip(sizes, shares, strict=True)
        for turned in sorted({(long, across), (across, long)})
    ]
    return _Field(ways, random.Random(seed)).mixed()  # noqa: S311 — a pattern, not a secret


class _Field:
    """A field of modules that fits itself at its edges, every module of it under a unit."""

    def __init__(self, ways: list[Way], draw: random.Random) -> None:
        self.ways, self.draw = ways, draw
        self.owner = [0] * FIELD**2  # by the unit's number, row by row; 0 where there is none
        self.units: dict[int, Box] = {}
        self._last = 0
        for n in range(FIELD):
            for m in range(FIELD // 7):
                x, y = 3 * n + 7 * m, n
                for unit in ((x, y, 2, 2), (x + 2, y, 2, 1), (x - 1, y, 1, 1)):
                    self._put(unit)

    def mixed(self) -> tuple[Box, ...]:
        for _n in range(ROUNDS * len(self.units)):
            self._relay(self.draw.randrange(FIELD), self.draw.randrange(FIELD), self.draw.choice((2, 3, 3)))
        return tuple(self.units.values())

    def _put(self, unit: Box) -> None:
        self._last += 1
        self.units[self._last] = unit = (unit[0] % FIELD, unit[1] % FIELD, unit[2], unit[3])
        self._mark(unit, self._last)

    def _mark(self, unit: Box, number: int) -> None:
        x, y, w, h = unit
        for row in _WRAP[y : y + h]:
            for column in _WRAP[x : x + w]:
                self.owner[row * FIELD + column] = number

    def _take_up(self, number: int) -> Box:
        unit = self.units.pop(number)
        self._mark(unit, 0)
        return unit

    def _relay(self, x: int, y: int, wide: int) -> None:
        """Relays what lies on a square so wide; leaves it as it was where nothing comes of it."""
        there = {self._at(x + m, y + n) for m in range(wide) for n in range(wide)}
        before = [self._take_up(number) for number in sorted(there)]
        free = sorted((b + n, a + m) for a, b, w, h in before for n in range(h) for m in range(w))
        first = self._last
        if not self._fill(free, [STEPS]):
            for number in range(first + 1, self._last + 1):
                if number in self.units:
                    self._take_up(number)
            for unit in before:
                self._put(unit)

    def _fill(self, free: list[tuple[int, int]], steps: list[int]) -> bool:
        at = next(((x, y) for y, x in free if not self._at(x, y)), None)
        if at is None:
            return True
        lots = sorted(((self.draw.random() ** (1 / share), way) for way, share in self.ways), reverse=True)
        for _lot, (w, h) in lots:
            if steps[0] and self._may(*at, w, h):
                steps[0] -= 1
                self._put((*at, w, h))
                number = self._last
                if self._fill(free, steps):
                    return True
                self._take_up(number)
        return False

    def _at(self, x: int, y: int) -> int:
        return self.owner[_WRAP[y] * FIELD + _WRAP[x]]

    def _may(self, x: int, y: int, w: int, h: int) -> bool:
        across = _WRAP[x : x + w]
        for row in _WRAP[y : y + h]:
            for column in across:
                if self.owner[row * FIELD + column]:
                    return False
        return not (self._crosses(x, y, w, h) or self._has_twin(x, y, w, h)) and all(
            self._is_short(x, y, long, is_level, side)
            for long, is_level, side in ((h, 0, 0), (h, 0, w), (w, 1, 0), (w, 1, h))
        )

    def _crosses(self, x: int, y: int, w: int, h: int) -> bool:
        """Whether four corners would meet at one of the new unit: with what lies over or under it, beside it, and
        across the corner, where that is neither of them."""
        at = self._at
        for column, beside in ((x, x - 1), (x + w - 1, x + w)):
            for row, over in ((y, y - 1), (y + h - 1, y + h)):
                third = at(beside, over)
                if third and (one := at(column, over)) and (other := at(beside, row)) and third not in (one, other):
                    return True
        return False

    def _has_twin(self, x: int, y: int, w: int, h: int) -> bool:
        for across, up in ((x - 1, y), (x + w, y), (x, y - 1), (x, y + h)):
            there = self.units.get(self._at(across, up))
            if there and there[2:] == (w, h) and (there[0] == x % FIELD or there[1] == y % FIELD):
                return True
        return False

    def _is_short(self, x: int, y: int, long: int, is_level: int, side: int) -> bool:
        """Whether the joint along a side of the new unit at (x, y), `long` there and so far over from it, would be no
        longer than it may."""
        owner, found = self.owner, long
        for first, step in ((-1, -1), (long, 1)):
            at = first
            while found <= LONGEST:
                if is_level:
                    column, over = _WRAP[x + at], y + side
                    one, other = owner[_WRAP[over] * FIELD + column], owner[_WRAP[over - 1] * FIELD + column]
                else:
                    row, over = _WRAP[y + at] * FIELD, x + side
                    one, other = owner[row + _WRAP[over]], owner[row + _WRAP[over - 1]]
                if not one or not other or one == other:
                    break
                found, at = found + 1, at + step
        return found <= LONGEST


def coursed(lengths: Sequence[float], apart: float, seed: int) -> tuple[tuple[float, int, float], ...]:
    """Courses that fit themselves along and across: where each unit begins along, which course it is in, and how long
    it is, in units with their joints; its ends at least `apart` from those of the courses on either side. Raises
    `ValueError` where no such courses are found."""
    draw = random.Random(seed)  # noqa: S311 — a pattern, not a secret
    found: list[list[float]] = []
    for course in range(COURSES):
        beside = found[-1:] + (found[:1] if course == COURSES - 1 else [])
        for _again in range(2000):
            ends = _course(lengths, apart, draw, [end for each in beside for end in each])
            if ends:
                break
        else:
            raise ValueError("no such courses")
        found.append(ends)
    return tuple(unit for course, ends in enumerate(found) for unit in _units(lengths, ends, course))


def _units(lengths: Sequence[float], ends: list[float], course: int) -> Iterator[tuple[float, int, float]]:
    for n, start in enumerate(ends):
        long = (ends[(n + 1) % len(ends)] - start) % PERIOD
        yield start, course, min(lengths, key=lambda each: abs(each - long))


def _course(lengths: Sequence[float], apart: float, draw: random.Random, beside: list[float]) -> list[float]:
    """Where units of a course begin, all round; nothing where it comes to no end."""
    x = begun = draw.random()
    ends = [x] if _keeps(x, beside, apart) else []
    while ends:
        left = begun + PERIOD - x
        if left <= max(lengths) + 1e-9:
            return ends if any(abs(left - each) < 1e-9 for each in lengths) else []
        fits = [each for each in lengths if left - each >= min(lengths) - 1e-9 and _keeps(x + each, beside, apart)]
        if not fits:
            return []
        x += draw.choice(fits)
        ends.append(x)
    return []


def _keeps(end: float, beside: list[float], apart: float) -> bool:
    return all(min((end - each) % PERIOD, (each - end) % PERIOD) >= apart - 1e-9 for each in beside)
