"""What a job takes, stage by stage. Nothing is typed: it follows from the design, the layout, the edges and what was
shot, and changes with them."""

from collections.abc import Iterator, Sequence

from groundwork.base import POURED, SWELL, Course, Family, Layer, Role, catalogue, quantities
from groundwork.bedding import Bedding
from groundwork.built import AsBuilt, Surfaces, laid_between
from groundwork.curing import mix
from groundwork.edges import EdgeRun, Edges
from groundwork.edgework import EdgeKind
from groundwork.job import Job
from groundwork.jointing import Jointing
from groundwork.layerwork import CureKind, Delivered
from groundwork.laying import Laying
from groundwork.layouts import pattern_options, usual_unit
from groundwork.lifts import Works
from groundwork.logbook import Logbook
from groundwork.measures import Words
from groundwork.orders.needs import Need, Reckoned
from groundwork.orders.supply import Supply, supplies
from groundwork.orderwork import Measure, OrderCome, OrderMade, OrderMoved
from groundwork.schools import School
from groundwork.survey import Surveys
from groundwork.workings import JobPart, Workings, carried

WASTE = {Family.SAND: 0.10, Family.UNIT: 0.05}
LOOSE, DIAGONAL, FABRIC, FILLED = 0.05, 0.10, 0.10, 0.10
"""What is lost on the way, as a share (common practice, no published source): of loose stone and of concrete 5 %, of
sand and of what fills joints 10 %, of units 5 % in courses and 10 % where they meet the edge askew, of fabric
10 %."""
MORTAR_PARTS = 4
"""One part of cement to so many of sand, by volume, in a bed of mortar or dry-pack (common practice)."""
NOTICED = 1e-3
"""A change by less than this share of what was designed is none."""
SHOWN = 0.0005
"""Metres: a surface that is off by less would be said to be off by nothing."""
ASKEW = "herringbone"
BY_THE_PAVER = frozenset({"bedding", "laying", "late-edges", "joints"})
EARLY = "early-edges"
WATER, WATER_TO_CEMENT, DRY_BY = 1000.0, 0.5, 0.5
"""kg/m³; kg of water to one of cement; how far under its best moisture stone comes, as a share of that (common
practice, no published source)."""


