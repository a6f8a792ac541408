"""Where one is on Ground: at which station of which surface."""

from dataclasses import dataclass
from typing import Any

from django.utils.http import urlencode
from django.utils.translation import gettext as _

from groundwork.assess import Assessment
from groundwork.job import Job
from groundwork.measures import MeasureError, in_words
from groundwork.plan import place
from groundwork.surfaces import Point
from groundwork.survey import Survey
from groundwork.verdict import Standing


@dataclass(frozen=True)
class Place:
    surface: str
    station: str

    def query(self, **more: str) -> str:
        """The address of a station, as a query."""
        return "?" + urlencode({"surface": self.surface, "station": self.station} | more)


def chosen(query: Any, assessment: Assessment) -> Place:
    """The station asked for, or where to begin: the first not shot, else the first that holds the surface."""
    asked = query.get("surface")
    surface = asked if asked in {s.key for s in assessment.surveys.levelled} else assessment.surface_in_hand
    survey = assessment.surveys.of(surface)
    station = query.get("station")
    return Place(surface, str(station) if station in survey.answers else begin(survey))


def begin(survey: Survey) -> str:
    answers = survey.answers
    unshot = (name for name, a in answers.items() if a.judgement.standing is Standing.UNSHOT)
    unsound = (name for name, a in answers.items() if not a.judgement.standing.is_sound)
    return next(unshot, None) or next(unsound, None) or next(iter(answers))


def spot(job: Job, text: str, default: Point, wrong: dict[str, str], name: str) -> Point:
    """The place people mean by a station's name, a corner, a side or coordinates; `default` where nothing is typed,
    and where it is none, which is then said in `wrong` under `name`."""
    if not text.strip():
        return default
    stations = {station.name: station.at for station in job.stations}
    if text.strip().upper() in stations:
        return stations[text.strip().upper()]
    try:
        return place(text, job.outline, job.unit, job.ring.middle)
    except MeasureError as error:
        wrong[name] = in_words(error, job.unit, _)
        return default
