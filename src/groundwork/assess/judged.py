"""What a job comes to before any stage is asked about: every part is computed when asked for, and once."""

from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import cached_property, partial
from typing import Any, TypeVar

import numpy as np

from groundwork.base import Quantities, Surface, SurfaceKey, Tolerance, quantities
from groundwork.built import AsBuilt, Dug, Fix, Laid, NoFix, as_built, asked_of, dug, layers_laid, least_fix
from groundwork.entries import (
    Anchor,
    Correction,
    Disturbance,
    Entry,
    FallCheck,
    Fill,
    Foresight,
    MarginMeasured,
    MeterBase,
    PegDistance,
    PegMove,
    Reading,
    ServicesLocated,
    SetUp,
    Strike,
    StringLine,
    TapeDatum,
)
from groundwork.job import Job, Mark
from groundwork.levels import Closing, FromGround, Known, LineOfSight, Lost, MeterAt, Reference, Runs, StretchedString
from groundwork.lifts import Lift, Works
from groundwork.measures import Finding, Measured, Severity, Source, Words
from groundwork.memo import remembered
from groundwork.plan import Station, lay
from groundwork.schools import school
from groundwork.setout import Location, SetOut, location, margin_findings, service_findings, set_out_findings
from groundwork.soundness import Case, soundness
from groundwork.surfaces import NoSurface
from groundwork.survey import FallAnswer, StationAnswer, Survey, fall_answer, misread_finding, thin_findings
from groundwork.tools import Instrument
from groundwork.verdict import (
    OTHER_SET_UP,
    TYPED_TWICE,
    Filling,
    Foretold,
    Judgement,
    Outcomes,
    Shot,
    Sight,
    Suspicion,
    foretold,
    judge,
)

_Kind = TypeVar("_Kind")


