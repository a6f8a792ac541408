"""Is it good? A deviation against its limits with what it is sure to, before and after it is read."""

from groundwork.verdict.account import (
    Account,
    Aim,
    Filling,
    Reworked,
    Shot,
    judge,
)
from groundwork.verdict.foretelling import (
    FAR,
    Foretold,
    Outcomes,
    foretold,
    order,
)
from groundwork.verdict.judgement import (
    COVERAGE,
    FILL_LIFT,
    SIMPLE,
    STONE_WORK,
    WORK,
    Judgement,
    Sight,
    Standing,
    alone,
)
from groundwork.verdict.misread import (
    OTHER_SET_UP,
    TYPED_TWICE,
    Expectation,
    Surroundings,
    Suspicion,
    expectation,
    suspect,
)

__all__ = [
    "COVERAGE",
    "FAR",
    "FILL_LIFT",
    "OTHER_SET_UP",
    "SIMPLE",
    "STONE_WORK",
    "TYPED_TWICE",
    "WORK",
    "Account",
    "Aim",
    "Expectation",
    "Filling",
    "Foretold",
    "Judgement",
    "Outcomes",
    "Reworked",
    "Shot",
    "Sight",
    "Standing",
    "Surroundings",
    "Suspicion",
    "alone",
    "expectation",
    "foretold",
    "judge",
    "order",
    "suspect",
]
