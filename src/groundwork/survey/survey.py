"""One surface as shot: every station judged, what is left, and what looks misread."""

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import cached_property

import numpy as np

from groundwork.base import LEAST_OF_BASE, Surface, SurfaceKey, Tolerance
from groundwork.entries import Reading
from groundwork.job import Job
from groundwork.levels import LineOfSight, Reference
from groundwork.measures import Finding, Measured, Severity, Source, Unit, Words
from groundwork.plan import Station
from groundwork.surfaces import Point
from groundwork.survey.dig import formation_findings
from groundwork.survey.shots import StationAnswer, unshot_finding
from groundwork.verdict import (
    COVERAGE,
    SIMPLE,
    Account,
    Expectation,
    Standing,
    Surroundings,
    Suspicion,
    suspect,
)

LEAST_SPREAD = 0.0025
"""Shots of the same ground differ by no less than this before one is doubted, metres a standard deviation."""


class Survey:
    """A levelled surface of a job's `site`. `accounts` is what happened at each station on this surface, `before` the
    surface as it was a step ago."""

    def __init__(
        self,
        surface: Surface,
        tolerance: Tolerance,
        site: Job,
        accounts: Mapping[str, Account],
        before: "Survey | None" = None,
    ) -> None:
        self.surface = surface
        self.tolerance = tolerance
        self.accounts = accounts
        self._level = site.design.level
        known = before.accounts if before else {}
        self.answers: dict[str, StationAnswer] = {
            station.name: before.answers[station.name]
            if before and known[station.name] is accounts[station.name]
            else StationAnswer(station, top, top - surface.depth, accounts[station.name].judgement)
            for station, top in zip(site.stations, site.finished, strict=True)
        }

    def level(self, spot: Point) -> float:
        """The design level of this surface at a place."""
        known = self._designed.get(spot)
        return self._level(spot) - self.surface.depth if known is None else known

    @cached_property
    def _designed(self) -> dict[Point, float]:
        return {answer.station.at: answer.design for answer in self.answers.values()}

    @cached_property
    def shot_count(self) -> int:
        return sum(a.judgement.standing is not Standing.UNSHOT for a in self.answers.values())

    @cached_property
    def left(self) -> int:
        return len(self.answers) - self.shot_count

    @cached_property
    def unsound(self) -> int:
        """How many were shot and are not good."""
        return sum(
            a.judgement.standing is not Standing.UNSHOT and not a.judgement.standing.is_sound
            for a in self.answers.values()
        )

    def to_walk(self, after: str, reaches: Callable[[Station], bool] = lambda _station: True) -> list[str]:
        """The stations still to be shot, in walking order from the one after `after`; those that can be reached."""
        names = list(self.answers)
        place = names.index(after)
        onward = names[place + 1 :] + names[:place]
        return [
            n
            for n in onward
            if self.answers[n].judgement.standing is Standing.UNSHOT and reaches(self.answers[n].station)
        ]

    def next_station(self, after: str, reaches: Callable[[Station], bool] = lambda _station: True) -> str:
        """The next station that still wants shooting and can be; once all are shot, the next that is not as it should
        be; else simply the next."""
        names = list(self.answers)
        onward = names[names.index(after) + 1 :] + names[: names.index(after)]
        out = (
            n for n in onward if not self.answers[n].judgement.standing.is_sound and reaches(self.answers[n].station)
        )
        return next(iter(self.to_walk(after, reaches)), None) or next(out, onward[0] if onward else after)

    def target(self, station: Station, reference: Reference | None) -> float | None:
        """What should be read at a station against `reference`; None where nothing can be."""
        spot = reference.spot(station.at) if reference else None
        return reference.target(spot, self.level(spot)) if reference and spot else None

    def misreads(
        self,
        station: str,
        typed: Measured,
        reference: Reference,
        unit: Unit,
        *,
        same_ground: bool = False,
        others: Sequence[tuple[str, float]] = (),
        expected: Expectation | None = None,
    ) -> Suspicion | None:
        """Whether a reading about to be recorded looks misread; `expected` is what lies around, where it is known."""
        answer = self.answers[station]
        spot = reference.spot(answer.station.at)
        target = self.target(answer.station, reference)
        if spot is None or target is None:
            return None
        expected = expected or self._expectations([station])[0]
        upward = -1.0 if self._reads_down(reference, spot) else 1.0
        judgement = answer.judgement
        if same_ground and judgement.deviation is not None and judgement.uncertainty is not None:
            fits, spread = target + upward * judgement.deviation, max(2 * judgement.uncertainty, LEAST_SPREAD)
        else:
            fits, spread = target + upward * expected.deviation, expected.spread
        at = reference.set_up.at if isinstance(reference, LineOfSight) else None
        sight = math.dist(at, spot) if at else None
        return suspect(typed.raw, typed.metres, fits, spread, unit, sight, others)

    @staticmethod
    def _reads_down(reference: Reference, spot: Point) -> bool:
        """Whether more is read where the surface is lower: all but a height meter."""
        low, high = reference.target(spot, 0.0), reference.target(spot, 1.0)
        return low is not None and high is not None and high < low

    @cached_property
    def _known(self) -> tuple[dict[str, int], Surroundings]:
        """The stations whose deviation is known, each with its number, and what they tell of places among them."""
        known = {n: a for n, a in self.answers.items() if a.judgement.deviation is not None}
        places = np.array([a.station.at for a in known.values()]).reshape(-1, 2)
        deviations = np.array([a.judgement.deviation for a in known.values()], dtype=float)
        roughness = (self.tolerance.high + self.tolerance.low) / 4
        return {name: n for n, name in enumerate(known)}, Surroundings(places, deviations, roughness)

    def _expectations(self, stations: Sequence[str]) -> list[Expectation]:
        """What lies around makes of each of `stations`."""
        numbers, around = self._known
        places = [self.answers[name].station.at for name in stations]
        return around.expected(places, [numbers.get(name, -1) for name in stations])

    def looks_misread(self, readings: dict[str, Reading], reference: Callable[[Reading], Reference | None], unit: Unit
    ) -> Iterator[tuple[str, Suspicion]]:  # fmt: skip
        """The stations whose newest reading looks misread and nobody has vouched for; sound ones do not."""
        doubted = {
            name: (entry, against)
            for name, entry in readings.items()
            if not entry.sure
            and not (standing := self.answers[name].judgement.standing).is_sound
            and standing is not Standing.UNSHOT
            and (against := reference(entry))
        }
        expected = self._expectations(list(doubted))
        for (name, (entry, against)), around in zip(doubted.items(), expected, strict=True):
            if found := self.misreads(name, entry.reading, against, unit, expected=around):
                yield name, found

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """What holds the surface: the D rules on the formation, level by level on any other."""
        if self.surface.kind is SurfaceKey.FORMATION:
            return tuple(formation_findings(self.answers.values(), self.tolerance))
        return tuple(self._level_findings())

    def _level_findings(self) -> Iterator[Finding]:
        rule = "F01" if self.surface.kind in (SurfaceKey.SCREED, SurfaceKey.BEDDING, SurfaceKey.FINISHED) else "L06"
        sure = "" if self.surface.kind in SIMPLE else ", sure of it"
        limits = {"high": self.tolerance.high, "low": self.tolerance.low}
        limit = Words("{high} above to {low} below design" + sure, limits=limits)
        for standing, found, cure in (
            (Standing.HIGH, "{n} too high, up to {worst}", "Take it down to the target and shoot again."),
            (Standing.LOW, "{n} too low, up to {worst}", "Make it up as each station says and shoot again."),
            (Standing.TOO_CLOSE, "{n} too close to the limit to call", "Shoot again, or work towards design."),
            (Standing.UNKNOWN, "{n} read from what no longer holds", "Shoot again."),
        ):
            at = [a for a in self.answers.values() if a.judgement.standing is standing]
            if at:
                worst = max(abs(a.judgement.deviation or 0.0) for a in at)
                why = "What is laid on it follows it: the bedding is no place to make up a base."
                words = Words(found, {"worst": worst}, {"n": len(at)})
                names = tuple(a.station.name for a in at)
                near = standing is Standing.TOO_CLOSE and self.surface.kind in SIMPLE
                severity = Severity.WARNING if near else Severity.STOP
                yield Finding(rule, severity, words, limit, why, cure, Source.MEMORY, names)
        if missing := unshot_finding(tuple(self.answers.values())):
            yield missing


