"""Whether a base specification is sound for its job: the S rules. Limits are common practice, no published source,
unless their finding says otherwise; local code, the makers' data and licensed practice come first."""

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property

from groundwork.base import POURED, BaseSpecification, Family, GridJoints, Layer, Reinforcement, Role
from groundwork.brief import DustControl, HeightKind, Neighbour, Soil, Traffic
from groundwork.drainage import (
    LONGEST_DRAIN_DOWN,
    PRESUMED_INFILTRATION,
    OutletReach,
    drain_down,
    outlet_reach,
    storage_depth,
)
from groundwork.job import Job
from groundwork.measures import Finding, Severity, Source, Words, inside
from groundwork.schools import School, Water, school
from groundwork.soundness.designed import MOST_STANDING, designed_water
from groundwork.strength import PRESUMED, SOFT, least_sub_base, weakest
from groundwork.surfaces import EDGE_AGREEMENT

LEAST_FALL, USUAL_FALL, STEEP, TOO_STEEP = 1 / 80, 1 / 60, 1 / 20, 1 / 12
TIGHT_JOINT = 0.005
OPEN_FILLS = frozenset({"chip", "pebble"})
"""Joint fills that water goes through."""
JOINTS_APART = 4.5
BY_THE_SOILS_TABLE = frozenset({Traffic.LIGHT, Traffic.DRIVE})
"""The traffic that the table of least sub-base by CBR is for."""
EDGE = 1e-9
SIDELONG = 1e-3
"""A fall towards a building flatter than 1:1000 runs along it, for all anyone can build."""


@dataclass(frozen=True)
class Case:
    """A job and what its rules are asked of."""

    job: Job

    @property
    def base(self) -> BaseSpecification:
        return self.job.specification

    @cached_property
    def school(self) -> School:
        return school(self.base.school)

    @cached_property
    def bearing_ratio(self) -> float:
        """The ground's CBR: the weakest of its cone logs, or what its soil is taken for."""
        return min(map(weakest, self.job.cone_logs), default=PRESUMED[self.job.brief.soil])

    @cached_property
    def infiltration(self) -> float:
        """What the ground lets in, m/s: as tested, or what its soil is taken for."""
        tested = self.job.brief.infiltration
        return PRESUMED_INFILTRATION[self.job.brief.soil] if tested is None else tested

    @cached_property
    def outlet(self) -> OutletReach | None:
        if self.job.outlet is None:
            return None
        return outlet_reach(self.job.outlet, self.job.design, self.base, self.school.collects_at)

    @property
    def compacts_the_ground(self) -> bool:
        """Whether the ground is compacted before stone goes on it: not rock, and not where it has to soak water in
        or nothing is dug."""
        return self.job.brief.soil is not Soil.ROCK and not self.school.scarify and "subgrade" in self.stages

    @cached_property
    def stages(self) -> frozenset[str]:
        """The stages the school goes through."""
        return frozenset(key for row in self.school.order for key in row)

    @property
    def traffic(self) -> Traffic:
        return self.job.brief.traffic

    @cached_property
    def stored(self) -> tuple[float, float, float]:
        """The water the base has room for and the water of the storm, metres, and the hours that takes to soak away
        into the ground."""
        room = sum(layer.thickness * layer.made_of.voids for layer in self.base.under_bedding)
        water = storage_depth(self.job.brief.storm, self.infiltration, voids=1.0)
        return room, water, drain_down(water, self.infiltration, voids=1.0) / 3600

    @cached_property
    def is_a_bath(self) -> bool:
        """Whether the base takes in more water than it can hold or lose: no outlet that reaches, and ground that
        drains too slowly."""
        if not self.base.takes_water_in or (self.outlet and self.outlet.reaches):
            return False
        room, water, hours = self.stored
        return water > room + EDGE or hours > LONGEST_DRAIN_DOWN / 3600 + EDGE

    @property
    def soaks(self) -> bool:
        """Whether rain goes down where it falls: cells, and units whose joints and base let water through."""
        base = self.base
        return base.layers[0].family is Family.CELLS or (
            base.takes_water_in and base.details.joint.fill in OPEN_FILLS
        )

    def keeps(self, value: float, least: float | None = None, most: float | None = None) -> bool:
        """Whether a length keeps its limits as the trade writes them in the job's system."""
        return inside(value, least, most, self.job.unit)

    @property
    def bedding(self) -> Layer | None:
        return self.base.layer(Role.BEDDING)

    @property
    def clean_stone(self) -> bool:
        return any(layer.family is Family.OPEN for layer in self.base.under_bedding)


