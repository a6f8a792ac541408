"""How is such a base usually built? One data file a school, and the questions its stages ask."""

from groundwork.schools.book import (
    BRIEF,
    EXCAVATION,
    PROOF,
    SET_OUT,
    Ask,
    Slot,
    Stage,
    rechecks,
    stagebook,
)
from groundwork.schools.catalogue import (
    Fabric,
    School,
    Water,
    school,
    schools,
)

__all__ = [
    "BRIEF",
    "EXCAVATION",
    "PROOF",
    "SET_OUT",
    "Ask",
    "Fabric",
    "School",
    "Slot",
    "Stage",
    "Water",
    "rechecks",
    "school",
    "schools",
    "stagebook",
]