class Orders(JobPart):
    """What the job takes."""

    PART = "orders"

    def __init__(
        self, workings: Workings, site: Job, school: School, logbook: Logbook, surveys: Surveys, surfaces: Surfaces,
        works: Works, bedding: Bedding, edges: Edges, laying: Laying, jointing: Jointing,
    ) -> None:  # fmt: skip
        super().__init__(workings)
        self._logbook = logbook
        self._site, self._school, self._surveys, self._surfaces = site, school, surveys, surfaces
        self._works, self._bedding, self._edges = works, bedding, edges
        self._laying, self._jointing = laying, jointing

    @property
    @carried
    def needs(self) -> tuple[Need, ...]:
        """Everything, in the order of the stages that want it: one need for each thing at a stage."""
        stages = [key for row in self._school.order for key in row]
        if EARLY not in stages:
            stages.insert(stages.index("laying"), EARLY)
        others = BY_THE_PAVER if self._site.brief.by_others else frozenset[str]()
        dry = [need for need in self._all() if need.stage not in others and (need.now > 0 or need.designed > 0)]
        found = [*dry, *self._water(dry)]
        return tuple(sorted(found, key=lambda need: stages.index(need.stage) if need.stage in stages else -1))

    @property
    @carried
    def supplies(self) -> tuple[Supply, ...]:
        """Thing by thing: what is needed, ordered, there, to order still."""
        book = self._logbook
        return supplies(
            self.needs, book.of_kind(OrderMade).values(), book.of_kind(OrderMoved).values(),
            book.of_kind(OrderCome).values(), book.of_kind(Delivered).values(),
        )  # fmt: skip

    def _all(self) -> Iterator[Need]:
        yield from self._dug()
        yield from self._soft_spots()
        yield from self._fabric()
        for layer in self._site.specification.layers:
            if layer.made_of.is_there:
                continue
            if layer.role is Role.PAVING:
                yield from self._paving(layer)
            elif layer.role is Role.BEDDING:
                yield from self._bed(layer)
            else:
                yield self._layer(layer)
        yield from self._along_the_edges()
        yield from self._joints()

    @property
    def _wide(self) -> float:
        """What the dig and the base cover, with their margin, m²."""
        return float(self._site.footprint.area)

    def _deeper(self, key: str) -> tuple[float, float] | None:
        """How far a surface lies under its design on the whole, metres, and over how much of it that is known, m²."""
        built = self._surfaces.built(key)
        if not isinstance(built, AsBuilt):
            return None
        area = float(built.mesh.areas.sum())
        return -built.mesh.volume(built.mesh.at_vertices(built.at_stations)) / area, area

    def _share_known(self, area: float) -> float:
        """What is known of an area stands for its margin too."""
        return area * self._wide / float(self._site.area.area)

    def _dug(self) -> Iterator[Need]:
        dug = quantities(self._site.area, self._site.specification, self._site.footprint).excavation
        says = Words("{volume} dug, a quarter more once it is loose", volumes={"volume": dug})
        depth = self._site.specification.dig
        over = self._site.ground.excavation(self._site.facets, depth) if depth > 0 else None
        if over is not None:
            dug = self._share_known(over)
            says = Words(
                "{volume} dug from the ground as it lies, a quarter more once it is loose", volumes={"volume": dug}
            )
        changes = []
        if known := self._deeper("formation"):
            deeper, area = known
            changes = self._by(deeper * self._share_known(area) * SWELL, dug * SWELL, deeper, area, "the dig lies")
        yield Need("excavation", "spoil", Measure.LOOSE, (Reckoned(says, dug * SWELL),), 0.0, tuple(changes))

    @staticmethod
    def _by(amount: float, designed: float, lower: float, area: float, what: str) -> list[Reckoned]:
        """The change that a surface makes which lies deeper or higher than designed; none that nobody would see."""
        if abs(amount) < NOTICED * max(designed, 1e-9) or abs(lower) < SHOWN:
            return []
        says = Words(
            "{what} {off} too " + ("deep" if lower > 0 else "high") + ", on the whole, over {area}",
            lengths={"off": abs(lower)}, areas={"area": area}, names={"what": what},
        )  # fmt: skip
        return [Reckoned(says, amount)]

    def _soft_spots(self) -> Iterator[Need]:
        found = [
            Reckoned(Words("soft spot {name} dug out", names={"name": state.spot.name}), state.stone)
            for state in self._works.subgrade.spots
            if state.cure is None or state.cure.how in (CureKind.STONE, CureKind.FABRIC_AND_STONE)
        ]
        yield Need("subgrade", "graded-sub-base", Measure.MASS, (), LOOSE, tuple(found))

    def _fabric(self) -> Iterator[Need]:
        if (plan := self._works.subgrade.fabric) is None:
            return
        says = Words(
            "{n} strips with their overlaps, up the sides too, {long} in all", counts={"n": plan.strips},
            distances={"long": plan.metres}, one="one strip, up the sides too, {long} in all",
        )  # fmt: skip
        yield Need("separation", "fabric", Measure.LENGTH, (Reckoned(says, plan.metres),), FABRIC)

    def _layer(self, layer: Layer) -> Need:
        made_of, poured = layer.made_of, layer.family in POURED
        thick = self._site.specification.compacted(layer) + made_of.overfill
        in_measure = 1.0 if poured else made_of.density
        says = Words(
            "{area} covered, {thick} thick once it is made", areas={"area": self._wide}, lengths={"thick": thick}
        )
        stage = "bound-base" if layer.role is Role.BOUND_BASE else "base-lifts"
        measure = Measure.VOLUME if poured else Measure.MASS
        if layer.family is Family.PANEL:
            stage, measure, in_measure, thick = "laying", Measure.AREA, 1.0, 1.0
            says = Words("{area} covered", areas={"area": self._wide})
        designed = self._wide * thick * in_measure
        changes = [] if measure is Measure.AREA else self._as_laid(layer, in_measure, designed)
        return Need(stage, layer.material, measure, (Reckoned(says, designed),), LOOSE, tuple(changes))

    def _as_laid(self, layer: Layer, in_measure: float, designed: float) -> list[Reckoned]:
        """What levels have changed: the layer itself where its top was shot, else what it lies on."""
        courses: list[Course] = [c for c in self._site.specification.courses if c.layer == layer]
        if not courses:
            return []
        under, top = courses[0].under, courses[-1].surface
        if laid := laid_between(self._site, self._surveys.of(under.key), self._surveys.of(top.key)):
            more = laid.mean - laid.specified
            amount = more * self._share_known(laid.area) * in_measure
            if abs(amount) < NOTICED * designed or abs(more) < SHOWN:
                return []
            says = Words(
                "laid {off} " + ("thicker" if more > 0 else "thinner") + ", on the whole, over {area}",
                lengths={"off": abs(more)}, areas={"area": laid.area},
            )  # fmt: skip
            return [Reckoned(says, amount)]
        if known := self._deeper(under.key):
            lower, area = known
            return self._by(
                lower * self._share_known(area) * in_measure, designed, lower, area, "what it lies on is"
            )  # fmt: skip
        return []

    def _bed(self, layer: Layer) -> Iterator[Need]:
        area, specification = float(self._site.area.area), self._site.specification
        thick = specification.compacted(layer)
        says = Words("{area} covered, {thick} thick once seated", areas={"area": area}, lengths={"thick": thick})
        volume, changes = area * thick, list[tuple[Words, float]]()
        if bed := self._bedding.bed:
            more = bed.mean - layer.thickness
            if abs(more) >= SHOWN:
                says_more = Words(
                    "over the base as it was shot {off} " + ("thicker" if more > 0 else "thinner") + ", on the whole",
                    lengths={"off": abs(more)},
                )  # fmt: skip
                changes.append((says_more, more * area * thick / layer.thickness))
        if layer.family is not Family.MORTAR:
            density = layer.made_of.density
            yield Need(
                "bedding", layer.material, Measure.MASS, (Reckoned(says, volume * density),),
                WASTE.get(layer.family, LOOSE), tuple(Reckoned(words, cubic * density) for words, cubic in changes),
            )  # fmt: skip
            return
        kind = "mortar" if layer.material == "mortar" else "semi-dry"
        whole = mix(volume, MORTAR_PARTS, kind=kind)
        made = [(words, mix(cubic, MORTAR_PARTS, kind=kind)) for words, cubic in changes]
        yield Need(
            "bedding", "cement", Measure.MASS, (Reckoned(says, whole.cement),), LOOSE,
            tuple(Reckoned(words, each.cement) for words, each in made),
        )  # fmt: skip
        yield Need(
            "bedding", "sharp-sand", Measure.MASS, (Reckoned(says, whole.aggregate),), LOOSE,
            tuple(Reckoned(words, each.aggregate) for words, each in made),
        )  # fmt: skip

    def _paving(self, layer: Layer) -> Iterator[Need]:
        area = float(self._site.area.area)
        if layer.family is Family.CELLS:
            says = Words("{area} covered", areas={"area": area})
            yield Need("laying", layer.material, Measure.AREA, (Reckoned(says, area),), LOOSE)
            return
        if sizes := self._laying.taken_off:
            for taken in sizes:
                long, wide = (round(side * 1000) for side in taken.size)
                says = Words("laid whole and cut, by the layout: {n}", counts={"n": taken.laid})
                spares = taken.ordered - taken.laid
                spare = Words("kept for what breaks later: {n}", counts={"n": spares})
                name = layer.material if len(sizes) == 1 else f"{layer.material} {long} x {wide}"
                yield Need("laying", name, Measure.PIECES, (Reckoned(says, taken.laid), Reckoned(spare, spares)))
            return
        unit = usual_unit(self._site)
        options = pattern_options(self._site, unit)
        each = (unit.length + unit.joint) * (unit.width + unit.joint)
        askew = bool(options) and options[0].pattern.key.startswith(ASKEW)
        says = Words(
            "{area} in units of {long} by {wide} with their joints", areas={"area": area},
            lengths={"long": unit.length, "wide": unit.width},
        )  # fmt: skip
        waste = DIAGONAL if askew else WASTE[Family.UNIT]
        yield Need("laying", layer.material, Measure.PIECES, (Reckoned(says, area / each),), waste)

    def _water(self, needs: Sequence[Need]) -> Iterator[Need]:
        """What compacts stone, and what is mixed into mortar and concrete, stage by stage."""
        lines: dict[str, list[Reckoned]] = {}
        for need in needs:
            known = catalogue().get(need.what)
            if need.what == "cement":
                says = Words("into mortar and concrete, half the weight of the cement")
                lines.setdefault(need.stage, []).append(Reckoned(says, need.now * WATER_TO_CEMENT / WATER))
            elif need.stage == "base-lifts" and known and known.optimum:
                says = Words("to compact {what}, come at half of the moisture it compacts best at",
                             names={"what": known.title})  # fmt: skip
                lines.setdefault(need.stage, []).append(Reckoned(says, need.now * known.optimum * DRY_BY / WATER))
        for stage, found in lines.items():
            yield Need(stage, "water", Measure.WATER, tuple(found))

    def edge_stage(self, run: EdgeRun) -> str:
        """At which stage a run is set: what stands in concrete before the base where the school has that."""
        early = EARLY in {key for row in self._school.order for key in row} or bool(
            self._site.specification.details.early_edge
        )
        return (
            EARLY if early and (run.plan.what.is_set_in_concrete or run.plan.what is EdgeKind.FORM) else "late-edges"
        )

    def _along_the_edges(self) -> Iterator[Need]:
        """One need for each thing at a stage, side by side."""
        lines: dict[tuple[str, str, Measure], list[Reckoned]] = {}
        for side, run in self._edges.foreseen_runs.items():
            stage = self.edge_stage(run)
            says = Words(
                "along side {side}, {long}" if side in self._edges.runs else "along side {side}, {long}, as proposed",
                distances={"long": run.long}, names={"side": str(side + 1)},
            )  # fmt: skip
            for what, measure, amount in self._of_a_run(side, run):
                lines.setdefault((stage, what, measure), []).append(Reckoned(says, amount))
        for (stage, what, measure), found in lines.items():
            yield Need(stage, what, measure, tuple(found), LOOSE if measure is Measure.MASS else 0.0)

    def _of_a_run(self, side: int, run: EdgeRun) -> Iterator[tuple[str, Measure, float]]:
        if run.plan.what is EdgeKind.WALL:
            return
        takes = self._edges.takes(side)
        if run.plan.what is not EdgeKind.CONCRETE:
            yield str(run.plan.what), Measure.PIECES, len(run.pieces)
        if takes.mix:
            yield "cement", Measure.MASS, takes.mix.cement
            yield "all-in ballast", Measure.MASS, takes.mix.aggregate
        if takes.spikes:
            yield "spike", Measure.PIECES, takes.spikes
        if takes.pickets:
            yield "picket", Measure.PIECES, takes.pickets

    def _joints(self) -> Iterator[Need]:
        if not self._jointing.is_there or not self._jointing.reckoned:
            return
        amount = self._jointing.amount
        says = Words(
            "{share} of the area, {deep} deep", lengths={"deep": amount.deep}, names={"share": f"{amount.share:.1%}"}
        )
        lines = (Reckoned(says, self._jointing.reckoned),)
        yield Need("joints", self._jointing.fill.key, Measure.MASS, lines, FILLED)