def soundness(job: Job) -> tuple[Finding, ...]:
    """What the S rules find, in their order; stops, warnings and notes."""
    case = Case(job)
    rules = [rule for rule in RULES if not (job.brief.by_others and rule in ON_THE_PAVING)]
    return tuple(finding for rule in rules for finding in rule(case))


def _find(
    rule: str,
    severity: Severity,
    found: Words,
    limit: str | Words,
    why: str,
    cure: str,
    source: Source = Source.PRACTICE,
    structural: bool = False,
) -> Finding:
    words = limit if isinstance(limit, Words) else Words(limit)
    return Finding(rule, severity, found, words, why, cure, source, structural=structural)


def fall_name(ratio: float) -> str:
    """A fall as 1:n with enough figures to stand beside its limit."""
    return f"1:{1 / ratio:.3g}" if ratio > 1e-6 else "level"


def heavy_wants_an_engineer(case: Case) -> Iterator[Finding]:
    if case.traffic is Traffic.HEAVY and not case.job.brief.engineer.strip():
        yield _find(
            "S01",
            Severity.STOP,
            Words("heavy traffic and no engineer named"),
            "an engineer designs it and signs it",
            "More than cars and light vans is beyond the schools here.",
            "Name the engineer on the brief.",
            structural=True,
        )


def clear_of_the_damp_proof_course(case: Case) -> Iterator[Finding]:
    accepted = bool(case.job.brief.level_access.strip())
    for height in case.job.heights:
        most = height.bounds(level_access=False)[1]
        if height.kind is not HeightKind.DAMP_PROOF_COURSE or most is None or accepted:
            continue
        finished = case.job.design.level(height.at)
        if not case.keeps(height.level - finished, height.level - most):
            clear = height.level - finished
            found = (
                "{name}: finished level {clear} under it" if clear >= 0 else "{name}: finished level {clear} over it"
            )
            yield _find(
                "S02",
                Severity.STOP,
                Words(found, {"clear": clear}, names={"name": height.name}),
                Words("at least {least} under a damp-proof course", limits={"least": height.level - most}),
                "Damp enters the wall.",
                "Lower the surface there, or note the accepted level-access detail on the brief.",
            )


def falls_away_from_buildings(case: Case) -> Iterator[Finding]:
    for edge in case.job.building_edges:
        if not edge.drained and edge.falls_towards() > SIDELONG:
            names = {"facet": edge.facet.name, "building": edge.building, "fall": fall_name(edge.falls_towards())}
            yield _find(
                "S03",
                Severity.STOP,
                Words("{facet} falls {fall} towards {building}, no drain between", names=names),
                "level or away from a building, or a drain between",
                "Water at the foundation.",
                "Turn the fall, or put a drain along the building.",
            )


def falls_in_range(case: Case) -> Iterator[Finding]:
    on_units = case.base.layers[0].family is Family.UNIT and not case.soaks
    for facet in case.job.facets:
        fall = facet.steepest[0]
        words = Words("{facet} falls {fall}", names={"facet": facet.name, "fall": fall_name(fall)})
        ponding = "Water stands on the surface."
        if on_units and fall < LEAST_FALL - EDGE:
            yield _find(
                "S04",
                Severity.STOP,
                words,
                "at least 1:80 on blocks and flags",
                ponding,
                "Plan the falls again, 1:60 or more.",
            )
        elif on_units and fall < min(USUAL_FALL, case.school.least_fall) - EDGE:
            yield _find(
                "S04",
                Severity.WARNING,
                words,
                "1:60 on blocks and flags",
                ponding,
                "Plan the falls again, 1:60 or more.",
            )
        elif fall > STEEP + EDGE:
            severity = Severity.WARNING if fall > TOO_STEEP + EDGE else Severity.NOTE
            limit = "at most 1:12" if fall > TOO_STEEP + EDGE else "1:20 where people walk"
            yield _find(
                "S04",
                severity,
                words,
                limit,
                "Slipping, and access for wheels and walkers.",
                "Ease the fall, or say on the brief why it has to be.",
            )


