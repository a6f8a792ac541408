"""What was seen? Answers to a stage's questions, its checks and photos."""

from groundwork.observations.kinds import (
    Gauged,
    Observed,
    Pictured,
    Seen,
    Witness,
)

__all__ = [
    "Gauged",
    "Observed",
    "Pictured",
    "Seen",
    "Witness",
]
