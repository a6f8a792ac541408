"""What was seen? Answers to a stage's questions, and photos."""

from groundwork.observations.kinds import (
    Gauged,
    Observation,
    Observed,
    Pictured,
    Seen,
)

__all__ = [
    "Gauged",
    "Observation",
    "Observed",
    "Pictured",
    "Seen",
]