def bedding_in_its_range(case: Case) -> Iterator[Finding]:
    course, bedding = case.school.by_role.get(Role.BEDDING), case.bedding
    why = "Pavers sink or tip where the bed is thick; bedding never makes up for a base."
    if bedding and course is None:
        yield _find(
            "S05",
            Severity.STOP,
            Words("a bedding layer in a school that has none"),
            "no bedding layer",
            why,
            "Take the bedding out.",
        )
    elif course and bedding is None:
        yield _find(
            "S05",
            Severity.STOP,
            Words("no bedding layer"),
            _range(course.bounds),
            why,
            "Put the school’s bedding in.",
        )
    elif course and bedding:
        thickness = case.base.compacted(bedding)
        cure = "Bring the bedding into its range; make the level up in the base."
        found = Words("bedding {thick} compacted", {"thick": thickness})
        if not case.keeps(thickness, *course.stop):
            yield _find("S05", Severity.STOP, found, _range(course.stop), why, cure)
        elif not (case.keeps(thickness, *course.bounds) or case.keeps(bedding.thickness, *course.bounds)):
            yield _find("S05", Severity.WARNING, found, _range(course.bounds), why, cure)


def _range(bounds: tuple[float, float]) -> Words:
    return Words("{least} to {most} compacted", limits={"least": bounds[0], "most": bounds[1]})


def no_dust_as_bedding(case: Case) -> Iterator[Finding]:
    bedding = case.bedding
    if bedding and bedding.family is Family.DUST and case.base.layers[0].family is Family.UNIT:
        yield _find(
            "S06",
            Severity.STOP,
            Words("{what} as bedding", names={"what": bedding.made_of.title}),
            "sand, chip or mortar",
            "Stone dust holds water, stains the pavers and spoils bonded sand.",
            "Bed on sand or clean chip.",
        )


def no_sand_on_clean_stone(case: Case) -> Iterator[Finding]:
    bedding, below = case.bedding, case.base.under_bedding[:1]
    fabric = Role.BEDDING in case.base.details.fabric_under
    if bedding and bedding.family is Family.SAND and below and below[0].family is Family.OPEN and not fabric:
        yield _find(
            "S07",
            Severity.STOP,
            Words("sand bedding straight on clean stone"),
            "chip, or a fabric between",
            "The sand runs into the voids and the pavers sink.",
            "Bed on clean chip, or lay a fabric under the sand.",
        )


def sand_in_tight_joints_under_wheels(case: Case) -> Iterator[Finding]:
    width, bedding = case.base.details.joint.width, case.bedding
    if case.traffic.wheels and bedding and bedding.family is Family.CHIP and not case.keeps(width, TIGHT_JOINT):
        only_chip = case.clean_stone and case.school.water is Water.THROUGH
        yield _find(
            "S08",
            Severity.WARNING if only_chip else Severity.STOP,
            Words("joints {width} on chip under vehicles", {"width": width}),
            Words("joints {least} or wider on chip", limits={"least": TIGHT_JOINT}),
            "No sand rises from below, so nothing locks the pavers.",
            "Bed on concrete sand, or open the joints.",
        )


def open_base_beside_a_foundation(case: Case) -> Iterator[Finding]:
    if not case.base.takes_water_in or case.base.details.dense_strip:
        return
    for building in sorted({e.building for e in case.job.building_edges if e.falls_towards() > -LEAST_FALL + EDGE}):
        yield _find(
            "S09",
            Severity.WARNING,
            Words("open base beside {building}", names={"building": building}),
            "formation falling away at 1:80 or more, or a dense strip beside it",
            "Water in the stone stands at the wall.",
            "Fall the formation away, or lay a dense strip along the wall.",
        )


