"""Every surface of a job as shot, what looks misread, and what of the level's runs holds it."""

from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from operator import is_

from groundwork.base import Surface, SurfaceKey, Tolerance
from groundwork.entries import FallCheck, Reading
from groundwork.job import Job
from groundwork.levels import Closing, Levels, LineOfSight, Stand
from groundwork.logbook import Logbook
from groundwork.measures import Finding, Severity, Source, Words
from groundwork.survey.fallcheck import FallAnswer, fall_answer
from groundwork.survey.readings import Booked, Event, Readings
from groundwork.survey.shots import StationAnswer
from groundwork.survey.survey import Survey, misread_finding, thin_findings
from groundwork.verdict import OTHER_SET_UP, TYPED_TWICE, Account, Aim, Suspicion
from groundwork.workings import JobPart, Workings, carried


@dataclass(frozen=True, eq=False)
class Told:
    """What happened at the stations of a surface, by name: `accounts` of the events `booked` against what stood."""

    accounts: dict[str, Account]
    booked: Booked
    stands: dict[str, Stand]


class Surveys(JobPart):
    """The surfaces a crew levels, each as shot. `readings` against what `levels` stand."""

    PART = "surveys"

    def __init__(self, workings: Workings, site: Job, logbook: Logbook, levels: Levels, readings: Readings) -> None:
        super().__init__(workings)
        self._site, self._logbook = site, logbook
        self._levels, self._readings = levels, readings

    @property
    @carried
    def levelled(self) -> tuple[Surface, ...]:
        """The surfaces this crew levels, the lowest first: the formation, or the slab that is there; up to the base's
        top where somebody else paves."""
        of, left_out = self._site.specification, set[SurfaceKey]()
        if of.lies_on_what_is_there:
            left_out.add(SurfaceKey.FORMATION)
        if self._site.brief.by_others:
            left_out |= {SurfaceKey.SCREED, SurfaceKey.BEDDING, SurfaceKey.FINISHED}
        return tuple(surface for surface in of.levelled if surface.kind not in left_out)

    @carried
    def of(self, surface: str) -> Survey:
        """A surface as shot. Raises `KeyError` where this base has no such surface."""
        of, told = self._site.specification.surface(surface), self._told(surface)
        before: Survey | None = self.former("of", surface)
        return Survey(of, self._tolerance(of), self._site, told.accounts, before)

    def _tolerance(self, of: Surface) -> Tolerance:
        return self._site.specification.tolerance(of).in_trade(self._site.unit)

    @carried
    def _told(self, surface: str) -> Told:
        """What happened on a surface. Of a station whose events and what they were read against are as they were a
        step ago, the account is the same; where only more was recorded, it goes on."""
        of, site = self._site.specification.surface(surface), self._site
        booked, stands, tolerance = self._readings.on(surface), self._levels.stands, self._tolerance(of)
        before: Told = self.former("_told", surface) or Told({}, {}, {})
        every = stands.keys() | before.stands.keys()
        moved = {key for key in every if stands.get(key) is not before.stands.get(key)}
        accounts = {}
        for station, finished in zip(site.stations, site.finished, strict=True):
            events, known = booked.get(station.name, ()), before.booked.get(station.name, ())
            account = before.accounts.get(station.name)
            if account is None or not _goes_on(known, events) or (moved and any(_against(e) in moved for e in known)):
                account, known = Account(Aim(finished - of.depth, tolerance, of.kind)), ()
            if events is not known:
                account = self._readings.account(account, events[len(known) :], station)
            accounts[station.name] = account
        return Told(accounts, booked, stands)

    @carried
    def account(self, station: str, surface: str) -> Account:
        """What happened at a station of a surface."""
        return self._told(surface).accounts[station]

    @carried
    def left(self, surface: str) -> int:
        """How many stations of a surface are not shot."""
        return self.of(surface).left

    @property
    def formation(self) -> Survey:
        return self.of(SurfaceKey.FORMATION)

    @property
    def ground(self) -> dict[str, StationAnswer]:
        """The formation at every station, in walking order."""
        return self.formation.answers

    @property
    @carried
    def falls(self) -> dict[str, FallAnswer]:
        """Falls checked by straightedge, oldest first, by id; what was checked between stations that a new design has
        no more says nothing."""
        places = {station.name: station.at for station in self._site.stations}
        checks = self._logbook.of_kind(FallCheck)
        return {
            key: fall_answer(check, places, self._site.design)
            for key, check in checks.items()
            if {check.start, check.end} <= places.keys()
        }

    def misreads(self, entry: Reading) -> Suspicion | None:
        """Whether a reading about to be recorded looks misread: by what lies around it, and by what the same figures
        would mean against another level or where the reading before was typed again."""
        reference, survey = self._levels.references.get(entry.set_up), self.of(entry.surface)
        if reference is None:
            return None
        station = survey.answers[entry.station].station
        others = []
        here = survey.target(station, reference)
        for key, other in self._levels.references.items():
            there = survey.target(station, other) if isinstance(other, LineOfSight) and key != entry.set_up else None
            if there is not None and here is not None and isinstance(reference, LineOfSight):
                others.append((OTHER_SET_UP, entry.reading.metres + here - there))
        before = next((e for e in reversed(self._logbook.written) if isinstance(e, Reading)), None)
        if (
            before
            and before.reading.raw == entry.reading.raw
            and before.station != entry.station
            and here is not None
        ):
            others.append((TYPED_TWICE, here))
        return survey.misreads(
            entry.station, entry.reading, reference, self._site.unit, same_ground=entry.same_ground, others=others
        )

    @carried
    def suspected(self, surface: str = SurfaceKey.FORMATION) -> tuple[tuple[str, Suspicion], ...]:
        """Stations of a surface whose newest reading looks misread and nobody has vouched for."""
        survey = self.of(surface)
        newest = self._readings.newest(surface)
        in_order = {name: newest[name] for name in survey.answers if name in newest}
        return tuple(survey.looks_misread(in_order, self._levels.against, self._site.unit))

    def findings(self, surface: str) -> Iterator[Finding]:
        """What holds a surface as shot, station by station, before anything is asked of it as a whole."""
        yield from self.of(surface).findings
        yield from misread_finding(self.suspected(surface))

    def more_findings(self, surface: str) -> Iterator[Finding]:
        """What else holds it: the runs its readings hang on, falls by straightedge, how thick the base came out."""
        yield from self._run_findings(surface)
        yield from (a.finding for a in self.falls.values() if a.check.surface == surface and a.finding)
        if surface == SurfaceKey.BASE:
            yield from thin_findings(self.of(surface), self.formation)

    def _run_findings(self, surface: str) -> Iterator[Finding]:
        """Runs of the level that do not close or were never closed, of those the newest readings on this surface hang
        on."""
        runs = self._levels.runs
        used = self._readings.newest(surface)
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
                      {"n": len(closing.chain)}, one="at most {allowed} over {n} set-up"),
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
                          {"n": len(closing.chain)}, one="at most {allowed} over {n} set-up"),
                    "If it was not misread, the level had moved and was moved back.",
                    "Correct the sight if its figures are known; if anyone touched the tripod, shoot these again.",
                    Source.PRACTICE,
                    tuple(rest),
                )  # fmt: skip
        if open_runs := runs.open_runs((key, r.id) for key, r in self._readings.newest_from(surface).items()):
            yield Finding(
                "R02",
                Severity.WARNING,
                Words(
                    "{n} runs of the level not closed",
                    counts={"n": len(open_runs)},
                    one="{n} run of the level not closed",
                ),
                Words("a last sight on a mark of known level"),
                "A knocked tripod or a misread backsight shows only at the close.",
                "Before packing up, sight a mark once more.",
                Source.PRACTICE,
            )


def _against(event: Event) -> str:
    return event.set_up if isinstance(event, Reading) else ""


def _goes_on(before: tuple[Event, ...], now: tuple[Event, ...]) -> bool:
    """Whether the same happened first."""
    return before is now or (len(before) <= len(now) and all(map(is_, before, now)))
