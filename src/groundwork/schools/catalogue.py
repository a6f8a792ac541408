"""The schools of base, each one data file in `schools/`; all are common practice, no published source, and subject
to local code and the makers' data."""

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from importlib import resources
from typing import Any

from groundwork.base import (
    BaseSpecification,
    Details,
    GridJoints,
    Joint,
    Layer,
    Material,
    Reinforcement,
    Role,
    SurfaceKey,
    material,
)
from groundwork.brief import Traffic
from groundwork.measures import Said, Unit, trade
from groundwork.schools.book import Ask, ask


class Water(StrEnum):
    """Whether water leaves over the base or through it."""

    OVER = "over"
    THROUGH = "through"


class Fabric(StrEnum):
    """Whether a school lies on a fabric whatever the soil."""

    NONE = "none"
    REQUIRED = "required"


@dataclass(frozen=True)
class CourseRule:
    """A layer as the school asks for it; the first material is the usual one. `thickness` by traffic, bedding
    as compacted; `least` by traffic; `bounds` what can be built at all, for bedding the school's range on the mean,
    with `anywhere` for any one place and `stop` beyond which nothing is built; `lift` the usual compacted lift."""

    role: Role
    materials: tuple[Material, ...]
    thickness: Mapping[Traffic, float]
    least: Mapping[Traffic, float]
    bounds: tuple[float, float]
    lift: tuple[float, float] | None
    fabric: Fabric
    geogrid: GridJoints | None
    anywhere: tuple[float, float]
    stop: tuple[float, float]


USUAL_POUR_WAIT = 3.0


@dataclass(frozen=True)
class Wait:
    """Days, of concrete or mortar at 20 °C, that pass between the stage `after` and the stage `before`; of a pour,
    where none are named."""

    what: str
    days: int
    after: str = ""
    before: str = ""


@dataclass(frozen=True)
class School:
    """One complete way to build: layers, edge, bedding, joints and tests. `order` its stages, those that run side by
    side together; `second_look` the stages a second pair of eyes signs too; `asks` what it asks beside the stagebook,
    by stage; `walk_days` and `drive_days` after the joints are filled, None where nobody ever drives on it."""

    key: str
    title: str
    summary: str
    traffic: tuple[Traffic, ...]
    water: Water
    collects_at: SurfaceKey
    courses: tuple[CourseRule, ...]
    settlement: float
    edge: str
    spiked: bool
    margin: str
    works_wet: bool
    works_in_frost: bool
    tests: tuple[str, ...]
    waits: tuple[Wait, ...]
    joint_width: float
    joint_bounds: tuple[float, float]
    fills: tuple[str, ...]
    reinforcement: Reinforcement
    reinforcements: tuple[Reinforcement, ...]
    concrete_joints: float | None
    least_fall: float
    scarify: float
    order: tuple[tuple[str, ...], ...]
    second_look: frozenset[str]
    asks: Mapping[str, tuple[Ask, ...]]
    walk_days: int
    drive_days: int | None
    care: tuple[str, ...]
    always_for: tuple[str, ...]
    always_against: tuple[str, ...]
    by_role: Mapping[Role, CourseRule]

    @property
    def waiting_days(self) -> int:
        return sum(wait.days for wait in self.waits)

    @property
    def pour_waits(self) -> float:
        """Days of setting at 20 °C that pass after a pour before anything is built on it."""
        return next((float(wait.days) for wait in self.waits if not wait.before), USUAL_POUR_WAIT)

    def waits_before(self, stage: str) -> tuple[Wait, ...]:
        """What has to have set before a stage, beside a pour."""
        return tuple(wait for wait in self.waits if wait.before == stage)

    @property
    def foot_only(self) -> bool:
        return set(self.traffic) == {Traffic.FOOT}

    def traffic_for(self, traffic: Traffic) -> Traffic:
        """The heaviest class this school has numbers for, at most `traffic`."""
        return max((t for t in self.traffic if _RANK[t] <= _RANK[traffic]), key=lambda t: _RANK[t])

    def margin_for(self, traffic: Traffic, base: float) -> float:
        """How far the base passes a free edge: 75 mm on foot, 150 mm under vehicles, and at least the base's own
        thickness where the edging is spiked into it; against a wall it passes by nothing (common practice)."""
        if self.margin == "none":
            return 0.0
        least = 0.075 if traffic in (Traffic.FOOT, Traffic.LIGHT) else 0.150
        return max(least, base) if self.margin == "spiked" else least

    def specification(self, traffic: Traffic, unit: Unit = Unit.MILLIMETRES) -> BaseSpecification:
        """The school's usual base for that traffic, layers as compacted but bedding as screeded, each as the trade
        has it in a crew's system."""
        taken = self.traffic_for(traffic)
        settlement = trade(self.settlement, unit)
        layers = tuple(
            Layer(
                course.role,
                course.materials[0].key,
                trade(course.thickness[taken], unit) + (settlement if course.role is Role.BEDDING else 0.0),
            )
            for course in self.courses
        )
        stone = sum(x.thickness for x in layers if x.role in (Role.BASE, Role.SUB_BASE))
        details = Details(
            fabric_under=frozenset(c.role for c in self.courses if c.fabric is Fabric.REQUIRED),
            geogrid=next((c.geogrid for c in self.courses if c.geogrid), None),
            reinforcement=self.reinforcement,
            concrete_joints=self.concrete_joints,
            joint=Joint(trade(self.joint_width, unit), self.fills[0]),
            fabric_overlap=trade(Details.fabric_overlap, unit),
            margin=trade(self.margin_for(traffic, stone), unit),
        )
        return BaseSpecification(self.key, layers, settlement, details=details)