def open_base_beside_a_dense_one(case: Case) -> Iterator[Finding]:
    beside = case.job.brief.neighbour is Neighbour.DENSE
    if beside and case.clean_stone and not case.base.details.side_fabric:
        yield _find(
            "S10",
            Severity.WARNING,
            Words("clean stone against an existing dense base"),
            "a fabric between",
            "Fines migrate into the clean stone and the old base settles.",
            "Turn a fabric up between the two.",
        )


def separated_from_the_soil(case: Case) -> Iterator[Finding]:
    separated = case.base.details.fabric_under & {Role.BOUND_BASE, Role.BASE, Role.SUB_BASE}
    if separated or case.base.lies_on_what_is_there:
        return
    why, cure = "Base and soil mix, and the base is lost from below.", "Lay a separation fabric under the base."
    if case.clean_stone:
        yield _find(
            "S11", Severity.STOP, Words("clean stone with no separation fabric"), "a separation fabric", why, cure
        )
    elif case.job.brief.soil.is_fine:
        found = Words("{soil} under the base with no separation fabric", names={"soil": case.job.brief.soil})
        yield _find("S11", Severity.WARNING, found, "a separation fabric", why, cure)


def thick_enough(case: Case) -> Iterator[Finding]:
    why, taken = "Ruts and settlement.", case.school.traffic_for(case.traffic)
    for role, course in case.school.by_role.items():
        least = course.least.get(taken)
        if least is None:
            continue
        layer = case.base.layer(role)
        thickness = layer.thickness if layer else 0.0
        if not case.keeps(thickness, least):
            yield _find(
                "S12",
                Severity.STOP,
                Words("{role} {thick}", {"thick": thickness}, names={"role": role}),
                Words("at least {least} for this traffic", limits={"least": least}),
                why,
                "Thicken it.",
                structural=True,
            )
    bound = any(layer.family in POURED for layer in case.base.layers)
    if case.traffic in BY_THE_SOILS_TABLE and not bound:
        yield from _thick_enough_for_the_soil(case)


def _thick_enough_for_the_soil(case: Case) -> Iterator[Finding]:
    ratio = {"cbr": f"{case.bearing_ratio:.2g}"}
    why = "Soft ground spreads no load: the stone has to."
    try:
        least = least_sub_base(case.bearing_ratio)
    except ValueError:
        yield _find(
            "S12",
            Severity.WARNING,
            Words("ground of CBR {cbr}", names=ratio),
            "CBR 2 or more",
            why,
            "Improve the ground first, or ask an engineer.",
            Source.MEMORY,
        )
        return
    if not case.keeps(case.base.unbound, least):
        yield _find(
            "S12",
            Severity.WARNING,
            Words("{thick} of stone on ground of CBR {cbr}", {"thick": case.base.unbound}, names=ratio),
            Words("{least} by the table for light traffic", limits={"least": least}),
            why,
            "Thicken the base, or test the ground.",
            Source.MEMORY,
        )


def no_steel_in_pervious_concrete(case: Case) -> Iterator[Finding]:
    pervious = any(layer.family is Family.PERVIOUS for layer in case.base.layers)
    if pervious and case.base.details.reinforcement is Reinforcement.STEEL:
        yield _find(
            "S13",
            Severity.STOP,
            Words("steel in pervious concrete"),
            "none, or fibre",
            "Water and air reach the steel; rust bursts the concrete.",
            "Use fibre.",
            structural=True,
        )


def a_way_out_for_the_water(case: Case) -> Iterator[Finding]:
    if not case.is_a_bath:
        return
    room, water, hours = case.stored
    missing = "no outlet" if case.outlet is None else "an outlet the pipe cannot reach"
    yield _find(
        "S14",
        Severity.WARNING,
        Words(
            "{missing}, and {water} of rain takes {hours} h to soak away",
            {"water": water},
            names={"hours": f"{hours:.0f}", "missing": missing},
        ),
        Words("at most {room} held, gone in 72 h", {"room": room}),
        "A bath under the paving.",
        "Give it an outlet that reaches daylight, or test the ground’s infiltration.",
        Source.MEMORY,
    )


