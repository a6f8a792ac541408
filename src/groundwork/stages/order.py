"""The stages of one job in their order, as its school and its base have them."""

from collections.abc import Callable, Mapping

from groundwork.base import Family, Reinforcement, Role
from groundwork.brief import Traffic
from groundwork.job import Job
from groundwork.schools import Fabric, School, Slot, Stage, stagebook
from groundwork.stages.gates import Step

_DRY_FILLS = frozenset({"dry sand", "kiln-dried sand", "bonded sand"})


def _family(job: Job, role: Role) -> Family | None:
    layer = job.specification.layer(role)
    return layer.family if layer else None


def _material(job: Job, role: Role) -> str:
    layer = job.specification.layer(role)
    return layer.material if layer else ""


WHEN: Mapping[str, Callable[[Job, School], bool]] = {
    "": lambda _job, _school: True,
    "fabric": lambda job, school: (
        bool(job.specification.details.fabric_under)
        or any(course.fabric is Fabric.REQUIRED for course in school.courses)
    ),
    "geogrid": lambda job, _school: job.specification.details.geogrid is not None,
    "scarified": lambda _job, school: school.scarify > 0,
    "steel": lambda job, _school: job.specification.details.reinforcement is Reinforcement.STEEL,
    "bound": lambda job, _school: job.specification.layer(Role.BOUND_BASE) is not None,
    "bedded": lambda job, _school: job.specification.layer(Role.BEDDING) is not None,
    "screeded": lambda job, _school: _family(job, Role.BEDDING) not in (None, Family.MORTAR),
    "sand bed": lambda job, _school: _family(job, Role.BEDDING) is Family.SAND,
    "mortar": lambda job, _school: _family(job, Role.BEDDING) is Family.MORTAR,
    "dense": lambda job, _school: any(x.family is Family.DENSE for x in job.specification.under_bedding),
    "units": lambda job, _school: _family(job, Role.PAVING) is Family.UNIT,
    "plated": lambda job, _school: (
        _family(job, Role.PAVING) is Family.UNIT
        and _family(job, Role.BEDDING) is not Family.MORTAR
        and _material(job, Role.PAVING) != "porcelain"
    ),
    "cutting": lambda job, _school: job.brief.cutting,
    "forms": lambda job, school: job.specification.details.early_edge == "forms" and school.key != "slab",
    "kerbs": lambda job, school: job.specification.details.early_edge == "kerbs" and school.key != "kerbed",
    "dry joints": lambda job, _school: job.specification.details.joint.fill in _DRY_FILLS,
}
"""Under what conditions of a job something is asked, or a stage at all."""


def sequence(job: Job, school: School) -> dict[str, Step]:
    """A job's stages by key, in order. Each stands on those before it and opens those after it; stages side by side
    stand on and open the same."""

    def here(when: str) -> bool:
        return WHEN[when](job, school)

    book = stagebook()
    rows = [tuple(key for key in row if here(book[key].when)) for row in _order(job, school)]
    rows = [row for row in rows if row]
    return {
        key: Step(
            stage=book[key],
            stands_on=rows[n - 1] if n else (),
            opens=rows[n + 1] if n + 1 < len(rows) else (),
            slots=_slots(book[key], job, school),
            asks=tuple(a for a in (*book[key].asks, *school.asks.get(key, ())) if here(a.when)),
        )
        for n, row in enumerate(rows)
        for key in row
    }


BY_THE_PAVER = frozenset({"bedding", "laying", "late-edges", "seating", "joints"})
"""Stages that are somebody else's where somebody else paves."""


def _order(job: Job, school: School) -> list[tuple[str, ...]]:
    """The school's stages; with the edges set before the base goes in where the design has some there, and without
    what somebody else does."""
    rows = list(school.order)
    early = job.specification.details.early_edge and not any("early-edges" in row for row in rows)
    if early:
        place = next((n for n, row in enumerate(rows) if "base-lifts" in row or "base-proof" in row), len(rows))
        rows.insert(place, ("early-edges",))
    if job.brief.by_others:
        rows = [tuple(key for key in row if key not in BY_THE_PAVER) for row in rows]
    return rows


def _slots(stage: Stage, job: Job, school: School) -> tuple[Slot, ...]:
    """The lead signs; an engineer beside the lead what bears on the structure under heavy traffic; a second pair of
    eyes where the school wants one."""
    slots = [Slot.LEAD]
    if stage.structural and job.brief.traffic is Traffic.HEAVY:
        slots.append(Slot.ENGINEER)
    if stage.key in school.second_look:
        slots.append(Slot.SECOND)
    return tuple(slots)
