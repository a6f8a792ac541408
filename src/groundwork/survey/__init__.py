"""What does a surface read, station by station? And does the dig, a fall, a level hold."""

from groundwork.survey.fallcheck import (
    SHARE,
    FallAnswer,
    FallCall,
)
from groundwork.survey.readings import (
    Readings,
)
from groundwork.survey.shots import (
    StationAnswer,
    station_evidence,
)
from groundwork.survey.survey import (
    Survey,
)
from groundwork.survey.surveys import (
    Surveys,
)
from groundwork.survey.targets import (
    Targets,
)
from groundwork.survey.tops import (
    SettingRule,
    Top,
    TopOutcome,
    misread_top,
)

__all__ = [
    "SHARE",
    "FallAnswer",
    "FallCall",
    "Readings",
    "SettingRule",
    "StationAnswer",
    "Survey",
    "Surveys",
    "Targets",
    "Top",
    "TopOutcome",
    "misread_top",
    "station_evidence",
]