def not_for_these_wheels(case: Case) -> Iterator[Finding]:
    asked = Traffic.DRIVE if case.traffic is Traffic.HEAVY else case.traffic
    if asked not in case.school.traffic:
        yield _find(
            "S15",
            Severity.STOP,
            Words("{school} under {traffic} traffic", names={"school": case.school.title, "traffic": case.traffic}),
            "only what this school is made for",
            "It ruts or breaks under wheels.",
            "Choose another school.",
            structural=True,
        )


def a_slab_to_pave_over(case: Case) -> Iterator[Finding]:
    if case.base.lies_on_what_is_there and not case.job.brief.sound_slab:
        yield _find(
            "S23",
            Severity.STOP,
            Words("paving over a slab, and no sound slab on the brief"),
            "a slab that is sound, does not rock and falls at least 1:80 to a way out",
            "What moves in the slab comes up through the paving.",
            "Say on the brief that a sound slab is there, or choose another school.",
        )


def geogrid_joints(case: Case) -> Iterator[Finding]:
    joints, soft = case.base.details.geogrid, case.bearing_ratio < SOFT
    limit = "butted on firm ground, lapped on soft, the maker’s data first"
    if joints is GridJoints.BUTTED and soft:
        yield _find(
            "S16", Severity.WARNING, Words("geogrid butted on soft ground"), limit, "It pulls apart.", "Lap it."
        )
    elif joints is GridJoints.LAPPED and not soft:
        yield _find(
            "S16",
            Severity.WARNING,
            Words("geogrid lapped on firm ground"),
            limit,
            "The openings close where two lie on each other, and stone no longer locks in.",
            "Butt it.",
        )


def dust_is_controlled(case: Case) -> Iterator[Finding]:
    if case.job.brief.cutting and case.job.brief.dust_control is DustControl.NONE:
        yield _find(
            "S17",
            Severity.STOP,
            Words("cutting planned and no dust control named"),
            "water, extraction or a mask, named",
            "Silica dust scars lungs for good.",
            "Name how the dust is kept down on the brief; local law says what is enough.",
        )


def bonded_sand_sets(case: Case) -> Iterator[Finding]:
    joint = case.base.details.joint
    if joint.fill != "bonded sand":
        return
    if _holds_water(case):
        yield _find(
            "S18",
            Severity.WARNING,
            Words("bonded sand over a base that holds water"),
            "a base that lets water away",
            "It never sets.",
            "Give the base a fall or a drain, or fill with dry sand.",
        )
    if joint.maker_range and not case.keeps(joint.width, *joint.maker_range):
        least, most = joint.maker_range
        yield _find(
            "S18",
            Severity.WARNING,
            Words("bonded sand in joints of {width}", {"width": joint.width}),
            Words("{least} to {most} by its maker", limits={"least": least, "most": most}),
            "It cracks or washes out.",
            "Change the joint, or the sand.",
        )


def _holds_water(case: Case) -> bool:
    """Whether water stays under the pavers: fines in the bed or the base, or a slab without the fall to shed it."""
    upper = [layer for layer in (case.bedding, *case.base.under_bedding[:1]) if layer]
    slab = any(layer.family is Family.CONCRETE for layer in upper)
    flat = any(facet.steepest[0] < LEAST_FALL - EDGE for facet in case.job.facets)
    return any(layer.family is Family.DUST for layer in upper) or (slab and flat)


def concrete_is_jointed(case: Case) -> Iterator[Finding]:
    if case.base.lies_on_what_is_there:
        return
    if not any(layer.role is Role.BOUND_BASE and layer.family in POURED for layer in case.base.layers):
        return
    apart = case.base.details.concrete_joints
    if apart is None:
        west, south, east, north = case.job.area.bounds
        apart = max(east - west, north - south)
    if apart > JOINTS_APART + EDGE:
        yield _find(
            "S19",
            Severity.WARNING,
            Words("concrete joints {apart} m apart", names={"apart": f"{apart:.3g}"}),
            "at most 4.5 m apart",
            "The slab cracks where it likes.",
            "Saw or form joints closer.",
            structural=True,
        )


