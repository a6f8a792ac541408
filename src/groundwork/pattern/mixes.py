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
        self.owner = [[0] * FIELD for _row in range(FIELD)]  # by the unit's number; 0 where there is none
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
        for row in range(y, y + h):
            for column in range(x, x + w):
                self.owner[row % FIELD][column % FIELD] = number

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
            for number in [number for number in self.units if number > first]:
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
        return self.owner[y % FIELD][x % FIELD]

    def _may(self, x: int, y: int, w: int, h: int) -> bool:
        if any(self._at(x + m, y + n) for n in range(h) for m in range(w)):
            return False
        corners = ((x, y - 1, x - 1, y), (x + w - 1, y - 1, x + w, y),
                   (x, y + h, x - 1, y + h - 1), (x + w - 1, y + h, x + w, y + h - 1))  # fmt: skip
        if any(self._crosses(*each) for each in corners) or self._has_twin(x, y, w, h):
            return False
        upright = (self._straight(side, y, h, (0, 1)) for side in (x, x + w))
        level = (self._straight(x, side, w, (1, 0)) for side in (y, y + h))
        return max(*upright, *level) <= LONGEST

    def _crosses(self, x: int, y: int, across: int, beside: int) -> bool:
        """Whether four corners would meet at one of the new unit: with what lies over or under it at (x, y), beside
        it at (across, beside), and across the corner."""
        one, other, third = self._at(x, y), self._at(across, beside), self._at(across, y)
        return bool(one and other and third) and third not in (one, other)

    def _has_twin(self, x: int, y: int, w: int, h: int) -> bool:
        for across, up in ((x - 1, y), (x + w, y), (x, y - 1), (x, y + h)):
            there = self.units.get(self._at(across, up))
            if there and there[2:] == (w, h) and (there[0] == x % FIELD or there[1] == y % FIELD):
                return True
        return False

    def _straight(self, x: int, y: int, long: int, way: tuple[int, int]) -> int:
        """How long the joint along a side of the new unit would be, that begins at (x, y) and is `long` there."""
        step_x, step_y = way
        found = long
        for n, step in ((-1, -1), (long, 1)):
            at = n
            while found < FIELD:
                column, row = x + at * step_x, y + at * step_y
                one, other = self._at(column, row), self._at(column - step_y, row - step_x)
                if not one or not other or one == other:
                    break
                found, at = found + 1, at + step
        return found


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