def thin_findings(base: Survey, formation: Survey) -> Iterator[Finding]:
    """Where the base as a whole is thinner than specified by more than it may be, sure of it."""
    specified = formation.surface.depth - base.surface.depth
    thin, least = [], specified
    for name, top in base.answers.items():
        upper, lower = top.judgement, formation.answers[name].judgement
        if upper.level is None or lower.level is None or upper.uncertainty is None or lower.uncertainty is None:
            continue
        thickness = upper.level - lower.level
        if thickness + COVERAGE * math.hypot(upper.uncertainty, lower.uncertainty) < specified - LEAST_OF_BASE:
            thin.append(name)
            least = min(least, thickness)
    if thin:
        yield Finding(
            "L06",
            Severity.STOP,
            Words("base too thin at {n}, down to {least}", {"least": least}, {"n": len(thin)}),
            Words("at least {limit}", {"limit": specified - LEAST_OF_BASE}),
            "A thin base carries less there, however level its top is.",
            "Take it up there, trim the formation and put the base back in lifts.",
            Source.MEMORY,
            tuple(thin),
        )


def misread_finding(suspected: Sequence[tuple[str, Suspicion]]) -> Iterator[Finding]:
    if suspected:
        yield Finding(
            "M01",
            Severity.WARNING,
            Words("{n} readings look misread", counts={"n": len(suspected)}, one="{n} reading looks misread"),
            Words("within what lies around, or read twice"),
            "A misread that is believed is dug, filled and paid for.",
            "Shoot them again, or strike out what was misread.",
            Source.PRACTICE,
            tuple(name for name, _found in suspected),
        )
