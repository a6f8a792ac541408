"""Where one is on Ground: at which station of which surface."""

from dataclasses import dataclass
from typing import Any

from django.utils.http import urlencode

from groundwork.assess import Assessment
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
    surface = asked if asked in {s.key for s in assessment.surfaces} else assessment.surface_in_hand
    survey = assessment.survey(surface)
    station = query.get("station")
    return Place(surface, str(station) if station in survey.answers else begin(survey))


def begin(survey: Survey) -> str:
    answers = survey.answers
    unshot = (name for name, a in answers.items() if a.judgement.standing is Standing.UNSHOT)
    unsound = (name for name, a in answers.items() if not a.judgement.standing.is_sound)
    return next(unshot, None) or next(unsound, None) or next(iter(answers))