THINNEST_AND_THICKEST = [10, 50]
"""No bed is thinner or thicker than this, millimetres (common practice, no published source)."""
_RANK = {traffic: rank for rank, traffic in enumerate(Traffic)}


@cache
def schools() -> dict[str, School]:
    """Every school by its key, in the order of their titles."""
    files = resources.files("groundwork.schools").joinpath("data").iterdir()
    found = [_read(tomllib.loads(f.read_text(encoding="utf-8"))) for f in files if f.name.endswith(".toml")]
    return {school.key: school for school in sorted(found, key=lambda school: school.title)}


def school(key: str) -> School:
    """The school of that key. Raises `ValueError` where there is none."""
    try:
        return schools()[key]
    except KeyError:
        raise Said(
            "no school of base is called “{key}”: one of {known}", key=key, known=", ".join(sorted(schools()))
        ) from None


def _read(data: dict[str, Any]) -> School:
    courses = tuple(map(_course, data["courses"]))
    joint = data["joint"]
    return School(
        key=data["key"],
        title=data["title"],
        summary=data["summary"],
        traffic=tuple(map(Traffic, data["traffic"])),
        water=Water(data["water"]),
        collects_at=SurfaceKey(data["collects_at"]),
        courses=courses,
        settlement=data["settlement_mm"] / 1000,
        edge=data["edge"],
        spiked=data["spiked"],
        margin=data["margin"],
        works_wet=data["works_wet"],
        works_in_frost=data["works_in_frost"],
        tests=tuple(data["tests"]),
        waits=tuple(Wait(**row) for row in data["waits"]),
        joint_width=joint["width_mm"] / 1000,
        joint_bounds=_bounds(joint["range_mm"]),
        fills=(joint["fill"], *(f for f in joint["fills"] if f != joint["fill"])),
        reinforcement=Reinforcement(data.get("reinforcement", "none")),
        reinforcements=tuple(map(Reinforcement, data.get("reinforcements", ["none"]))),
        concrete_joints=data.get("concrete_joints_m"),
        least_fall=1 / data.get("least_fall_1_in", 60),
        order=tuple((row,) if isinstance(row, str) else tuple(row) for row in data["stages"]["order"]),
        second_look=frozenset(data["stages"]["second_look"]),
        asks=_asks(data["stages"].get("asks", [])),
        walk_days=data["handover"]["walk_days"],
        drive_days=data["handover"].get("drive_days"),
        care=tuple(data["handover"]["care"]),
        scarify=data.get("scarify_mm", 0) / 1000,
        always_for=tuple(data["always_for"]),
        always_against=tuple(data["always_against"]),
        by_role={course.role: course for course in courses},
    )


def _asks(rows: list[dict[str, Any]]) -> dict[str, tuple[Ask, ...]]:
    found: dict[str, tuple[Ask, ...]] = {}
    for row in rows:
        found[row["stage"]] = (*found.get(row["stage"], ()), ask(row))
    return found


def _course(row: dict[str, Any]) -> CourseRule:
    grid = row.get("geogrid")
    return CourseRule(
        Role(row["role"]),
        tuple(map(material, row["materials"])),
        _by_traffic(row["thickness_mm"]),
        _by_traffic(row.get("least_mm", {})),
        _bounds(row["range_mm"]),
        _bounds(row["lift_mm"]) if "lift_mm" in row else None,
        Fabric(row.get("fabric", "none")),
        GridJoints(grid) if grid else None,
        _bounds(row.get("anywhere_mm", [0, 1000])),
        _bounds(row.get("stop_mm", THINNEST_AND_THICKEST)),
    )


def _by_traffic(row: dict[str, float]) -> dict[Traffic, float]:
    return {Traffic(key): value / 1000 for key, value in row.items()}


def _bounds(pair: list[float]) -> tuple[float, float]:
    return pair[0] / 1000, pair[1] / 1000
