"""What should be read next, and what it will come to, whatever it is."""

from collections.abc import Callable

from groundwork.base import SurfaceKey
from groundwork.levels import Levels, Reference
from groundwork.survey.readings import Readings
from groundwork.survey.surveys import Surveys
from groundwork.verdict import Foretold, Judgement, Outcomes, Shot, foretold, judge


class Targets:
    """The next reading at each station of each surface."""

    def __init__(self, levels: Levels, readings: Readings, surveys: Surveys) -> None:
        self._levels, self._readings, self._surveys = levels, readings, surveys
        self._known: dict[tuple[str, str, str, bool, tuple[float, ...]], Foretold | None] = {}
        self._outcomes: dict[tuple[str, int], dict[float, Outcomes]] = {}
        """What readings of untouched places come to, by surface, how many there were before, and guard."""

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
            judged = self.judging(station, surface, reference, same_ground, before)
            fresh = not self._readings.at(station, surface)
            outcomes = self._outcomes.setdefault((surface, len(before)), {}) if fresh else None
            self._known[key] = foretold(judged, self._surveys.of(surface).tolerance, outcomes)
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
        survey = self._surveys.of(surface)
        answer = survey.answers[station]
        history = self._readings.history(answer.station, surface)
        for reading in before:
            history.append(Shot(self._readings.sights(reference, reading, answer.station)))

        def judged(reading: float) -> Judgement | None:
            sights = self._readings.sights(reference, reading, answer.station)
            last = history[-1] if history else None
            if not sights:
                return None
            if same_ground and isinstance(last, Shot):
                after = [*history[:-1], Shot(last.sights + sights)]
            else:
                after = [*history, Shot(sights)]
            return judge(after, answer.design, survey.tolerance, survey.surface.kind)

        return judged
