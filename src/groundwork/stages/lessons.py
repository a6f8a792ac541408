"""What a job teaches its crew for the next: measured here, with its spread; nobody takes it unasked."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from groundwork.jointing import Jointing
from groundwork.laying import Laying
from groundwork.lifts import Works
from groundwork.seating import Seating


class LessonKind(StrEnum):
    """What is learnt: by how much seating lets units down, metres; loose over compacted thickness of a material; what
    went into the joints over what was reckoned; m² laid in a person-hour; passes until a lift of a material was
    tight; hours of a stage over those the table has for it."""

    SETTLEMENT = "settlement"
    BULKING = "bulking"
    SAND = "sand"
    RATE = "rate"
    PASSES = "passes"
    HOURS = "hours"


@dataclass(frozen=True)
class Lesson:
    """Something measured on a job: of what `material`, where it is of one; its mean, the standard `spread` of single
    values about it, and how many there were."""

    kind: LessonKind
    material: str
    value: float
    spread: float
    number: int


def _lesson(kind: LessonKind, material: str, values: Sequence[float]) -> Lesson | None:
    if not values:
        return None
    mean = math.fsum(values) / len(values)
    spread = math.sqrt(math.fsum((v - mean) ** 2 for v in values) / (len(values) - 1)) if len(values) > 1 else 0.0
    return Lesson(kind, material, mean, spread, len(values))


def lessons(works: Works, laying: Laying, seating: Seating, jointing: Jointing) -> tuple[Lesson, ...]:
    """What was measured here."""
    found: list[Lesson | None] = [_lesson(LessonKind.SETTLEMENT, "", seating.came_down)]
    for material, ratios in works.bulked.items():
        found.append(_lesson(LessonKind.BULKING, material, ratios))
    passes: dict[str, list[float]] = {}
    for lift in works.lifts.values():
        if lift.plan is not None and lift.is_tight and lift.passes_begun:
            passes.setdefault(lift.plan.material.key, []).append(float(lift.passes_done))
    found += (_lesson(LessonKind.PASSES, material, each) for material, each in passes.items())
    if jointing.used and jointing.reckoned and jointing.is_ended:
        found.append(_lesson(LessonKind.SAND, jointing.fill.key, [jointing.used / jointing.reckoned]))
    if laying.rate:
        found.append(_lesson(LessonKind.RATE, "", [laying.rate]))
    return tuple(each for each in found if each is not None)


def combined(jobs: Iterable[Lesson]) -> Lesson | None:
    """Several jobs' lessons of one kind taken together, each job as much as another: their mean, and the spread from
    job to job; of one job its own. None of none."""
    known = list(jobs)
    if len(known) < 2:
        return next(iter(known), None)
    return _lesson(known[0].kind, known[0].material, [each.value for each in known])