def pavers_thick_enough(case: Case) -> Iterator[Finding]:
    paving = case.base.layers[0]
    if not case.traffic.wheels or paving.family is not Family.UNIT:
        return
    stone_on_slab = paving.material == "natural-stone" and case.base.layer(Role.BOUND_BASE)
    least = 0.050 if stone_on_slab else 0.060
    if not case.keeps(paving.thickness, least):
        yield _find(
            "S20",
            Severity.NOTE,
            Words("pavers {thick} under vehicles", {"thick": paving.thickness}),
            Words("{least}, or 50 mm of natural stone on a bound base", limits={"least": 0.060}),
            "Breakage.",
            "Choose thicker pavers, or a bound base under natural stone.",
        )


def meets_the_fixed_heights(case: Case) -> Iterator[Finding]:
    for height in case.job.heights:
        least, most = height.bounds()
        if least is None or most is None:
            continue
        finished = case.job.design.level(height.at)
        miss = finished - min(max(finished, least), most)
        if abs(miss) > EDGE_AGREEMENT + EDGE:
            side = "over" if miss > 0 else "under"
            yield _find(
                "S21",
                Severity.STOP,
                Words(
                    "finished level {miss} {side} {name}", {"miss": miss}, names={"side": side, "name": height.name}
                ),
                Words("within {within}", {"within": EDGE_AGREEMENT}),
                "A step, or a lip, where it was meant to meet.",
                "Plan the falls again, or correct the fixed height.",
            )


def water_leaves_as_designed(case: Case) -> Iterator[Finding]:
    if case.soaks:
        return
    water = designed_water(case.job)
    why = "What stands by design stands for good: no crew can lay it dry."
    if water is None:
        return
    if water.landlocked:
        yield _find(
            "S22",
            Severity.WARNING,
            Words("no drain or free edge is named: water has no way off"),
            "a way out for water",
            why,
            "Name the drain or the free edge on the brief.",
        )
        return
    deep = [puddle for puddle in water.puddles if puddle.depth > MOST_STANDING]
    if deep:
        stations = case.job.stations
        near = [min(stations, key=lambda s: math.dist(s.at, p.at)).name for p in deep]
        found = _find(
            "S22",
            Severity.STOP,
            Words("as designed water stands {depth} deep at {where}", {"depth": deep[0].depth},
                  names={"where": ", ".join(dict.fromkeys(near))}),
            Words("no water deeper than {limit}, all of it led to a way out", {"limit": MOST_STANDING}),
            why,
            "Plan the falls again towards the way out, or name the drain or free edge that is there.",
        )  # fmt: skip
        yield replace(found, stations=tuple(dict.fromkeys(near)))


RULES: tuple[Callable[[Case], Iterator[Finding]], ...] = (
    heavy_wants_an_engineer,
    clear_of_the_damp_proof_course,
    falls_away_from_buildings,
    falls_in_range,
    bedding_in_its_range,
    no_dust_as_bedding,
    no_sand_on_clean_stone,
    sand_in_tight_joints_under_wheels,
    open_base_beside_a_foundation,
    open_base_beside_a_dense_one,
    separated_from_the_soil,
    thick_enough,
    no_steel_in_pervious_concrete,
    a_way_out_for_the_water,
    not_for_these_wheels,
    a_slab_to_pave_over,
    geogrid_joints,
    dust_is_controlled,
    bonded_sand_sets,
    concrete_is_jointed,
    pavers_thick_enough,
    meets_the_fixed_heights,
    water_leaves_as_designed,
)
ON_THE_PAVING = frozenset(
    {
        bedding_in_its_range,
        no_dust_as_bedding,
        sand_in_tight_joints_under_wheels,
        dust_is_controlled,
        bonded_sand_sets,
        pavers_thick_enough,
    }
)
"""Rules on what somebody else answers for, where somebody else paves."""
