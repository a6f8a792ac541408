"""What does a surface read, station by station? And does the dig, a fall, a level hold."""

from groundwork.survey.fallcheck import (
    SHARE,
    FallAnswer,
    FallCall,
    fall_answer,
)
from groundwork.survey.shots import (
    StationAnswer,
    station_evidence,
)
from groundwork.survey.survey import (
    Survey,
    misread_finding,
    thin_findings,
)

__all__ = [
    "SHARE",
    "FallAnswer",
    "FallCall",
    "StationAnswer",
    "Survey",
    "fall_answer",
    "misread_finding",
    "station_evidence",
    "thin_findings",
]
