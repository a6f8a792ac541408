"""What should be read next, and what it will come to, whatever it is."""

from collections.abc import Callable
from typing import NamedTuple

from groundwork.base import SurfaceKey
from groundwork.levels import Levels, Reference
from groundwork.plan import Station
from groundwork.survey.readings import Readings
from groundwork.survey.survey import Survey
from groundwork.survey.surveys import Surveys
from groundwork.verdict import Account, Foretold, Judgement, Outcomes, Reworked, alone, foretold, order

MOST_OUTCOMES = 4096
"""So many are kept from step to step, then begun anew."""
MOST_FORETOLD = 40_000
"""Readings foretold that are kept from step to step."""


Asked = tuple[str, str, str, bool, tuple[float, ...]]
"""Station, surface, reference, whether on the same ground, and what was read there before."""


class NextShot(NamedTuple):
    """The deviation that a reading of nought comes to, and how far clear of the limits one reading is judged, and two
    on the same ground, metres. Where two are `like`, the same is said of the same deviation."""

    offset: float
    once: float
    again: float
    like: tuple[Reworked, int, int]


class Targets:
    """The next reading at each station of each surface; `before` are the targets of the same site a step ago."""

    def __init__(self, levels: Levels, readings: Readings, surveys: Surveys, before: "Targets | None" = None) -> None:
        self._levels, self._readings, self._surveys = levels, readings, surveys
        self._known: dict[Asked, tuple[Account, Reference, Foretold | None]] = {}
        """What was foretold, with what it was foretold from: it stands as long as both are the same."""
        self._outcomes: dict[tuple[str, Reworked, int], dict[int, Outcomes]] = {}
        """What readings come to where a place has seen the same, by surface, what was made there and how many shots
        it is then: a matter of the site alone, whatever was recorded since."""
        if before is not None and len(before._outcomes) < MOST_OUTCOMES:
            self._outcomes = before._outcomes
        if before is not None and len(before._known) < MOST_FORETOLD:
            self._known = before._known

    def at(
        self, station: str, surface: str = SurfaceKey.FORMATION, reference: Reference | None = None
    ) -> float | None:
        """What should be read at a station, metres, against the present reference or another; None where nothing can
        be."""
        survey = self._surveys.of(surface)
        return survey.target(survey.answers[station].station, reference or self._levels.present)

    def loose(self, station: str, surface: str, raised: float) -> float | None:
        """What should be read at a station on stone that lies `raised` metres above where it will once compacted."""
        survey, reference = self._surveys.of(surface), self._levels.present
        spot = reference.spot(survey.answers[station].station.at) if reference else None
        return reference.target(spot, survey.level(spot) + raised) if reference and spot else None

    def next_shots(self, surface: str, reference: Reference) -> dict[str, NextShot | None]:
        """How the next shot at each station will be judged; None where nothing can be read."""
        survey = self._surveys.of(surface)
        found: dict[str, NextShot | None] = dict.fromkeys(survey.answers)
        alike: dict[tuple[float, float], tuple[float, float, int, int]] = {}
        for name, answer in survey.answers.items():
            for sight in self._readings.sights(reference, 0.0, answer.station):
                sure = sight.reading_u, sight.shared_u
                if sure not in alike:
                    once, again = alone(sight, 1), alone(sight, 2)
                    alike[sure] = once, again, order(survey.tolerance, once), order(survey.tolerance, again)
                once, again, first, second = alike[sure]
                like = survey.accounts[name].closed, first, second
                found[name] = NextShot(sight.level - answer.design, once, again, like)
        return found

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
        survey = self._surveys.of(surface)
        account = survey.accounts[station]
        known = self._known.get(key)
        if known is None or known[0] is not account or known[1] is not reference:
            made = self._foretold(survey, station, reference, same_ground, before)
            known = self._known[key] = account, reference, made
        return known[2]

    def _foretold(
        self, survey: Survey, station: str, reference: Reference, same_ground: bool, before: tuple[float, ...]
    ) -> Foretold | None:
        place = survey.answers[station].station
        nought, one = (self._readings.sights(reference, reading, place) for reading in (0.0, 1.0))
        if not nought or not one:
            return None
        account = self._account(survey, station, reference, before)
        shots = account.shots + 1 if same_ground else 1
        made = account.made if same_ground else account.closed
        like = self._outcomes.setdefault((str(survey.surface.key), made, shots), {})
        foreseen = account.foreseen(nought[0], one[0], same_ground)
        return foretold(self._judging(account, reference, place, same_ground), foreseen, survey.tolerance, like)

    def judging(
        self,
        station: str,
        surface: str,
        reference: Reference,
        same_ground: bool = False,
        before: tuple[float, ...] = (),
    ) -> Callable[[float], Judgement | None]:
        """The judgement of a station as a function of what is read there next, metres; None where nothing can be."""
        survey = self._surveys.of(surface)
        account = self._account(survey, station, reference, before)
        return self._judging(account, reference, survey.answers[station].station, same_ground)

    def _judging(
        self, account: Account, reference: Reference, place: Station, same_ground: bool
    ) -> Callable[[float], Judgement | None]:
        def judged(reading: float) -> Judgement | None:
            sights = self._readings.sights(reference, reading, place)
            return account.shot(sights, same_ground).judgement if sights else None

        return judged

    def _account(self, survey: Survey, station: str, reference: Reference, before: tuple[float, ...]) -> Account:
        """What happened at a station, and what was read there `before`, each on ground worked on since."""
        account = survey.accounts[station]
        for reading in before:
            account = account.shot(self._readings.sights(reference, reading, survey.answers[station].station))
        return account
