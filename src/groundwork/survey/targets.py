"""What should be read next, and what it will come to, whatever it is."""

from collections.abc import Callable

from groundwork.base import SurfaceKey
from groundwork.levels import Levels, Reference
from groundwork.survey.readings import Readings
from groundwork.survey.surveys import Surveys
from groundwork.verdict import Account, Foreseen, Foretold, Judgement, Outcomes, Reworked, foretold

MOST_OUTCOMES = 4096
"""So many are kept from step to step, then begun anew."""


class Targets:
    """The next reading at each station of each surface; `before` are the targets of the same site a step ago."""

    def __init__(self, levels: Levels, readings: Readings, surveys: Surveys, before: "Targets | None" = None) -> None:
        self._levels, self._readings, self._surveys = levels, readings, surveys
        self._known: dict[tuple[str, str, str, bool, tuple[float, ...]], Foretold | None] = {}
        self._outcomes: dict[tuple[str, Reworked, int], dict[int, Outcomes]] = {}
        """What readings come to where a place has seen the same, by surface, what was made there and how many shots
        it is then: a matter of the site alone, whatever was recorded since."""
        if before is not None and len(before._outcomes) < MOST_OUTCOMES:
            self._outcomes = before._outcomes

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
        if key not in self._known:
            survey = self._surveys.of(surface)
            place = survey.answers[station].station
            account = self._account(station, surface, reference, before)
            shots = account.shots + 1 if same_ground else 1
            like = self._outcomes.setdefault((surface, account.made if same_ground else account.closed, shots), {})

            def read(reading: float) -> Account | None:
                sights = self._readings.sights(reference, reading, place)
                return account.shot(sights, same_ground) if sights else None

            def judged(reading: float) -> Judgement | None:
                after = read(reading)
                return after.judgement if after else None

            def measured(reading: float) -> Foreseen | None:
                after = read(reading)
                return Foreseen(*after.measured) if after else None

            self._known[key] = foretold(judged, measured, survey.tolerance, like)
        return self._known[key]

    def judging(
        self,
        station: str,
        surface: str,
        reference: Reference,
        same_ground: bool = False,
        before: tuple[float, ...] = (),
    ) -> Callable[[float], Judgement | None]:
        """The judgement of a station as a function of what is read there next, metres; None where nothing can be."""
        account = self._account(station, surface, reference, before)
        place = self._surveys.of(surface).answers[station].station

        def judged(reading: float) -> Judgement | None:
            sights = self._readings.sights(reference, reading, place)
            return account.shot(sights, same_ground).judgement if sights else None

        return judged

    def _account(self, station: str, surface: str, reference: Reference, before: tuple[float, ...]) -> Account:
        """What happened at a station, and what was read there `before`, each on ground worked on since."""
        survey = self._surveys.of(surface)
        account = survey.accounts[station]
        for reading in before:
            account = account.shot(self._readings.sights(reference, reading, survey.answers[station].station))
        return account