class Judged:
    """What was measured and made on a job, judged."""

    def __init__(self, job: Job) -> None:
        self.job = job

    @cached_property
    def struck(self) -> frozenset[str]:
        return frozenset(entry.strikes for entry in self.job.entries if isinstance(entry, Strike))

    @cached_property
    def entries(self) -> dict[str, Entry]:
        """What counts, oldest first, by id: nothing struck out, everything as corrected."""
        standing = {e.id: e for e in self.job.entries if e.id not in self.struck}
        for entry in list(standing.values()):
            if isinstance(entry, Correction) and (wrong := standing.get(entry.corrects)):
                standing[wrong.id] = corrected(wrong, entry.reading)
        return standing

    def of_kind(self, kind: type[_Kind]) -> dict[str, _Kind]:
        """The entries of a kind that count, oldest first, by id."""
        return {key: e for key, e in self.entries.items() if isinstance(e, kind)}

    @cached_property
    def anchors(self) -> dict[str, Anchor]:
        """What readings may have been taken against, standing or not, oldest first, by id."""
        return {key: e for key, e in self.entries.items() if isinstance(e, Anchor)}

    @cached_property
    def set_ups(self) -> dict[str, SetUp]:
        """Set-ups of a level that count, oldest first, by id."""
        return self.of_kind(SetUp)

    @cached_property
    def marks(self) -> dict[str, Mark]:
        return {mark.name: mark for mark in self.job.marks}

    @cached_property
    def knocked(self) -> dict[str, str]:
        """Marks and turning points that were disturbed, each with the set-up from which on it no longer holds."""
        return {d.point: d.since for d in self.of_kind(Disturbance).values()}

    def _holds(self, point: str, entry_id: str) -> bool:
        if point not in self.knocked:
            return True
        since = self.knocked[point]
        return since in self._order and self._order[entry_id] < self._order[since]

    @cached_property
    def _order(self) -> dict[str, int]:
        """When each entry that counts was made among the others."""
        return {key: n for n, key in enumerate(self.entries)}

    @cached_property
    def runs(self) -> Runs:
        """How the set-ups hang together, adjusted."""
        marks = {m.name: Known(m.at, m.level) for m in self.job.marks}
        sights = self.of_kind(Foresight).values()
        return Runs(marks, self.set_ups.values(), sights, self._holds, self._farthest, self._order)

    @cached_property
    def references(self) -> dict[str, Reference]:
        """What readings can be taken against now, oldest first, by id; what no longer holds is not among them."""
        return {key: r for key, r in self._once_held.items() if key not in self.runs.lost}

    def against(self, reading: Reading) -> Reference | None:
        """What a recorded reading was taken against; None where that did not hold when it was taken."""
        if self.runs.why_lost(reading.set_up, reading.id):
            return None
        return self._once_held.get(reading.set_up)

    @cached_property
    def _once_held(self) -> dict[str, Reference]:
        """What holds, or held for some of its readings."""
        found: dict[str, Reference] = {}
        for key, entry in self.entries.items():
            if isinstance(entry, SetUp):
                if key in self.runs.heights:
                    found[key] = LineOfSight(entry, self.runs.heights[key], self._farthest)
            elif isinstance(entry, MeterBase):
                level = self.runs.level_of(entry.mark)
                if level is not None and self._holds(entry.mark, key):
                    found[key] = MeterAt(entry, level)
            elif isinstance(entry, StringLine):
                found[key] = StretchedString(entry)
            elif isinstance(entry, TapeDatum):
                found[key] = FromGround(entry, self.job.ground)
        return found

    def why_lost(self, anchor: str) -> Lost | None:
        """Why nothing read against it now would be known; None where it stands."""
        if anchor in self.references:
            return None
        return self.runs.lost.get(anchor, Lost.DISTURBED if anchor in self.entries else Lost.STRUCK)

    @property
    def present(self) -> Reference | None:
        """The newest of what readings can be taken against."""
        return next(reversed(self.references.values()), None)

    @property
    def set_up(self) -> SetUp | None:
        """The newest set-up of a level that stands."""
        return next((s for key, s in reversed(self.set_ups.items()) if key in self.references), None)

    def instrument_height(self, set_up: SetUp) -> float:
        """The adjusted height of its line of sight. Raises `KeyError` where it no longer stands."""
        return self.runs.heights[set_up.id].level

    @cached_property
    def stations(self) -> tuple[Station, ...]:
        return lay(self.job.area, self.job.station_spacing)

    @property
    def tolerance(self) -> Tolerance:
        return self.job.specification.formation_tolerance.in_trade(self.job.unit)

    @cached_property
    def _finished(self) -> list[float]:
        levels = self.job.design.level_at(*np.array([station.at for station in self.stations]).T)
        return [float(level) for level in levels]

    @cached_property
    def surfaces(self) -> tuple[Surface, ...]:
        """The surfaces this crew levels, the lowest first: the formation, or the slab that is there; up to the base's
        top where somebody else paves."""
        of, left_out = self.job.specification, set[SurfaceKey]()
        if of.lies_on_what_is_there:
            left_out.add(SurfaceKey.FORMATION)
        if self.job.brief.by_others:
            left_out |= {SurfaceKey.SCREED, SurfaceKey.BEDDING, SurfaceKey.FINISHED}
        return tuple(surface for surface in of.levelled if surface.kind not in left_out)

    @remembered
    def survey(self, surface: str = SurfaceKey.FORMATION) -> Survey:
        """A surface as shot. Raises `KeyError` where this base has no such surface."""
        of = self.job.specification.surface(surface)
        tolerance = self.job.specification.tolerance(of).in_trade(self.job.unit)
        history = partial(self._history, surface=surface)
        return Survey(of, tolerance, self.stations, self._finished, history, self.job.design.level)

    @property
    def ground(self) -> dict[str, StationAnswer]:
        """The formation at every station, in walking order."""
        return self.survey().answers

    def target(
        self, station: str, surface: str = SurfaceKey.FORMATION, reference: Reference | None = None
    ) -> float | None:
        """What should be read at a station, against the present reference or another."""
        survey = self.survey(surface)
        return survey.target(survey.answers[station].station, reference or self.present)

    def foretold(
        self,
        station: str,
        surface: str,
        reference: Reference,
        same_ground: bool = False,
        before: tuple[float, ...] = (),
    ) -> Foretold | None:
        """What the next reading at a station against `reference` will come to, whatever it is; `before` was read
        there just now, on ground that was untouched then, and is not recorded yet."""
        key = station, surface, reference.id, same_ground, before
        if key not in self._foretold:
            judged = self.judging(station, surface, reference, same_ground, before)
            survey = self.survey(surface)
            fresh = not self._history(survey.answers[station].station, surface)
            known = self._outcomes.setdefault((surface, len(before)), {}) if fresh else None
            self._foretold[key] = foretold(judged, survey.tolerance, known)
        return self._foretold[key]

    @cached_property
    def _outcomes(self) -> dict[tuple[str, int], dict[float, Outcomes]]:
        """What readings of untouched places come to, by surface, how many there were before, and guard."""
        return {}

    def about_to_stand(self, mark: str, instrument: Instrument) -> LineOfSight | None:
        """The line of sight of a level about to look back on `mark`, as though the rod there read nothing: it is
        higher by what it does read. None where the level of the mark is not known."""
        set_up = SetUp(f"{instrument.method} {instrument.name} on {mark}", mark, Measured("0", 0.0), instrument)
        marks = {m.name: Known(m.at, m.level) for m in self.job.marks}
        sights = self.of_kind(Foresight).values()
        set_ups = (*self.set_ups.values(), set_up)
        runs = Runs(marks, set_ups, sights, self._holds_yet, self._farthest, self._order)
        height = runs.heights.get(set_up.id)
        return None if height is None else LineOfSight(set_up, height, self._farthest)

    def _holds_yet(self, point: str, entry_id: str) -> bool:
        """As `_holds`; for what is not recorded yet, whether the point was never knocked."""
        return self._holds(point, entry_id) if entry_id in self.entries else point not in self.knocked

    @cached_property
    def _foretold(self) -> dict[tuple[str, str, str, bool, tuple[float, ...]], Foretold | None]:
        return {}

    def judging(
        self,
        station: str,
        surface: str,
        reference: Reference,
        same_ground: bool = False,
        before: tuple[float, ...] = (),
    ) -> Callable[[float], Judgement | None]:
        """The judgement of a station as a function of what is read there next, metres; None where nothing can be."""
        survey = self.survey(surface)
        answer = survey.answers[station]
        history = self._history(answer.station, surface)
        for reading in before:
            history.append(Shot(self._sights(reference, reading, answer.station)))

        def judged(reading: float) -> Judgement | None:
            sights = self._sights(reference, reading, answer.station)
            last = history[-1] if history else None
            if not sights:
                return None
            if same_ground and isinstance(last, Shot):
                after = [*history[:-1], Shot(last.sights + sights)]
            else:
                after = [*history, Shot(sights)]
            return judge(after, answer.design, survey.tolerance, survey.surface.kind)

        return judged

    def entries_at(self, station: str, surface: str = SurfaceKey.FORMATION) -> list[Reading | Fill]:
        """What was recorded at a station on a surface and counts, oldest first."""
        return self._events.get((surface, station), [])

    def next_station(self, after: str) -> str:
        """The next station of the formation in walking order that still wants shooting, else simply the next."""
        return self.survey().next_station(after)

    def shot_count(self) -> int:
        return self.survey().shot_count

    def misreads(self, entry: Reading) -> Suspicion | None:
        """Whether a reading about to be recorded looks misread: by what lies around it, and by what the same figures
        would mean against another level or where the reading before was typed again."""
        reference, survey = self.references.get(entry.set_up), self.survey(entry.surface)
        if reference is None:
            return None
        station = survey.answers[entry.station].station
        others = []
        here = survey.target(station, reference)
        for key, other in self.references.items():
            there = survey.target(station, other) if isinstance(other, LineOfSight) and key != entry.set_up else None
            if there is not None and here is not None and isinstance(reference, LineOfSight):
                others.append((OTHER_SET_UP, entry.reading.metres + here - there))
        before = next((e for e in reversed(self.job.entries) if isinstance(e, Reading)), None)
        if (
            before
            and before.reading.raw == entry.reading.raw
            and before.station != entry.station
            and here is not None
        ):
            others.append((TYPED_TWICE, here))
        return survey.misreads(
            entry.station, entry.reading, reference, self.job.unit, same_ground=entry.same_ground, others=others
        )

    def suspected(self, surface: str = SurfaceKey.FORMATION) -> list[tuple[str, Suspicion]]:
        """Stations of a surface whose newest reading looks misread and nobody has vouched for."""
        survey = self.survey(surface)
        newest = {}
        for name in survey.answers:
            events = self.entries_at(name, surface)
            if events and isinstance(events[-1], Reading):
                newest[name] = events[-1]
        return list(survey.looks_misread(newest, self.against, self.job.unit))

    @cached_property
    def falls(self) -> dict[str, FallAnswer]:
        """Falls checked by straightedge, oldest first, by id."""
        places = {station.name: station.at for station in self.stations}
        return {key: fall_answer(check, places, self.job.design) for key, check in self.of_kind(FallCheck).items()}

    @remembered
    def built(self, surface: str = SurfaceKey.FORMATION) -> AsBuilt | NoSurface:
        """A surface as built, or why nothing can be said of it. Raises `KeyError` where this base has none such."""
        try:
            return as_built(self.job, self.survey(surface))
        except NoSurface as reason:
            return reason

    @remembered
    def designed(self, surface: str) -> AsBuilt | NoSurface:
        """A surface as designed."""
        try:
            return AsBuilt(self.job, self.job.specification.surface(surface), self.stations)
        except NoSurface as reason:
            return reason

    @remembered
    def fix(self, surface: str) -> Fix | NoFix | None:
        """The least work that puts a surface right, or why there is none; None where nothing is known of it."""
        built = self.built(surface)
        if isinstance(built, NoSurface):
            return None
        return least_fix(built, asked_of(built, self.survey(surface).tolerance), self.job.unit)

    @cached_property
    def laid(self) -> tuple[Laid, ...]:
        """What was laid, layer by layer from the formation up, where surfaces were shot."""
        return layers_laid(self.job, [self.survey(surface.key) for surface in self.surfaces])

    @cached_property
    def dug(self) -> Dug | None:
        """What was dug from the existing ground, where it is known."""
        formation = self.built()
        return None if isinstance(formation, NoSurface) else dug(self.job, formation)

    def surface_findings(self, surface: str) -> tuple[Finding, ...]:
        """Everything found on a surface as shot."""
        found = [*self.survey(surface).findings, *misread_finding(self.suspected(surface))]
        if not isinstance(built := self.built(surface), NoSurface):
            found += built.findings
        found += self._run_findings(surface)
        found += [a.finding for a in self.falls.values() if a.check.surface == surface and a.finding]
        if surface == SurfaceKey.BASE:
            found += thin_findings(self.survey(surface), self.survey())
        return tuple(found)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What is found on the formation as shot."""
        return self.surface_findings(SurfaceKey.FORMATION)

    def _run_findings(self, surface: str) -> Iterator[Finding]:
        """Runs of the level that do not close or were never closed, of those the newest readings on this surface hang
        on."""
        runs = self.runs
        newest = {name: events[-1] for (of, name), events in self._events.items() if of == surface}
        used = {name: e for name, e in newest.items() if isinstance(e, Reading)}
        doubts: dict[Closing, list[str]] = defaultdict(list)
        for name, reading in used.items():
            if doubt := runs.doubt(reading.set_up, reading.id):
                doubts[doubt].append(name)
        for closing, names in doubts.items():
            yield Finding(
                "R01",
                Severity.STOP,
                Words("the run to {mark} misses by {miss}", {"miss": abs(closing.misclosure)},
                      names={"mark": closing.sight.point}),
                Words("at most {allowed} over {n} set-ups", {"allowed": closing.allowed},
                      {"n": len(closing.chain)}),
                "A sight vouches for what was read before it: of what came after, one reading is wrong, or something "
                "moved, and no level is known.",
                "Sight the mark again; correct what was misread, or set up anew and shoot these stations again.",
                Source.MEMORY,
                tuple(names),
            )  # fmt: skip
        for closing in runs.cured:
            rest = [name for name, r in used.items() if r.set_up == closing.sight.set_up]
            if rest:
                yield Finding(
                    "R03",
                    Severity.WARNING,
                    Words("a sight on {mark} missed by {miss} and a later one closed: taken as misread",
                          {"miss": abs(closing.misclosure)}, names={"mark": closing.sight.point}),
                    Words("at most {allowed} over {n} set-ups", {"allowed": closing.allowed},
                          {"n": len(closing.chain)}),
                    "If it was not misread, the level had moved and was moved back.",
                    "Correct the sight if its figures are known; if anyone touched the tripod, shoot these again.",
                    Source.PRACTICE,
                    tuple(rest),
                )  # fmt: skip
        if open_runs := runs.open_runs((r.set_up, r.id) for r in self.readings_on(surface)):
            yield Finding(
                "R02",
                Severity.WARNING,
                Words("{n} runs of the level not closed", counts={"n": len(open_runs)}),
                Words("a last sight on a mark of known level"),
                "A knocked tripod or a misread backsight shows only at the close.",
                "Before packing up, sight a mark once more.",
                Source.PRACTICE,
            )

    @cached_property
    def set_out(self) -> SetOut:
        """The pegs by what was taped between them since each was last moved, the newest length of each pair."""
        newest: dict[frozenset[str], PegDistance] = {}
        for entry in self.entries.values():
            if isinstance(entry, PegDistance):
                newest[frozenset((entry.start, entry.end))] = entry
            elif isinstance(entry, PegMove):
                newest = {pair: taped for pair, taped in newest.items() if entry.peg not in pair}
        return SetOut(self.job.outline, list(newest.values()))

    @cached_property
    def location(self) -> Location | None:
        """The services as last located."""
        return location(list(self.of_kind(ServicesLocated).values()), self.job.today)

    @cached_property
    def margins(self) -> dict[int, MarginMeasured]:
        """The newest margin measured on each side."""
        return {m.side: m for m in self.of_kind(MarginMeasured).values()}

    @cached_property
    def set_out_findings(self) -> tuple[Finding, ...]:
        """What holds the set-out: services, pegs."""
        return (*service_findings(self.location), *set_out_findings(self.set_out))

    @cached_property
    def margin_findings(self) -> tuple[Finding, ...]:
        specification = self.job.specification
        usual = school(specification.school).margin_for(self.job.brief.traffic, specification.unbound)
        return tuple(
            margin_findings(
                self.margins,
                len(self.job.outline),
                specification.details.margin,
                usual,
                self.job.unit,
                self.job.walls,
            )
        )

    @cached_property
    def soundness(self) -> tuple[Finding, ...]:
        """The S rules on the base specification."""
        return soundness(self.job)

    @cached_property
    def case(self) -> Case:
        """The specification with what its rules go by: school, ground, outlet."""
        return Case(self.job)

    @cached_property
    def works(self) -> Works:
        """Lifts, the ground under them, pours and deliveries."""
        return Works(self.job, self.case, self.entries.values(), self.survey)

    def spread_target(self, station: str, lift: Lift, reference: Reference | None = None) -> float | None:
        """What should be read on top of a lift at a station while it lies loose."""
        survey, reference = self.survey(lift.key), reference or self.present
        if lift.plan is None or reference is None:
            return None
        spot = reference.spot(survey.answers[station].station.at)
        raised = lift.plan.loose - lift.plan.compacted
        return reference.target(spot, survey.level(spot) + raised) if spot else None

    @cached_property
    def quantities(self) -> Quantities:
        return quantities(self.job.area, self.job.specification, self.job.footprint)

    @cached_property
    def _events(self) -> dict[tuple[str, str], list[Reading | Fill]]:
        """Readings and fills by surface and station."""
        found: dict[tuple[str, str], list[Reading | Fill]] = defaultdict(list)
        for entry in self.entries.values():
            if isinstance(entry, Reading):
                found[str(entry.surface), entry.station].append(entry)
            elif isinstance(entry, Fill):
                found[str(SurfaceKey.FORMATION), entry.station].append(entry)
        return found

    def readings_on(self, surface: str) -> Iterator[Reading]:
        """The readings on a surface that count."""
        for (of, _station), events in self._events.items():
            if of == surface:
                yield from (e for e in events if isinstance(e, Reading))

    @cached_property
    def _farthest(self) -> float:
        """From end to end of the site, its marks included: taken where it is not known how far a sight was."""
        places = np.array([*self.job.outline, *(mark.at for mark in self.job.marks)])
        return float(np.hypot(*np.ptp(places, axis=0)))

    def _history(self, station: Station, surface: str) -> list[Shot | Filling]:
        """What happened at a station: readings on unchanged ground stand together in one shot."""
        history: list[Shot | Filling] = []
        for event in self.entries_at(station.name, surface):
            if isinstance(event, Fill):
                history.append(Filling(event.is_stone, event.lifts))
                continue
            sights = self._sights(self.against(event), event.reading.metres, station)
            last = history[-1] if history else None
            if event.same_ground and isinstance(last, Shot):
                history[-1] = Shot(last.sights + sights)
            else:
                history.append(Shot(sights))
        return history

    def _sights(self, reference: Reference | None, reading: float, station: Station) -> tuple[Sight, ...]:
        """The level a reading comes to, moved from where it was taken to the station along the design."""
        spot = reference.spot(station.at) if reference else None
        found = reference.sight(spot, reading) if reference and spot else None
        if found is None or spot is None:
            return ()
        if spot == station.at:
            return (found,)
        moved = self.job.design.level(station.at) - self.job.design.level(spot)
        return (replace(found, level=found.level + moved),)


def corrected(entry: Entry, reading: Measured) -> Entry:
    """`entry` with what should have been read. Raises `ValueError` for one that reads nothing."""
    changed: Any = entry
    for name in ("backsight", "reading", "shows", "gap", "length", "width"):
        if hasattr(entry, name):
            return replace(changed, **{name: reading})  # type: ignore[no-any-return]
    raise ValueError(f"a {entry.KIND} has no reading to correct")
